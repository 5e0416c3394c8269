"""A rendered frame as a picture file: channels, and what the file says about itself."""

from __future__ import annotations

import numpy as np

from hasty_reel.bench.render import Rendered
from hasty_reel.bench.settings import Settings, settings_hash
from hasty_reel.pictures.frame import Picture


def as_picture(rendered: Rendered, frame: float, settings: Settings, seed: int | None = None) -> Picture:
    """Return the picture of a rendered frame with guides, sample count and attributes.

    Parameters
    ----------
    rendered : light and guides
    frame : its number; between two frames it may have a fraction
    settings : how the frame is rendered
    seed : number that is written into the attributes
    """
    guides = dict(rendered.guides)
    if guides or settings.adaptive:
        guides["samples"] = rendered.counts.astype(np.float32)
    attributes = {
        "hr:seconds": rendered.load_seconds + rendered.cache_seconds + rendered.sample_seconds,
        "hr:cache_seconds": rendered.cache_seconds,
        "hr:load_seconds": rendered.load_seconds,
        "hr:sample_seconds": rendered.sample_seconds,
        "hr:samples": round(float(rendered.counts.mean())),
        "hr:seed": str(settings.seed if seed is None else seed),
        "hr:steps": settings.steps,
        "hr:recipe": settings_hash(settings),
        "hr:frame": f"{frame:.10g}",
    }
    return Picture(rendered.rgb, guides, attributes)
