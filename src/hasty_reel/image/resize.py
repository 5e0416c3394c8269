"""Resizing with a windowed sinc, and means over squares of pixels."""

from __future__ import annotations

import cv2
import numpy as np
import OpenImageIO as oiio

from hasty_reel.errors import PictureError

WHITE = 1.0
"""Beside light above display white a sinc rings visibly; below it, its overshoot is sharpness."""


def resize(rgb: np.ndarray, width: int, height: int) -> np.ndarray:
    """Resize (h, w, c) float32 with a three-lobed windowed sinc.

    Near light above display white the result is held within the range of the source
    pixels around, so that a lamp gets no dark ring; no light turns negative anywhere.

    Parameters
    ----------
    rgb : (h, w, c) float32
    width : wanted, in pixels
    height : wanted, in pixels
    """
    h, w = rgb.shape[:2]
    if w == width and h == height:
        return rgb
    source = oiio.ImageBuf(np.ascontiguousarray(rgb, np.float32))
    roi = oiio.ROI(0, width, 0, height, 0, 1, 0, rgb.shape[2])
    out = oiio.ImageBufAlgo.resize(source, filtername="lanczos3", roi=roi)
    if out.has_error:
        raise PictureError(f"Cannot resize to {width}x{height}: {out.geterror()}.")
    pixels = np.asarray(out.get_pixels(oiio.FLOAT))
    pixels = np.maximum(pixels, min(0.0, float(rgb.min())))
    if float(rgb.max()) > WHITE:
        _hold_near_lights(pixels, rgb)
    return pixels.astype(np.float32)


def _hold_near_lights(pixels: np.ndarray, rgb: np.ndarray) -> None:
    """Clip resized pixels, in place, to the range of the source around them where it reaches above white."""
    from scipy.ndimage import maximum_filter, minimum_filter  # slow to import, and not needed to open a window

    h, w = rgb.shape[:2]
    height, width = pixels.shape[:2]
    reach = 2 * int(np.ceil(3 * max(1.0, h / height))) + 1  # as far as the sinc looks
    near = 2 * int(np.ceil(max(1.0, h / height))) + 1
    rows = np.minimum(h - 1, ((np.arange(height) + 0.5) * h / height).astype(int))[:, None]
    columns = np.minimum(w - 1, ((np.arange(width) + 0.5) * w / width).astype(int))[None, :]
    bright = maximum_filter(rgb.max(axis=-1), size=reach)[rows, columns] > WHITE
    low = minimum_filter(rgb, size=(near, near, 1))[rows, columns]
    high = maximum_filter(rgb, size=(near, near, 1))[rows, columns]
    pixels[bright] = np.clip(pixels, low, high)[bright]


def square_means(plane: np.ndarray, times: int) -> np.ndarray:
    """Return the means over squares of `times` x `times` pixels; what is left at the lower and right border is cut off.

    Parameters
    ----------
    plane : (h, w) or (h, w, channels) float32
    times : pixels a side of a square; 1 changes nothing
    """
    if times == 1:
        return plane
    h, w = plane.shape[0] // times * times, plane.shape[1] // times * times
    return cv2.resize(plane[:h, :w], (w // times, h // times), interpolation=cv2.INTER_AREA)
