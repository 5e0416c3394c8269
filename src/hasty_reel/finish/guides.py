"""Channels of a picture besides its light: which denoising uses, and the same at another size."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hasty_reel.finish.surfaces import CHANNELS
from hasty_reel.image.resize import resize
from hasty_reel.pictures.guidesbeside import MOTION, guides_at

ALPHA = "A"
WORKING = frozenset((*CHANNELS, *MOTION, "samples"))
"""Channels that denoising uses; they say nothing of the finished picture and are left behind."""
SMOOTH = frozenset((*CHANNELS, "samples")) - {"Z"}
"""Of these, channels that are interpolated: between two surfaces there is no depth and no motion."""


def others(guides: Mapping[str, np.ndarray]) -> dict[str, np.ndarray]:
    """Return alpha and the other channels that go along into the finished picture.

    Parameters
    ----------
    guides : (h, w) by name
    """
    return {name: plane for name, plane in guides.items() if name not in WORKING}


def guides_resized(guides: Mapping[str, np.ndarray], old: tuple[int, int], new: tuple[int, int]) -> dict[str, np.ndarray]:
    """Return channels at another size; motion is in the pixels of that size, alpha stays within 0 to 1.

    Parameters
    ----------
    guides : (h, w) by name
    old, new : width and height in pixels
    """
    if old == new:
        return dict(guides)
    out = guides_at({name: plane for name, plane in guides.items() if name in WORKING}, old, new, SMOOTH)
    for name, plane in others(guides).items():
        resized = resize(plane[..., None], *new)[..., 0]
        out[name] = np.clip(resized, 0.0, 1.0) if name == ALPHA else resized
    return out
