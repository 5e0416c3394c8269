"""A picture: scene-linear RGB, guides by channel name, attributes; read and written whole.

A file gets its final name only when it is complete: it is written beside the
target under another name and moved into place.
"""

from __future__ import annotations

import struct
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from hasty_reel.errors import PictureError
from hasty_reel.wholefile import whole_file

MAX_SIDE = 65536
HALF_MAX = 65000.0
FULL_FLOAT = {"Z", "samples"}
COLOUR = ("R", "G", "B")


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

    def stack(self, *names: str) -> np.ndarray | None:
        """The guides of these names as (h, w, n) float32, or None when one is missing."""
        if any(n not in self.guides for n in names):
            return None
        return np.ascontiguousarray(np.stack([self.guides[n] for n in names], axis=-1), np.float32)


def write_picture(path: Path, picture: Picture) -> None:
    """Write an OpenEXR file: colour and most guides as half floats, depth as float.

    Raises
    ------
    PictureError
        When the folder cannot be written or the disk is full; no file is left then.
    """
    names = [*COLOUR, *picture.guides]
    planes = [picture.rgb, *(g[..., None] for g in picture.guides.values())]
    data = np.ascontiguousarray(np.concatenate(planes, axis=-1), np.float32)
    formats = ["float" if n in FULL_FLOAT else "half" for n in names]
    for k, fmt in enumerate(formats):
        if fmt == "half":
            np.clip(data[..., k], -HALF_MAX, HALF_MAX, out=data[..., k])
    spec = oiio.ImageSpec(picture.width, picture.height, len(names), "half")
    spec.channelnames = tuple(names)
    spec.channelformats = tuple(formats)
    spec.attribute("compression", "zip")
    for key, value in picture.attributes.items():
        # what other programs said of the file they wrote is not ours to repeat
        if key.startswith("hr:") and isinstance(value, str | int | float) and value != "":
            spec.attribute(key, value)
    _write(path, data, spec, "openexr")


def write_png16(path: Path, codes: np.ndarray) -> None:
    """Write display code values (h, w, 3) uint16 as a 16-bit PNG."""
    spec = oiio.ImageSpec(codes.shape[1], codes.shape[0], 3, "uint16")
    spec.attribute("oiio:ColorSpace", "sRGB")
    _write(path, np.ascontiguousarray(codes), spec, "png")


def _write(path: Path, data: np.ndarray, spec: oiio.ImageSpec, kind: str) -> None:
    try:
        with whole_file(path) as part:
            out = oiio.ImageOutput.create(kind)
            if not out or not out.open(str(part), spec):
                raise PictureError(f"Cannot write {path}: {_reason(out)}.")
            good = out.write_image(data)
            if not (out.close() and good):
                raise PictureError(f"Cannot write {path}: {_reason(out)}.")
    except OSError as error:
        raise PictureError(f"Cannot write {path}: {error.strerror or error}.") from error


def _reason(out: oiio.ImageOutput | None) -> str:
    text = (out.geterror() if out else oiio.geterror()) or "the folder does not take files"
    return " ".join(text.split()).rstrip(".")


def read_picture(path: Path, wanted: Collection[str] | None = None) -> Picture:
    """Read a picture with all its float channels, mapped by name; with `wanted`, colour and these guides alone, which is quicker.

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
    """The channels of a picture as they are: (h, w, n) float32, their names, and the attributes of the file.

    Parameters
    ----------
    wanted : channels that are needed; those between them in the file may come with them. None: all

    Raises
    ------
    PictureError
        When the file is missing, broken or too large.
    """
    source = _open(path)
    try:
        spec = source.spec()
        if spec.width > MAX_SIDE or spec.height > MAX_SIDE or spec.nchannels > 256:
            raise PictureError(f"{path}: {spec.width}x{spec.height} with {spec.nchannels} channels is too large.")
        every = list(spec.channelnames)
        places = range(len(every)) if wanted is None else [k for k, n in enumerate(every) if n in wanted] or range(len(every))
        first, past = min(places), max(places) + 1
        pixels = source.read_image(0, 0, first, past, "float")
        fault = source.geterror()
        if pixels is None or fault:
            raise PictureError(f"{path}: broken picture ({' '.join(str(fault).split()).rstrip('.')}).")
        names = every[first:past]
        attributes = {p.name: p.value for p in spec.extra_attribs}
    finally:
        source.close()
    return np.asarray(pixels, np.float32).reshape(spec.height, spec.width, len(names)), names, attributes


@dataclass(frozen=True)
class Header:
    """What the head of a picture file says: size, channels, attributes."""

    width: int
    height: int
    channels: tuple[str, ...]
    attributes: Mapping[str, object]


def read_header(path: Path, whole: bool = False) -> Header:
    """Read the head of a picture; with `whole`, its last row too, which finds a file cut short.

    Raises
    ------
    PictureError
        When the file is missing or cut short.
    """
    source = _open(path)
    try:
        spec = source.spec()
        if whole:
            y = spec.y + spec.height - 1
            row = source.read_scanlines(y, y + 1, spec.z, 0, spec.nchannels, "float")
            if row is None:
                raise PictureError(f"{path}: cut short ({' '.join(source.geterror().split())}).")
        return Header(spec.width, spec.height, tuple(spec.channelnames), {p.name: p.value for p in spec.extra_attribs})
    finally:
        source.close()


def _open(path: Path) -> oiio.ImageInput:
    if not path.is_file():
        raise PictureError(f"{path}: no such picture.")
    try:
        with open(path, "rb") as stream:
            struct.unpack("4s", stream.read(4))
    except (OSError, struct.error) as error:
        raise PictureError(f"{path}: cannot be read ({getattr(error, 'strerror', None) or 'empty file'}).") from error
    source = oiio.ImageInput.open(str(path))
    if not source:
        raise PictureError(f"{path}: not a picture ({' '.join(oiio.geterror().split()).rstrip('.')}).")
    return source
