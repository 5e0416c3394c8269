"""The largest pictures that are read: a few bytes on disk may unfold to more pixels than there is memory.

The bounds are the artist's own setting, kept for the person and not in a reel.
"""

from __future__ import annotations

import os
from functools import cache
from pathlib import Path

import msgspec
import OpenImageIO as oiio
import platformdirs

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.own.jsonfile import read_json, save_json

LARGEST_FILE = 8 << 30
"""Bytes of a picture file; 65,536 pixels square in half floats, uncompressed, are more."""
MAX_SIDE = 65536
MOST_MEGAPIXELS, MOST_CHANNELS = 65536.0, 1024
"""What the setting may be raised to."""
SHARE_OF_MEMORY = 0.5
"""Of this machine's memory, the most that the pixels of one picture may take."""


class PictureLimits(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What is read at most of one picture.

    megapixels : of one channel, in millions of pixels
    channels : colour and guides together
    """

    megapixels: float = 256.0
    channels: int = 64

    @property
    def words(self) -> str:
        """As one says it."""
        return f"{self.megapixels:g} megapixels, {self.channels} channels"


def checked_limits(limits: PictureLimits) -> PictureLimits:
    """Return the limits, if they make sense.

    Parameters
    ----------
    limits : to be looked at

    Returns
    -------
    PictureLimits
        The same.

    Raises
    ------
    WrongInput
        Names what is out of bounds.
    """
    if not 0.01 <= limits.megapixels <= MOST_MEGAPIXELS:
        raise WrongInput(f"Largest picture: {limits.megapixels:g} megapixels; expected 0.01 to {MOST_MEGAPIXELS:g}.")
    if not 1 <= limits.channels <= MOST_CHANNELS:
        raise WrongInput(f"Largest picture: {limits.channels} channels; expected 1 to {MOST_CHANNELS}.")
    return limits


def limits_path() -> Path:
    """Return where the artist's limits are kept."""
    return Path(platformdirs.user_config_dir("hasty-reel")) / "largest-picture.json"


@cache
def current_limits() -> PictureLimits:
    """Return the limits that count, read once in a process.

    Raises
    ------
    WrongInput
        When the file they are kept in cannot be used; names it.
    """
    return read_json(limits_path(), PictureLimits, checked_limits, PictureLimits(), "the largest picture that is read", WrongInput)


def set_limits(limits: PictureLimits) -> None:
    """Keep other limits; they count from now on.

    Parameters
    ----------
    limits : the new ones

    Raises
    ------
    WrongInput
        When they make no sense, or cannot be kept.
    """
    save_json(limits_path(), checked_limits(limits), WrongInput)
    current_limits.cache_clear()


def need_bounded(path: Path, spec: oiio.ImageSpec) -> None:
    """Raise an error where a picture is larger than may be read.

    Parameters
    ----------
    path : of its file, for the words
    spec : what its head says

    Raises
    ------
    PictureError
        When it has too many pixels or channels, or is no flat picture.
    """
    if spec.deep or spec.depth > 1:
        raise PictureError(f"{path}: holds a volume or deep samples; expected a flat picture.")
    # the window that holds pixels, and the one that is shown: either may be the larger
    width, height = max(spec.width, spec.full_width), max(spec.height, spec.full_height)
    size = f"{path}: {width}x{height} pixels with {spec.nchannels} channels"
    if min(spec.width, spec.height, spec.nchannels) < 1 or max(width, height) > MAX_SIDE:
        raise PictureError(f"{size}; expected 1 to {MAX_SIDE} pixels a side.")
    limits = current_limits()
    if width * height > limits.megapixels * 1e6 or spec.nchannels > limits.channels:
        raise PictureError(f"{size} is larger than the largest picture that is read ({limits.words}; 'hasty-reel limits' sets it).")
    if 4.0 * width * height * spec.nchannels > SHARE_OF_MEMORY * os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES"):
        raise PictureError(f"{size} would take more than half of this machine's memory.")
