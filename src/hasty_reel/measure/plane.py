"""A picture as it is seen: one plane of lightness, and what in it is no number.

Everything here is measured on L* of the display picture. A pixel that is no finite
number is taken as black and counted, so that one of them cannot spoil a whole frame.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.image.lightness import lightness
from hasty_reel.image.pixels import display_lightness
from hasty_reel.pictures.colour import seen_luminance


@dataclass(frozen=True)
class SeenFrame:
    """A frame as it is seen.

    lightness : (h, w) float32, L* 0..100
    mean_light : mean display luminance 0..1
    bad : pixels that are not finite numbers
    """

    lightness: np.ndarray
    mean_light: float
    bad: int


def seen_frame(rgb: np.ndarray, view: str | None = None) -> SeenFrame:
    """L* of a scene-linear picture (h, w, 3) through a view; None is the plain one.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    view : display view; None for the plain one, which clips and has no tone curve

    Raises
    ------
    WrongInput
        When there is no view of that name.
    """
    rgb = np.ascontiguousarray(rgb, np.float32)
    if view is None:
        return SeenFrame(*display_lightness(rgb))
    bad = ~np.isfinite(rgb).all(axis=-1)
    light = seen_luminance(np.where(bad[..., None], 0.0, rgb).astype(np.float32), view)
    return SeenFrame(lightness(light).astype(np.float32), float(light.mean()), int(bad.sum()))
