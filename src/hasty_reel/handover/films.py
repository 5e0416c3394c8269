"""Kinds of films: their coders, what each keeps, and how one is asked for."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import av
import numpy as np

from hasty_reel.errors import WrongInput
from hasty_reel.pictures.colour import as_codes16, dithered8
from hasty_reel.pictures.colourspaces import SRGB_CURVE


@dataclass(frozen=True)
class FilmFormat:
    """One kind of film.

    key : on the command line; words : on the screen; ending : of the file; container, codec : of the library
    pixels : of the stream, the usual first; bits : of a colour; lossless : every code comes back as it was
    quality : best, worst, usual of the coder; '' option for none; option : its name in the coder; more : options besides
    """

    key: str
    words: str
    ending: str
    container: str
    codec: str
    pixels: tuple[str, ...]
    bits: int = 8
    lossless: bool = False
    quality: tuple[int, int, int] = (0, 51, 16)
    option: str = "crf"
    more: tuple[tuple[str, str], ...] = ()

    @property
    def there(self) -> bool:
        """Whether the library carries its coder."""
        try:
            av.codec.Codec(self.codec, "w")
        except (ValueError, av.error.FFmpegError):
            return False
        return True


FILMS: tuple[FilmFormat, ...] = (
    FilmFormat("mp4-h264", "H.264, MP4", ".mp4", "mp4", "libx264", ("yuv420p", "yuv444p", "yuv420p10le"), more=(("preset", "medium"),)),
    FilmFormat("mp4-h265", "H.265, MP4", ".mp4", "mp4", "libx265", ("yuv420p10le", "yuv420p"), 10, False, (0, 51, 18),
               more=(("preset", "medium"), ("x265-params", "log-level=error"))),
    FilmFormat("mp4-av1", "AV1, MP4", ".mp4", "mp4", "libsvtav1", ("yuv420p10le", "yuv420p"), 10, False, (0, 63, 24),
               more=(("preset", "8"),)),
    FilmFormat("mov-prores", "ProRes 422 HQ, MOV", ".mov", "mov", "prores_ks", ("yuv422p10le", "yuv444p10le"), 10, False, (0, 0, 0), "",
               more=(("profile", "hq"),)),
    FilmFormat("mkv-ffv1", "FFV1, MKV, 8 bit", ".mkv", "matroska", "ffv1", ("bgr0",), 8, True, (0, 0, 0), "",
               more=(("level", "3"), ("slices", "16"), ("slicecrc", "1"))),
    FilmFormat("mkv-ffv1-16", "FFV1, MKV, 16 bit", ".mkv", "matroska", "ffv1", ("gbrp16le",), 16, True, (0, 0, 0), "",
               more=(("level", "3"), ("slices", "16"), ("slicecrc", "1"))),
)  # fmt: skip
FILM = {f.key: f for f in FILMS}
H264 = FILM["mp4-h264"]
USUAL_GOP = 12


@dataclass(frozen=True)
class FilmOptions:
    """How a film is written. quality : of the coder, None for the usual; gop : frames between key frames; pixels : of the stream, '' for
    the usual; transfer : code point of the curve; sound : a file whose first sound goes along, None for none"""

    quality: int | None = None
    gop: int = USUAL_GOP
    pixels: str = ""
    transfer: int = SRGB_CURVE
    sound: Path | None = None


def checked_film(form: FilmFormat, options: FilmOptions) -> FilmOptions:
    """Return the options, if the format has them.

    Parameters
    ----------
    form : the format
    options : how it is to be written

    Raises
    ------
    WrongInput
        Names what the format does not have.
    """
    if not form.there:
        raise WrongInput(f"{form.words}: the video library here carries no coder for it; expected another format.")
    low, high, _ = form.quality
    if options.quality is not None and (not form.option or not low <= options.quality <= high):
        told = f"{low} (best) to {high}" if form.option else "no quality to choose"
        raise WrongInput(f"{form.words}: quality {options.quality}; expected {told}.")
    if not 1 <= options.gop <= 600:
        raise WrongInput(f"{form.words}: {options.gop} frames between key frames; expected 1 to 600.")
    if options.pixels and options.pixels not in form.pixels:
        raise WrongInput(f"{form.words}: pixels '{options.pixels[:40]}'; expected one of {', '.join(form.pixels)}.")
    return options


def film_codes(codes: np.ndarray, form: FilmFormat) -> np.ndarray:
    """Return display codes as whole numbers a film is written from: eight bits dithered, or sixteen.

    Parameters
    ----------
    codes : (h, w, 3) float32, nominally 0 to 1
    form : of the film

    Returns
    -------
    np.ndarray
        (h, w, 3) uint8 or uint16.
    """
    return dithered8(codes) if form.bits == 8 else as_codes16(codes)
