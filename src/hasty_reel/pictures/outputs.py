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
LOSSY = frozenset(("pxr24 float", "b44", "b44a", "dwaa", "dwab"))
TILE = 64
"""Side of the tiles of a tiled OpenEXR, in pixels."""


@dataclass(frozen=True)
class Numbers:
    """How a format keeps the value of a channel.

    words : bits, as it is read; stored : kind of numbers of the picture library
    codes : of code values 0 to 1 how many steps there are, 0 where light is kept as it is; most : largest light that is kept
    bits : that the library is told of, where they are fewer than it stores
    """

    words: str
    stored: str
    codes: int = 0
    most: float = float("inf")
    bits: int = 0

    def of(self, planes: np.ndarray) -> np.ndarray:
        """Return the numbers of a file.

        Parameters
        ----------
        planes : (h, w, channels) light, or code values 0 to 1
        """
        if not self.codes:
            return np.ascontiguousarray(np.clip(planes, -self.most, self.most), np.float32)
        whole = 255 if self.stored == "uint8" else 65535
        steps = np.rint(np.clip(np.nan_to_num(planes), 0.0, 1.0) * self.codes)
        # fewer bits than are stored are spread over them, as the library takes them
        return np.ascontiguousarray(np.rint(steps * (whole / self.codes)), np.uint8 if whole == 255 else np.uint16)


HALF, FLOAT = Numbers("16 float", "half", most=HALF_MAX), Numbers("32 float", "float")
CODES_8, CODES_16, CODES_10 = Numbers("8", "uint8", 255), Numbers("16", "uint16", 65535), Numbers("10", "uint16", 1023, bits=10)


@dataclass(frozen=True)
class PictureFormat:
    """One kind of picture file; what it keeps stands here alone.

    key : on the command line; words : on the screen; ending : of the file; kind : of the picture library; numbers : of its channels
    light : keeps scene-linear light beyond display white; alpha : keeps what covers; layers : keeps guides beside the colour
    heads : keeps what our pictures say of themselves, and colour as chromaticities; tiles, window : may be written in tiles, and
    without what is empty
    compressions : choices, the usual first; quality : lowest, highest, usual; lossy : never gives every number back
    """

    key: str
    words: str
    ending: str
    kind: str
    numbers: Numbers
    light: bool = False
    alpha: bool = False
    layers: bool = False
    heads: bool = False
    tiles: bool = False
    window: bool = False
    compressions: tuple[str, ...] = ()
    quality: tuple[int, int, int] | None = None
    lossy: bool = False

    @property
    def bits(self) -> str:
        """Its numbers, in words."""
        return self.numbers.words

    def lossless(self, compression: str = "") -> bool:
        """Whether every number comes back as it was written.

        Parameters
        ----------
        compression : that is chosen; '' for the usual
        """
        chosen = compression or (self.compressions[0] if self.compressions else "")
        return not self.lossy and chosen not in LOSSY and f"{chosen} {self.numbers.stored}" not in LOSSY

    def compression(self, options: PictureOptions) -> str:
        """Return the compression as the picture library is told of it; '' for none.

        Parameters
        ----------
        options : how it is written
        """
        if self.quality is not None:
            return f"{self.kind}:{options.quality or self.quality[2]}"
        name = options.compression or (self.compressions[0] if self.compressions else "")
        return name if options.level is None else f"{name}:{options.level:g}"


def _exr(key: str, words: str, numbers: Numbers) -> PictureFormat:
    return PictureFormat(key, words, ".exr", "openexr", numbers, True, True, True, True, True, True, EXR)


def _tiff(key: str, words: str, numbers: Numbers, light: bool = False) -> PictureFormat:
    return PictureFormat(key, words, ".tif", "tiff", numbers, light, alpha=True, compressions=("zip", "none", "lzw"))


FORMATS: tuple[PictureFormat, ...] = (
    _exr("exr-half", "OpenEXR, half", HALF),
    _exr("exr-float", "OpenEXR, float", FLOAT),
    _tiff("tiff-float", "TIFF, float", FLOAT, light=True),
    _tiff("tiff-16", "TIFF, 16 bit", CODES_16),
    _tiff("tiff-8", "TIFF, 8 bit", CODES_8),
    PictureFormat("png-16", "PNG, 16 bit", ".png", "png", CODES_16, alpha=True),
    PictureFormat("png-8", "PNG, 8 bit", ".png", "png", CODES_8, alpha=True),
    PictureFormat("dpx-10", "DPX, 10 bit", ".dpx", "dpx", CODES_10),
    PictureFormat("jpeg", "JPEG", ".jpg", "jpeg", CODES_8, quality=(1, 100, 92), lossy=True),
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
    if (options.layers and not form.layers) or (options.tiles and not form.tiles):
        raise WrongInput(f"{form.words}: keeps {'no layers' if options.layers else 'no tiles'}; expected OpenEXR for that.")
    if options.window and not form.window:
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
    if not form.alpha:
        guides = {}
    names = [*COLOUR, *guides]
    planes = np.concatenate([picture.rgb, *(g[..., None] for g in guides.values())], axis=-1)
    spec = oiio.ImageSpec(picture.width, picture.height, len(names), form.numbers.stored)
    spec.channelnames = tuple(names)
    if "A" in names:
        spec.alpha_channel = names.index("A")
    if compression := form.compression(options):
        spec.attribute("compression", compression)
    if form.numbers.bits:
        spec.attribute("oiio:BitsPerSample", form.numbers.bits)
    if options.tiles:
        spec.tile_width = spec.tile_height = TILE
    heads = picture.attributes.items() if form.heads else ()
    for key, value in ((k, v) for k, v in heads if k.startswith("hr:") and isinstance(v, str | int | float) and v != ""):
        spec.attribute(key, value)
    for key, tag in (tags or {}).items():
        if isinstance(tag, tuple):
            kind = "rational" if len(tag) == 2 and all(isinstance(v, int) for v in tag) else f"float[{len(tag)}]"
            spec.attribute(key, kind, tag)
        else:
            spec.attribute(key, tag)
    if options.window:
        planes = _within_window(planes, spec)
    write_planes(path, form.numbers.of(planes), spec, form.kind)


def _within_window(planes: np.ndarray, spec: oiio.ImageSpec) -> np.ndarray:
    """The part of a picture that is not empty, which the file then says; one pixel where all of it is."""
    full = np.any(planes != 0, axis=2)
    rows, columns = np.flatnonzero(full.any(axis=1)), np.flatnonzero(full.any(axis=0))
    y0, y1, x0, x1 = (int(rows[0]), int(rows[-1]) + 1, int(columns[0]), int(columns[-1]) + 1) if len(rows) else (0, 1, 0, 1)
    spec.x, spec.y, spec.width, spec.height = x0, y0, x1 - x0, y1 - y0
    return planes[y0:y1, x0:x1]
