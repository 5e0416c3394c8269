"""Pictures written to files: whole under their final name, or not there at all.

A picture library that runs out of disk may say that all is well. So a picture is encoded
into memory, where there is always room or a plain error, and its bytes are then written,
counted and flushed by us; only after its head was read back does it get its final name.
"""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from hasty_reel.errors import PictureError, reason
from hasty_reel.pictures.frame import COLOUR, Picture, read_header, shown_size
from hasty_reel.wholefile import whole_file

HALF_MAX = 65000.0
PNG_END = b"\0\0\0\0IEND\xaeB`\x82"
"""The last chunk of every whole PNG (ISO/IEC 15948, section 11.2.5)."""
FULL_FLOAT = {"Z", "samples"}
"""Channels that half floats are too coarse for."""


def write_picture(path: Path, picture: Picture) -> None:
    """Write an OpenEXR file: colour and most guides as half floats, depth as float.

    Parameters
    ----------
    path : the file; its folder is made where it is missing
    picture : what is written

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
    write_planes(path, data, spec, "openexr")


def write_planes(path: Path, data: np.ndarray, spec: oiio.ImageSpec, kind: str) -> None:
    """Write numbers as a picture file, whole or not at all.

    Parameters
    ----------
    path : the file; its folder is made where it is missing
    data : (h, w, channels)
    spec : what the file says of them
    kind : of the picture library, as 'openexr'

    Raises
    ------
    PictureError
        When it cannot be written or the disk is full; no file is left then.
    """
    encoded = -1
    try:
        encoded = os.memfd_create("picture")
        _encode(f"/proc/self/fd/{encoded}", path, data, spec, kind)
        with whole_file(path, make=True) as part:
            size = _copy(encoded, part)
            if part.stat().st_size != size:
                raise PictureError(f"Cannot write {path}: the disk took {part.stat().st_size} of {size} bytes.")
            _read_back(part, path, spec, kind)
    except (OSError, ValueError) as error:
        raise PictureError(f"Cannot write {path}: {reason(error)}.") from error
    finally:
        if encoded >= 0:
            os.close(encoded)


def _encode(into: str, path: Path, data: np.ndarray, spec: oiio.ImageSpec, kind: str) -> None:
    """Encode a picture into a file in memory; `path` is for the words alone."""
    out = oiio.ImageOutput.create(kind)
    if not out:
        raise PictureError(f"Cannot write {path}: no {kind} in the picture library.")
    good = out.open(into, spec) and out.write_image(data)
    # closed in any case, since the end of some formats is written then
    if not (out.close() and good):
        told = " ".join((out.geterror() or "the picture cannot be encoded").split())
        raise PictureError(f"Cannot write {path}: {told.rstrip('.')}.")


def _read_back(part: Path, path: Path, spec: oiio.ImageSpec, kind: str) -> None:
    """Look at the head and the end of what was written; `path` is for the words alone."""
    try:
        head = read_header(part, whole=kind == "openexr")
        good = (head.width, head.height) == shown_size(spec)
    except PictureError:
        good = False
    if kind == "png" and good:  # its last row would take as long to read as all of it
        with open(part, "rb") as stream:
            stream.seek(-len(PNG_END), os.SEEK_END)
            good = stream.read() == PNG_END
    if not good:
        raise PictureError(f"Cannot write {path}: what was written does not read back; the disk or the memory may be full.")


def _copy(encoded: int, part: Path) -> int:
    """Write the bytes of a file in memory to a part; return how many there are."""
    size = os.fstat(encoded).st_size
    with open(part, "wb", buffering=0) as stream:
        done = 0
        while done < size:
            taken = os.sendfile(stream.fileno(), encoded, done, size - done)
            if taken == 0:
                raise OSError(f"the disk took {done} of {size} bytes")
            done += taken
    return size
