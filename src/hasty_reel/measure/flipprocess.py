"""FLIP in a process of its own.

The library holds the interpreter's lock while it computes, seconds for a large picture:
in a thread beside a window, the window would stand still. `python -m hasty_reel.measure.flipprocess`
is the other end: two arrays and the pixels a degree come in, the map goes out.
"""

from __future__ import annotations

import io
import subprocess
import sys

import numpy as np

from hasty_reel.errors import PictureError
from hasty_reel.measure.difference import evaluate_flip, shown_codes
from hasty_reel.ownprocess import own_module

LONGEST_SECONDS = 600


def flip_in_process(a: np.ndarray, b: np.ndarray, pixels_a_degree: float, view: str | None = None) -> np.ndarray:
    """FLIP of two pictures as `difference.flip` has it, computed in another process, (h, w).

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    pixels_a_degree : pixels a degree of these pixels, as they are seen
    view : display view; None for the plain one, which clips and has no tone curve

    Raises
    ------
    PictureError
        When the other process fails or takes longer than ten minutes.
    """
    sent = io.BytesIO()
    np.savez(sent, a=shown_codes(a, view), b=shown_codes(b, view), density=np.float64(pixels_a_degree))
    command = own_module("hasty_reel.measure.flipprocess")
    try:
        done = subprocess.run(command, input=sent.getvalue(), capture_output=True, cwd="/", timeout=LONGEST_SECONDS, check=True)
        return np.load(io.BytesIO(done.stdout), allow_pickle=False)
    except (OSError, subprocess.SubprocessError, ValueError) as error:
        raise PictureError(f"FLIP could not be computed ({type(error).__name__}); the other measures stand.") from error


def main() -> None:
    """The other end."""
    got = np.load(io.BytesIO(sys.stdin.buffer.read()), allow_pickle=False)
    answer = io.BytesIO()
    # the library may print: what is printed must not get into the answer
    out, sys.stdout = sys.stdout, sys.stderr
    np.save(answer, evaluate_flip(got["a"], got["b"], float(got["density"])))
    out.buffer.write(answer.getvalue())
    out.buffer.flush()


if __name__ == "__main__":
    main()
