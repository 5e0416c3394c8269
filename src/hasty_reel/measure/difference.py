"""Where two pictures differ: in light, in L*, in structure (SSIM), and as the eye flips between them (FLIP)."""

from __future__ import annotations

import cv2
import numpy as np

from hasty_reel.errors import WrongInput
from hasty_reel.measure.plane import seen_frame
from hasty_reel.pictures.colour import PLAIN, through_view


def absolute(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Return the largest difference of a channel in scene-linear light, (h, w, 3) twice -> (h, w).

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    """
    _same_size(a, b)
    return np.abs(a - b).max(axis=-1)


def in_lightness(a: np.ndarray, b: np.ndarray, view: str | None = None) -> np.ndarray:
    """L* of the second picture minus that of the first, as displayed, (h, w).

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    view : display view; None for the plain one, which clips and has no tone curve
    """
    _same_size(a, b)
    return seen_frame(b, view).lightness - seen_frame(a, view).lightness


def flip(a: np.ndarray, b: np.ndarray, pixels_a_degree: float, view: str | None = None) -> np.ndarray:
    """FLIP (Andersson et al. 2020) of the displayed pictures, 0..1, (h, w); `a` is the reference.

    The distance matters: what is a pixel apart is not seen from afar.

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    pixels_a_degree : pixels a degree of these pixels, as they are seen
    view : display view; None for the plain one, which clips and has no tone curve
    """
    _same_size(a, b)
    return evaluate_flip(shown_codes(a, view), shown_codes(b, view), pixels_a_degree)


def shown_codes(rgb: np.ndarray, view: str | None) -> np.ndarray:
    """Display codes 0..1 of a picture through a view, (h, w, 3) float32; None is the plain one.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    view : display view; None for the plain one, which clips and has no tone curve
    """
    return np.clip(np.nan_to_num(through_view(rgb, view or PLAIN)), 0.0, 1.0)


def evaluate_flip(a: np.ndarray, b: np.ndarray, pixels_a_degree: float) -> np.ndarray:
    """FLIP of display codes (h, w, 3) twice, (h, w). Holds the interpreter's lock: see `flipprocess`.

    Parameters
    ----------
    a, b : (h, w, 3) float32, display codes 0 to 1
    pixels_a_degree : pixels a degree of these pixels, as they are seen
    """
    import flip_evaluator  # brings SciPy's filters with it: late, off the start-up path

    shown, _, _ = flip_evaluator.evaluate(
        a, b, "LDR", inputsRGB=True, applyMagma=False, computeMeanError=False, parameters={"ppd": pixels_a_degree}
    )
    return np.asarray(shown, np.float32).reshape(a.shape[:2])


def similarity(a: np.ndarray, b: np.ndarray, full: float = 100.0) -> float:
    """Structural similarity, mean over the picture (Wang, Bovik, Sheikh, Simoncelli 2004: Gaussian window of 1.5 pixels, K 0.01 and 0.03).

    Parameters
    ----------
    a, b : (h, w), as L*
    full : the range they can take
    """
    _same_size(a, b)

    def _mean(plane: np.ndarray) -> np.ndarray:
        return cv2.GaussianBlur(plane, (11, 11), 1.5, borderType=cv2.BORDER_REFLECT)

    x, y = a.astype(np.float64), b.astype(np.float64)
    mx, my = _mean(x), _mean(y)
    vx, vy, vxy = _mean(x * x) - mx * mx, _mean(y * y) - my * my, _mean(x * y) - mx * my
    c1, c2 = (0.01 * full) ** 2, (0.03 * full) ** 2
    found = (2 * mx * my + c1) * (2 * vxy + c2) / ((mx * mx + my * my + c1) * (vx + vy + c2))
    # where the window would reach beyond the picture is not counted
    inner = found[5:-5, 5:-5] if min(found.shape) > 10 else found
    return float(inner.mean())


def _same_size(a: np.ndarray, b: np.ndarray) -> None:
    if a.shape != b.shape:
        raise WrongInput(f"Pictures of {a.shape[1]}x{a.shape[0]} and {b.shape[1]}x{b.shape[0]} pixels; expected the same size.")
