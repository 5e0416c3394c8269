"""Edits of what is delivered: rate and size."""

from __future__ import annotations

from fractions import Fraction

from hasty_reel.errors import ReelError
from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits.shots import counted
from hasty_reel.reel.edits.whole import replaced, with_fields
from hasty_reel.reel.rate import labels_a_second
from hasty_reel.reel.size import checked_size, kept_aspect


def with_rate(reel: Reel, rate: Fraction) -> Reel:
    """Return the reel at another rate: shots told as a move get the frames it has there, ranges keep theirs.

    Parameters
    ----------
    reel : the reel; it stays as it was
    rate : frames a second, exact
    """
    start = reel.timecode_start if labels_a_second(rate) is not None else "00:00:00:00"
    shots = tuple(counted(s, rate) if s.move is not None else s for s in reel.shots)
    try:
        return checked_reel(replaced(reel, rate=(rate.numerator, rate.denominator), timecode_start=start, shots=shots))
    except ReelError as error:
        raise ReelError(f"Rate not set: {error}") from error


def with_size(reel: Reel, width: int | None, height: int | None) -> Reel:
    """Return the reel at another size; given one side, the other keeps the camera's aspect where the reel has one.

    Parameters
    ----------
    reel : the reel; it stays as it was
    width : in pixels; None keeps the camera's aspect
    height : in pixels; None keeps the camera's aspect

    Raises
    ------
    WrongInput
        When a side is out of bounds.
    """
    if width is None or height is None:
        if reel.camera_aspect is not None:
            width, height = kept_aspect(width, height, Fraction(*reel.camera_aspect), Fraction(*reel.pixel_aspect))
        else:
            width, height = reel.width if width is None else width, reel.height if height is None else height
    width, height = checked_size(width, height)
    aspect = reel.camera_aspect
    if aspect is not None:
        shown = Fraction(width, height) * Fraction(*reel.pixel_aspect)
        aspect = aspect if abs(float(shown / Fraction(*aspect)) - 1) < 0.02 else (shown.numerator, shown.denominator)
    return with_fields(reel, width=width, height=height, camera_aspect=aspect)


def swapped(reel: Reel) -> Reel:
    """Upright instead of level, or back.

    Parameters
    ----------
    reel : the reel; it stays as it was
    """
    turned = reel.camera_aspect and (reel.camera_aspect[1], reel.camera_aspect[0])
    return with_fields(reel, width=reel.height, height=reel.width, camera_aspect=turned)


def keeping_aspect(reel: Reel, keep: bool) -> Reel:
    """Return the reel that keeps the aspect it has now when a side is set, or does not.

    Parameters
    ----------
    reel : the reel; it stays as it was
    keep : whether the aspect is kept
    """
    shown = Fraction(reel.width, reel.height) * Fraction(*reel.pixel_aspect)
    return with_fields(reel, camera_aspect=(shown.numerator, shown.denominator) if keep else None)
