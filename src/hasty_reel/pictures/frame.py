"""A picture: scene-linear RGB, guides by channel name, attributes; and how it is read from a file that may be anything."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from hasty_reel.errors import PictureError
from hasty_reel.pictures.limits import LARGEST_FILE, need_bounded
from hasty_reel.regularfile import need_regular

COLOUR = ("R", "G", "B")
MOTION = ("motion.X", "motion.Y")
"""Guides that tell where what a pixel shows is in the next frame, from where it is in this one, in pixels across and down."""


@dataclass(frozen=True)
class Picture:
    """One frame.

    rgb : (h, w, 3) float32, scene-linear
    guides : channel name -> (h, w) float32, as `albedo.R`, `normal.X`, `Z`, `motion.X`
    attributes : what the file says about itself, as `hr:seconds`
    """

    rgb: np.ndarray
    guides: Mapping[str, np.ndarray] = field(default_factory=dict)
    attributes: Mapping[str, object] = field(default_factory=dict)

    @property
    def width(self) -> int:
        """Columns."""
        return int(self.rgb.shape[1])

    @property
    def height(self) -> int:
        """Rows."""
        return int(self.rgb.shape[0])

    @property
    def nbytes(self) -> int:
        """Bytes in memory, with its guides."""
        return self.rgb.nbytes + sum(plane.nbytes for plane in self.guides.values())

    def stack(self, *names: str) -> np.ndarray | None:
        """Return the guides of these names as (h, w, n) float32, or None when one is missing.

        Parameters
        ----------
        *names : of the guides
        """
        if any(n not in self.guides for n in names):
            return None
        return np.ascontiguousarray(np.stack([self.guides[n] for n in names], axis=-1), np.float32)

    @property
    def vectors(self) -> np.ndarray | None:
        """Motion to the next frame, (h, w, 2) float32 in pixels across and down; None where the picture has none."""
        return self.stack(*MOTION)


def read_picture(path: Path, wanted: Collection[str] | None = None) -> Picture:
    """Read a picture with all its float channels, mapped by name; with `wanted`, colour and these guides alone, which is quicker.

    Parameters
    ----------
    path : of the file
    wanted : guides that are wanted beside colour; None for all

    Raises
    ------
    PictureError
        When the file is missing, broken, too large, or has no R, G and B.
    """
    pixels, names, attributes = read_planes(path, None if wanted is None else {*COLOUR, *wanted})
    if len(names) == 1:
        rgb = np.repeat(pixels, 3, axis=-1)
        return Picture(rgb, {}, attributes)
    if any(c not in names for c in COLOUR):
        raise PictureError(f"{path}: channels {', '.join(names)}; expected R, G and B among them.")
    rgb = np.ascontiguousarray(pixels[..., [names.index(c) for c in COLOUR]])
    guides = {n: np.ascontiguousarray(pixels[..., k]) for k, n in enumerate(names) if n not in COLOUR}
    return Picture(rgb, guides, attributes)


def read_planes(path: Path, wanted: Collection[str] | None = None) -> tuple[np.ndarray, list[str], dict[str, object]]:
    """Return the channels of a picture as they are: (h, w, n) float32, their names, and the attributes of the file.

    Parameters
    ----------
    path : of the file
    wanted : channels that are needed; those between them in the file may come with them. None: all

    Returns
    -------
    planes : (h, w, n) float32
        The channels as they are in the file.
    names : list of str
        Their names, in that order.
    attributes : dict
        What the head of the file says.

    Raises
    ------
    PictureError
        When the file is missing, broken or too large.
    """
    source = _open(path)
    try:
        spec = source.spec()
        every = list(spec.channelnames)
        places = range(len(every)) if wanted is None else [k for k, n in enumerate(every) if n in wanted] or range(len(every))
        first, past = min(places), max(places) + 1
        pixels = source.read_image(0, 0, first, past, "float")
        fault = _told(source)
        if pixels is None or fault:
            raise PictureError(f"{path}: broken picture ({fault or 'its pixels cannot be read'}).")
        names = every[first:past]
        attributes = _attributes(spec, path, strict=False)
    except UnicodeError as error:
        raise PictureError(f"{path}: broken picture (its head holds bytes that are no text).") from error
    except MemoryError as error:
        raise PictureError(f"{path}: not enough memory for its pixels.") from error
    finally:
        source.close()
    return _shown(np.asarray(pixels, np.float32).reshape(spec.height, spec.width, len(names)), spec), names, attributes


def shown_size(spec: oiio.ImageSpec) -> tuple[int, int]:
    """Return the size of the window that is shown, width and height; a file may hold pixels of a part of it, or beyond it.

    Parameters
    ----------
    spec : what the head of the file says
    """
    return (spec.full_width, spec.full_height) if spec.full_width > 0 and spec.full_height > 0 else (spec.width, spec.height)


def _shown(planes: np.ndarray, spec: oiio.ImageSpec) -> np.ndarray:
    """The window that is shown, of the one that holds pixels: black where there are none, without what lies beyond."""
    width, height = shown_size(spec)
    left, top = spec.x - spec.full_x, spec.y - spec.full_y
    if (left, top, spec.width, spec.height) == (0, 0, width, height):
        return planes
    out = np.zeros((height, width, planes.shape[2]), np.float32)
    x0, y0, x1, y1 = max(0, left), max(0, top), min(width, left + spec.width), min(height, top + spec.height)
    if x1 > x0 and y1 > y0:
        out[y0:y1, x0:x1] = planes[y0 - top : y1 - top, x0 - left : x1 - left]
    return out


@dataclass(frozen=True)
class PictureHeader:
    """What the head of a picture file says: size, channels, attributes."""

    width: int
    height: int
    channels: tuple[str, ...]
    attributes: Mapping[str, object]


def read_header(path: Path, whole: bool = False) -> PictureHeader:
    """Read the head of a picture; with `whole`, its last row too, which finds a file cut short.

    Parameters
    ----------
    path : of the file
    whole : read the last row too

    Raises
    ------
    PictureError
        When the file is missing or cut short.
    """
    source = _open(path)
    try:
        spec = source.spec()
        if whole and _last_row(source, spec) is None:
            raise PictureError(f"{path}: cut short ({_told(source) or 'its last row cannot be read'}).")
        return PictureHeader(*shown_size(spec), tuple(spec.channelnames), _attributes(spec, path, strict=whole))
    except UnicodeError as error:
        raise PictureError(f"{path}: broken picture (its head holds bytes that are no text).") from error
    finally:
        source.close()


def _last_row(source: oiio.ImageInput, spec: oiio.ImageSpec) -> np.ndarray | None:
    """The last row of pixels, or the last tile; None where it is not there."""
    if spec.tile_width:
        x = spec.x + (spec.width - 1) // spec.tile_width * spec.tile_width
        y = spec.y + (spec.height - 1) // spec.tile_height * spec.tile_height
        return source.read_tile(x, y, spec.z, "float")
    y = spec.y + spec.height - 1
    return source.read_scanlines(y, y + 1, spec.z, 0, spec.nchannels, "float")


def _attributes(spec: oiio.ImageSpec, path: Path, strict: bool) -> dict[str, object]:
    """What a file says of itself; bytes that are no text are left out, or refused where `strict` or where they are ours."""
    out: dict[str, object] = {}
    for entry in spec.extra_attribs:
        name = ""
        try:
            name = entry.name
            value = entry.value
            # the library hands bytes that are no text over as lone surrogates
            for text in (name, value):
                if isinstance(text, str):
                    text.encode("utf-8")
            out[name] = value
        except UnicodeError as error:
            if strict or name.startswith("hr:"):
                raise PictureError(f"{path}: broken picture (attribute {name[:40]!a} is no text).") from error
    return out


def _told(source: oiio.ImageInput | None) -> str:
    """What the library says went wrong, on one line; '' where nothing did."""
    try:
        text = source.geterror() if source else oiio.geterror()
    except UnicodeError:
        return "the library's words for it are no text"
    return " ".join(str(text).encode("utf-8", "replace").decode().split()).rstrip(".")


def _open(path: Path) -> oiio.ImageInput:
    need_regular(path, LARGEST_FILE, "a picture", PictureError)
    if path.stat().st_size == 0:
        raise PictureError(f"{path}: is empty; expected a picture.")
    try:
        source = oiio.ImageInput.open(str(path))
    except (UnicodeError, ValueError, RuntimeError) as error:
        raise PictureError(f"{str(path)!a}: cannot be opened as a picture.") from error
    if not source:
        raise PictureError(f"{path}: not a picture ({_told(None) or 'no format fits'}).")
    try:
        need_bounded(path, source.spec())
    except PictureError:
        source.close()
        raise
    return source
