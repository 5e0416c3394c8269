"""Delivered sizes: the trade's presets, pixel aspect, and the forward part of a 360-degree picture."""

from __future__ import annotations

import re
from fractions import Fraction

import msgspec

from hasty_reel.errors import WrongInput

SMALLEST, LARGEST = 16, 16384
PRESETS: tuple[tuple[str, int, int], ...] = (
    ("HD", 1920, 1080),
    ("HD 720", 1280, 720),
    ("UHD", 3840, 2160),
    ("UHD 8K", 7680, 4320),
    ("DCI 2K full", 2048, 1080),
    ("DCI 2K flat", 1998, 1080),
    ("DCI 2K scope", 2048, 858),
    ("DCI 4K full", 4096, 2160),
    ("DCI 4K flat", 3996, 2160),
    ("DCI 4K scope", 4096, 1716),
    ("Square", 1080, 1080),
    ("Upright HD", 1080, 1920),
    ("Upright 4:5", 1080, 1350),
)
"""Names and pixels: SMPTE ST 274, ST 296, ST 2036-1 and ST 2048-1 with DCI's containers; the last three by custom."""

_SIZE = re.compile(r"(\d{1,6})\s*[x×*]\s*(\d{1,6})\Z")


class Panorama(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """The delivered picture is the whole sphere, 360 x 180 degrees; only its forward part is rendered.

    width, height : of that part, in degrees; 360 and 180 are all of it
    """

    width: float = 360.0
    height: float = 180.0

    @property
    def share(self) -> float:
        """Share of the sphere's pixels that is rendered: 90 x 90 degrees are 12.5 %."""
        return self.width * self.height / (360.0 * 180.0)


def read_size(text: str) -> tuple[int, int]:
    """Return a size as it is written: 1920x1080, or the name of a preset.

    Parameters
    ----------
    text : as written

    Raises
    ------
    WrongInput
        When it is neither, or out of bounds.
    """
    plain = text.strip()
    for name, width, height in PRESETS:
        if plain.lower() == name.lower():
            return width, height
    match = _SIZE.match(plain.lower())
    if not match:
        raise WrongInput(f"Size '{plain[:40]}'; expected pixels such as 1920x1080, or a preset such as {PRESETS[0][0]}.")
    return checked_size(int(match[1]), int(match[2]))


def checked_size(width: int, height: int) -> tuple[int, int]:
    """Return the size, if it is within bounds.

    Parameters
    ----------
    width : in pixels
    height : in pixels
    """
    for side in (width, height):
        if not SMALLEST <= side <= LARGEST:
            raise WrongInput(f"Size {width} × {height}; expected {SMALLEST} to {LARGEST} pixels each way.")
    return width, height


def preset_name(width: int, height: int) -> str:
    """Return the name of a size in the trade, '' when it has none.

    Parameters
    ----------
    width : in pixels
    height : in pixels
    """
    return next((name for name, w, h in PRESETS if (w, h) == (width, height)), "")


def kept_aspect(width: int | None, height: int | None, aspect: Fraction, pixel_aspect: Fraction) -> tuple[int, int]:
    """Return the size of a given width or height that shows the camera's aspect, sides rounded to even pixels.

    Parameters
    ----------
    width, height : one of them, in pixels; the other is found
    aspect : width / height of what the camera sees
    pixel_aspect : width / height of one pixel
    """
    if width is not None:
        return width, max(2, 2 * round(width * pixel_aspect / aspect / 2))
    assert height is not None
    return max(2, 2 * round(height * aspect / pixel_aspect / 2)), height


def read_aspect(text: str) -> Fraction:
    """Return a pixel aspect as it is written: 1, 2, 1.4587, 64/45.

    Parameters
    ----------
    text : as written

    Raises
    ------
    WrongInput
        When it is not from 1/4 to 4.
    """
    plain = text.strip().replace(",", ".").replace(":", "/")
    try:
        value = Fraction(plain) if len(plain) < 24 else Fraction(0)
    except (ValueError, ZeroDivisionError):
        value = Fraction(0)
    if not Fraction(1, 4) <= value <= 4:
        raise WrongInput(f"Pixel aspect '{text[:40]}'; expected width / height of a pixel, 0.25 to 4, such as 1 or 64/45.")
    return value.limit_denominator(10000)
