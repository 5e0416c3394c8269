"""A rendered frame as a picture file: channels, and what the file says about itself."""

from __future__ import annotations

import hashlib
from dataclasses import fields

import numpy as np

from hasty_reel.bench.render import Rendered
from hasty_reel.bench.settings import Settings
from hasty_reel.pictures.frame import Picture


def settings_hash(settings: Settings) -> str:
    """Twelve hex digits that change with anything that changes the picture but its samples and seed."""
    s = settings
    lines: tuple = (s.bounces, s.ceiling, float(s.angle), s.steps, s.width, s.height, s.crop)
    plain = Settings(s.width, s.height, s.samples)
    fixed = {"width", "height", "samples", "steps", "angle", "bounces", "ceiling", "seed", "crop", "guides", "cap", "keep"}
    # settings that came later count only where they are used, so that older pictures keep their hash
    lines += tuple((f.name, getattr(s, f.name)) for f in fields(s) if f.name not in fixed and getattr(s, f.name) != getattr(plain, f.name))
    return hashlib.sha256(repr(lines).encode()).hexdigest()[:12]


def as_picture(rendered: Rendered, frame: float, settings: Settings, seed: int | None = None) -> Picture:
    """The picture of a rendered frame with guides, sample count and attributes."""
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
