"""Pictures for delivery: which formats there are, what each keeps, and how a picture is written in one.

What each keeps is what its own standard says: OpenEXR (openexr.com), PNG (ISO/IEC 15948), TIFF 6.0, JPEG (ISO/IEC 10918-1),
DPX (SMPTE ST 268).
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import OpenImageIO as oiio

from hasty_reel.errors import WrongInput
from hasty_reel.pictures.frame import COLOUR, Picture
from hasty_reel.pictures.writing import HALF_MAX, write_planes

EXR = ("zip", "none", "rle", "zips", "piz", "pxr24", "b44", "b44a", "dwaa", "dwab")
LOSSY = frozenset(("pxr24 float", "b44", "b44a", "dwaa", "dwab", "jpeg"))
TILE = 64
"""Side of the tiles of a tiled OpenEXR, in pixels."""


@dataclass(frozen=True)
class PictureFormat:
    """One kind of picture file.

    key : on the command line; words : on the screen; ending : of the file; kind : of the picture library
    data : kind of numbers; light : keeps scene-linear light beyond display white
    layers : keeps guides beside the colour; compressions : choices, the usual first; quality : lowest, highest, usual
    """

    key: str
    words: str
    ending: str
    kind: str
    data: str
    light: bool = False
    layers: bool = False
    compressions: tuple[str, ...] = ()
    quality: tuple[int, int, int] | None = None

    @property
    def bits(self) -> str:
        """Its numbers, in words."""
        return {"half": "16 float", "float": "32 float", "uint8": "8", "uint16": "16", "uint10": "10"}[self.data]

    def lossless(self, compression: str = "") -> bool:
        """Whether every number comes back as it was written.

        Parameters
        ----------
        compression : that is chosen; '' for the usual
        """
        chosen = compression or (self.compressions[0] if self.compressions else "")
        return self.kind != "jpeg" and chosen not in LOSSY and f"{chosen} {self.data}" not in LOSSY


FORMATS: tuple[PictureFormat, ...] = (
    PictureFormat("exr-half", "OpenEXR, half", ".exr", "openexr", "half", True, True, EXR),
    PictureFormat("exr-float", "OpenEXR, float", ".exr", "openexr", "float", True, True, EXR),
    PictureFormat("tiff-float", "TIFF, float", ".tif", "tiff", "float", True, False, ("zip", "none", "lzw")),
    PictureFormat("tiff-16", "TIFF, 16 bit", ".tif", "tiff", "uint16", False, False, ("zip", "none", "lzw")),
    PictureFormat("tiff-8", "TIFF, 8 bit", ".tif", "tiff", "uint8", False, False, ("zip", "none", "lzw")),
    PictureFormat("png-16", "PNG, 16 bit", ".png", "png", "uint16"),
    PictureFormat("png-8", "PNG, 8 bit", ".png", "png", "uint8"),
    PictureFormat("dpx-10", "DPX, 10 bit", ".dpx", "dpx", "uint10"),
    PictureFormat("jpeg", "JPEG", ".jpg", "jpeg", "uint8", quality=(1, 100, 92)),
)
FORMAT = {f.key: f for f in FORMATS}


@dataclass(frozen=True)
class PictureOptions:
    """How a picture is written: compression and its level, quality of a JPEG, tiles instead of lines, guides beside the colour.

    apart : each guide in a file of its own instead of one file for all
    window : of an OpenEXR alone the part that is not empty is kept (its data window); what is shown stays as large
    """

    compression: str = ""
    level: float | None = None
    quality: int | None = None
    tiles: bool = False
    layers: bool = False
    apart: bool = False
    window: bool = False


PLAIN_OPTIONS = PictureOptions()


def checked_options(form: PictureFormat, options: PictureOptions) -> PictureOptions:
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
    if options.compression and options.compression not in form.compressions:
        has = ", ".join(form.compressions) or "none to choose"
        raise WrongInput(f"{form.words}: compression '{options.compression[:40]}'; expected one of {has}.")
    if options.quality is not None and (form.quality is None or not form.quality[0] <= options.quality <= form.quality[1]):
        told = "no quality to choose" if form.quality is None else f"{form.quality[0]} to {form.quality[1]}"
        raise WrongInput(f"{form.words}: quality {options.quality}; expected {told}.")
    if options.level is not None and not (options.compression in ("dwaa", "dwab") and 0 < options.level <= 100000):
        raise WrongInput(f"{form.words}: a level of {options.level:g} goes with compression dwaa or dwab; expected 45 or so, above 0.")
    if (options.layers and not form.layers) or (options.tiles and form.kind != "openexr"):
        raise WrongInput(f"{form.words}: keeps {'no layers' if options.layers else 'no tiles'}; expected OpenEXR for that.")
    if options.window and form.kind != "openexr":
        raise WrongInput(f"{form.words}: has no data window; expected OpenEXR for that.")
    return options


def write_format(
    path: Path, picture: Picture, form: PictureFormat, options: PictureOptions = PLAIN_OPTIONS,
    tags: dict[str, object] | None = None,
) -> None:  # fmt: skip
    """Write a picture in a format, whole or not at all.

    Parameters
    ----------
    path : the file; its folder is made where it is missing
    picture : light as it is for formats that keep it, code values 0 to 1 for others
    form : the format
    options : how it is written
    tags : attributes of the file besides our own: colour tags, frame rate

    Raises
    ------
    PictureError
        When it cannot be written or the disk is full; no file is left then.
    """
    guides = picture.guides if options.layers and not options.apart else {k: v for k, v in picture.guides.items() if k == "A"}
    if form.kind not in ("openexr", "tiff", "png"):
        guides = {}
    names = [*COLOUR, *guides]
    planes = np.concatenate([picture.rgb, *(g[..., None] for g in guides.values())], axis=-1)
    spec = oiio.ImageSpec(picture.width, picture.height, len(names), "uint16" if form.data == "uint10" else form.data)
    spec.channelnames = tuple(names)
    if "A" in names:
        spec.alpha_channel = names.index("A")
    compression = options.compression or (form.compressions[0] if form.compressions else "")
    if form.kind == "jpeg":
        compression = f"jpeg:{options.quality or (form.quality or (0, 0, 92))[2]}"
    if options.level is not None:
        compression = f"{compression}:{options.level:g}"
    if compression:
        spec.attribute("compression", compression)
    if form.data == "uint10":
        spec.attribute("oiio:BitsPerSample", 10)
    if options.tiles:
        spec.tile_width = spec.tile_height = TILE
    for key, value in picture.attributes.items():
        if form.kind == "openexr" and key.startswith("hr:") and isinstance(value, str | int | float) and value != "":
            spec.attribute(key, value)
    for key, value in (tags or {}).items():
        if isinstance(value, tuple):
            kind = "rational" if len(value) == 2 and all(isinstance(v, int) for v in value) else f"float[{len(value)}]"
            spec.attribute(key, kind, value)
        else:
            spec.attribute(key, value)
    if options.window:
        planes = _within_window(planes, spec)
    write_planes(path, _numbers(planes, form), spec, form.kind)


def _within_window(planes: np.ndarray, spec: oiio.ImageSpec) -> np.ndarray:
    """The part of a picture that is not empty, which the file then says; one pixel where all of it is."""
    full = np.any(planes != 0, axis=2)
    rows, columns = np.flatnonzero(full.any(axis=1)), np.flatnonzero(full.any(axis=0))
    y0, y1, x0, x1 = (int(rows[0]), int(rows[-1]) + 1, int(columns[0]), int(columns[-1]) + 1) if len(rows) else (0, 1, 0, 1)
    spec.x, spec.y, spec.width, spec.height = x0, y0, x1 - x0, y1 - y0
    return planes[y0:y1, x0:x1]


def _numbers(planes: np.ndarray, form: PictureFormat) -> np.ndarray:
    """The numbers of a file: light within what a half holds, or codes."""
    if form.data == "half":
        return np.ascontiguousarray(np.clip(planes, -HALF_MAX, HALF_MAX), np.float32)
    if form.data == "float":
        return np.ascontiguousarray(planes, np.float32)
    most = 255 if form.data == "uint8" else 65535
    codes = np.clip(np.nan_to_num(planes), 0.0, 1.0)
    if form.data == "uint10":  # ten bits, as the library takes them: spread over sixteen
        return np.ascontiguousarray(np.rint(np.rint(codes * 1023.0) * (65535.0 / 1023.0)), np.uint16)
    return np.ascontiguousarray(np.rint(codes * most), np.uint8 if most == 255 else np.uint16)
