"""From scene-linear light to what is seen: display views.

The plain view clips luminance to 0..1 without a tone curve; other views come from
the built-in ACES configuration of OpenColorIO.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import PyOpenColorIO as ocio

from hasty_reel.errors import WrongInput
from hasty_reel.image.luminance import luminance
from hasty_reel.image.srgb import srgb_decode

CONFIG = "cg-config-v5.0.0_aces-v2.1_ocio-v2.6"
LINEAR = "Linear Rec.709 (sRGB)"
DISPLAY = "sRGB - Display"
PLAIN = "Un-tone-mapped"


def seen_luminance(rgb: np.ndarray, view: str | None = None) -> np.ndarray:
    """Display luminance 0..1 through a view; None is the plain one (clip, no tone curve).

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    view : display view; None for the plain one, which clips and has no tone curve
    """
    if view is None:
        return np.clip(luminance(rgb), 0.0, 1.0)
    return luminance(srgb_decode(np.clip(through_view(rgb, view), 0.0, 1.0)).astype(np.float32))


@lru_cache(maxsize=1)
def _config() -> ocio.Config:
    return ocio.Config.CreateFromBuiltinConfig(CONFIG)


def views() -> list[str]:
    """Return the names of the display views there are."""
    return list(_config().getViews(DISPLAY))


@lru_cache(maxsize=16)
def view_processor(view: str) -> ocio.Processor:
    """Return what OpenColorIO does from scene-linear light to code values in a view.

    Parameters
    ----------
    view : display view; None for the plain one, which clips and has no tone curve

    Raises
    ------
    WrongInput
        When there is no view of that name.
    """
    if view not in views():
        raise WrongInput(f"No view '{view}'; expected one of: {', '.join(views())}.")
    return _config().getProcessor(ocio.DisplayViewTransform(src=LINEAR, display=DISPLAY, view=view))


@lru_cache(maxsize=16)
def _on_the_cpu(view: str) -> ocio.CPUProcessor:
    return view_processor(view).getDefaultCPUProcessor()


def through_view(rgb: np.ndarray, view: str = PLAIN) -> np.ndarray:
    """Code values of the sRGB display for scene-linear RGB (h, w, 3) float32; not clipped.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    view : display view; unless told the plain one, which has no tone curve

    Raises
    ------
    WrongInput
        When there is no view of that name.
    """
    out = np.array(rgb, np.float32, order="C", copy=True)
    if out.shape[-1] != 3:
        raise WrongInput(f"A view takes three channels; got {out.shape[-1]}.")
    _on_the_cpu(view).applyRGB(out)
    return out


def codes8(rgb: np.ndarray, view: str = PLAIN) -> np.ndarray:
    """8-bit display codes, clipped, with a fixed dither, so that smooth ramps do not band.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    view : display view; unless told the plain one, which has no tone curve
    """
    return dithered8(through_view(rgb, view))


def dithered8(code: np.ndarray) -> np.ndarray:
    """Code values (h, w, 3) float32, nominally 0..1, as 8 bits with a fixed dither; `code` is used up.

    Parameters
    ----------
    code : (h, w, 3) float32, code values, used up
    """
    np.nan_to_num(code, copy=False, nan=0.0, posinf=1.0, neginf=0.0)
    # in place: a loop of large pictures is made ready at once
    code *= 255.0
    code += dither_of(*code.shape[:2])[..., None]
    np.clip(code, 0.0, 255.0, out=code)
    return code.astype(np.uint8)


@lru_cache(maxsize=4)
def dither_of(rows: int, columns: int) -> np.ndarray:
    """Return a low-discrepancy threshold per pixel (golden-ratio plane), the same in every frame, (rows, columns) float32.

    Parameters
    ----------
    rows, columns : of the picture
    """
    across, down = np.arange(columns)[None, :], np.arange(rows)[:, None]
    return ((0.7548776662 * across + 0.5698402910 * down) % 1.0).astype(np.float32)


def as_codes16(code: np.ndarray) -> np.ndarray:
    """Code values (h, w, 3) float32, nominally 0..1, as 16 bits.

    Parameters
    ----------
    code : (h, w, 3) float32, code values
    """
    clean = np.nan_to_num(code, nan=0.0, posinf=1.0, neginf=0.0)
    return np.clip(np.rint(clean * 65535.0), 0, 65535).astype(np.uint16)
