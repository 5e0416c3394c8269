"""Resizing with a windowed sinc, and what it does to white noise."""

from __future__ import annotations

import numpy as np
import OpenImageIO as oiio

from hasty_reel.errors import PictureError


def resize(rgb: np.ndarray, width: int, height: int) -> np.ndarray:
    """Resize (h, w, c) float32 with a three-lobed windowed sinc; no value leaves its neighbourhood far.

    A sinc rings beside very bright pixels; the result is held within the range of
    the picture so that no light turns negative.
    """
    if rgb.shape[1] == width and rgb.shape[0] == height:
        return rgb
    source = oiio.ImageBuf(np.ascontiguousarray(rgb, np.float32))
    roi = oiio.ROI(0, width, 0, height, 0, 1, 0, rgb.shape[2])
    out = oiio.ImageBufAlgo.resize(source, filtername="lanczos3", roi=roi)
    if out.has_error:
        raise PictureError(f"Cannot resize to {width}x{height}: {out.geterror()}.")
    pixels = np.asarray(out.get_pixels(oiio.FLOAT))
    return np.clip(pixels, min(0.0, float(rgb.min())), float(rgb.max())).astype(np.float32)


def white_noise_gain(scale: float) -> float:
    """Standard deviation of white noise after resizing from `scale` times the size to 1.

    `scale` is size rendered / size delivered. The mean over all phases of the sum of
    squared weights of the separable three-lobed Lanczos window, in both directions.
    """
    stretch = max(1.0, scale)  # above 1 the filter widens with the source pixels
    gains = []
    for phase in np.linspace(0.0, 1.0, 64, endpoint=False):
        reach = int(np.ceil(3 * stretch)) + 1
        x = (np.arange(-reach, reach + 1) - phase) / stretch
        weights = np.where(np.abs(x) < 3, np.sinc(x) * np.sinc(x / 3), 0.0)
        weights /= weights.sum()
        gains.append(float((weights**2).sum()))
    return 1.0 if scale == 1.0 else float(np.mean(gains))
