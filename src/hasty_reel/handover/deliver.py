"""A sequence of pictures to its target: a film, or pictures of another format, in another colour."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path

import numpy as np

from hasty_reel.errors import HastyReelError, PictureError, WrongInput
from hasty_reel.handover.films import FILM, FilmFormat, FilmOptions, checked_film, film_codes
from hasty_reel.handover.video import video_file
from hasty_reel.pictures.colourspaces import SRGB_CURVE, ColourOutput, in_colour, output_named
from hasty_reel.pictures.finite import mended
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.guidesbeside import with_guides_beside
from hasty_reel.pictures.outputs import CODES_8, FORMAT, PLAIN_OPTIONS, PictureFormat, PictureOptions, checked_options, write_format
from hasty_reel.pictures.sequence import FramePattern, read_pattern
from hasty_reel.reel.frames import write_frames
from hasty_reel.wholefile import clear_folder, flush_folder
from hasty_reel.work import CancelToken, Progress, part_of, silent


@dataclass(frozen=True)
class Delivered:
    """What was handed over: its frames, and how many pixels of which frame were no finite numbers and were replaced."""

    frames: list[int]
    replaced: dict[int, int]


class FramesMissing(HastyReelError):
    """A sequence with holes is not delivered."""


@dataclass(frozen=True)
class Delivery:
    """How a sequence is handed over.

    form : of the files or the film; colour : what light is written as; picture, film : options of either
    config : an OpenColorIO configuration of the artist's; None for the built-in one
    panorama : the pictures show all around, 360 by 180 degrees
    """

    form: PictureFormat | FilmFormat
    colour: ColourOutput
    picture: PictureOptions = PLAIN_OPTIONS
    film: FilmOptions = field(default_factory=FilmOptions)
    config: Path | None = None
    panorama: bool = False

    def checked(self) -> Delivery:
        """Return it, if all of it goes together.

        Raises
        ------
        WrongInput
            Names what does not, and what was expected.
        """
        if isinstance(self.form, FilmFormat):
            checked_film(self.form, self.film)
            if self.colour.light:
                raise WrongInput(f"{self.form.words}: a film holds display codes; expected a colour such as sRGB, not {self.colour.name}.")
        else:
            checked_options(self.form, self.picture)
            if self.colour.light and not self.form.light:
                raise WrongInput(f"{self.form.words}: cannot keep scene-linear light; expected a colour such as sRGB, or OpenEXR.")
        in_colour(np.zeros((1, 1, 3), np.float32), self.colour, self.config)
        return self

    @property
    def warnings(self) -> list[str]:
        """What is lost, in words; nothing where nothing is."""
        form, out = self.form, []
        if isinstance(form, PictureFormat):
            if not form.lossless(self.picture.compression):
                out.append("Lossy: what a later grade brings up may show it.")
            if form.numbers is CODES_8:
                out.append("8 bit: smooth ramps may band; nothing brighter than display white is kept.")
            elif not form.light:
                out.append("Nothing brighter than display white is kept.")
            if not form.layers:
                out.append("Guides and layers are left out.")
            return out
        if not form.lossless:
            out.append("Lossy: for looking at, not for grading.")
        if (self.film.pixels or form.pixels[0]).startswith("yuv420"):
            out.append("4:2:0: colour at half the size; odd sizes gain a row or a column.")
        out.append("No alpha and no layers in a film.")
        return out


def usual_colour(form: PictureFormat | FilmFormat) -> str:
    """Return the name of the colour that is usual for a format: light where it keeps light, else sRGB.

    Parameters
    ----------
    form : of pictures or of a film
    """
    return "linear Rec. 709" if isinstance(form, PictureFormat) and form.light else "sRGB"


def form_named(key: str) -> PictureFormat | FilmFormat:
    """Return the format of a key.

    Parameters
    ----------
    key : as on the command line

    Raises
    ------
    WrongInput
        When there is none; lists those there are.
    """
    found = FORMAT.get(key) or FILM.get(key)
    if found is None:
        raise WrongInput(f"Format '{key[:40]}'; expected one of {', '.join([*FORMAT, *FILM])}.")
    return found


def form_of(target: str) -> PictureFormat | FilmFormat:
    """Return the usual format of a target by its ending.

    Parameters
    ----------
    target : a file or a pattern

    Raises
    ------
    WrongInput
        When no format has that ending.
    """
    ending = Path(target).suffix.lower()
    usual = {".png": "png-16", ".tif": "tiff-16", ".tiff": "tiff-16", ".exr": "exr-half", ".jpg": "jpeg", ".jpeg": "jpeg", ".dpx": "dpx-10",
             ".mp4": "mp4-h264", ".mov": "mov-prores", ".mkv": "mkv-ffv1"}  # fmt: skip
    if ending not in usual:
        raise WrongInput(f"'{target[-80:]}': expected a film ending in .mp4, .mov or .mkv, or a pattern such as out.####.png.")
    return form_named(usual[ending])


def deliver(
    source: FramePattern,
    target: str,
    fps: Fraction,
    how: Delivery | None = None,
    overwrite: bool = False,
    frames: list[int] | None = None,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Delivered:
    """Deliver a sequence.

    Parameters
    ----------
    source : the finished frames
    target : the name of a film, or a pattern of pictures
    fps : frames per second, exactly
    how : format, colour and options; None: the usual format of the target, as sRGB
    overwrite : whether files that are there are replaced
    frames : which of them; None for all
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at between frames

    Raises
    ------
    WrongInput
        When the target exists, or rate, options, colour or target make no sense.
    FramesMissing
        When frames are missing; names them.
    PictureError
        When a frame cannot be read, differs in size, or holds many pixels that are not finite.
    """
    if not 1 <= fps <= 1000:
        raise WrongInput(f"Rate {float(fps):g}; expected 1 to 1000 frames a second.")
    how = (how or Delivery(form_of(target), output_named("sRGB"))).checked()
    if Path(target).suffix.lower() not in (how.form.ending, f"{how.form.ending}f", ".jpeg" if how.form.ending == ".jpg" else ""):
        raise WrongInput(f"'{target[-80:]}': {how.form.words} ends in {how.form.ending}; expected that ending.")
    there = source.frames()
    if not there:
        raise FramesMissing(f"{source}: no frames there.")
    wanted = list(range(there[0], there[-1] + 1)) if frames is None else frames
    holes = sorted(set(wanted) - set(there))
    if holes:
        raise FramesMissing(f"{source}: frames {write_frames(holes)} are missing; nothing was written.")
    if isinstance(how.form, PictureFormat):
        return _to_pictures(source, read_pattern(target), wanted, fps, how, how.form, overwrite, progress, cancel)
    replaced: dict[int, int] = {}
    _to_film(_pictures(source, wanted, replaced, progress, cancel), Path(target), fps, how, how.form, overwrite)
    return Delivered(wanted, replaced)


def deliver_reel(
    parts: Sequence[tuple[FramePattern, list[int]]],
    target: Path,
    fps: Fraction,
    how: Delivery,
    overwrite: bool = False,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    leave_out: bool = False,
) -> Delivered:
    """Deliver the shots of a reel one after another as one film.

    Parameters
    ----------
    parts : frames of each shot and which of them, in the order of the film
    target : the film
    fps : frames per second, exactly
    how : format, colour and options
    overwrite : whether a film that is there is replaced
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at between frames
    leave_out : frames that are missing are left out of the film

    Raises
    ------
    WrongInput
        When the film exists, or holds no frames.
    FramesMissing
        When frames are missing; names them.
    PictureError
        When a frame cannot be read, or differs in size.
    """
    form = how.checked().form
    if isinstance(form, PictureFormat) or not any(frames for _, frames in parts):
        raise WrongInput(f"{target}: expected shots with frames, and a film.")
    missing = missing_of(parts)
    if missing and not leave_out:
        raise FramesMissing(f"{'; '.join(missing)}; nothing was written.")
    parts = [(source, [f for f in frames if f in there]) for source, frames in parts for there in [set(source.frames())]]
    if not any(frames for _, frames in parts):
        raise FramesMissing(f"{'; '.join(missing)}; nothing is left for a film.")
    replaced: dict[int, int] = {}
    count = len(parts)
    pictures = (
        picture
        for k, (source, frames) in enumerate(parts)
        for picture in _pictures(source, frames, replaced, part_of(progress, k, count), cancel)
    )
    _to_film(pictures, target, fps, how, form, overwrite)
    return Delivered([f for _, frames in parts for f in frames], replaced)


def missing_of(parts: Sequence[tuple[FramePattern, list[int]]]) -> list[str]:
    """Return what is missing of the shots of a film, a sentence a shot without its end.

    Parameters
    ----------
    parts : frames of each shot and which of them are wanted
    """
    out = []
    for source, frames in parts:
        wanted = set(frames)
        holes = sorted(wanted - set(source.frames()))
        if holes:
            one = len(holes) == 1
            out.append(f"{source}: {len(holes)} of {len(wanted)} frames {'is' if one else 'are'} missing ({write_frames(holes)})")
    return out


def _to_film(pictures: Iterable[Picture], path: Path, fps: Fraction, how: Delivery, form: FilmFormat, overwrite: bool) -> None:
    if path.exists() and not overwrite:
        raise WrongInput(f"{path}: exists already; give another name, or allow overwriting.")
    size: tuple[int, int] | None = None
    with video_file(path, fps, form, replace(how.film, transfer=how.colour.transfer)) as video:
        for picture in pictures:
            size = size or (picture.width, picture.height)
            if (picture.width, picture.height) != size:
                raise PictureError(f"{path}: a frame of {picture.width}x{picture.height}; expected {size[0]}x{size[1]} like the first.")
            codes = in_colour(picture.rgb, how.colour, how.config)
            video.add(film_codes(codes, form))
    flush_folder(path.parent)


def _pictures(
    source: FramePattern, frames: list[int], replaced: dict[int, int], progress: Progress, cancel: CancelToken | None, layers: bool = False
) -> Iterator[Picture]:
    """Each frame, all finite and of one size, with its guides where they are wanted; what was replaced is noted."""
    size: tuple[int, int] | None = None
    for k, frame in enumerate(frames):
        if cancel is not None:
            cancel.check()
        path = source.path(frame)
        picture = read_picture(path, None if layers else ())
        picture, count = mended(with_guides_beside(picture, path, None) if layers else picture, str(path))
        size = size or (picture.width, picture.height)
        if (picture.width, picture.height) != size:
            raise PictureError(f"{path}: {picture.width}x{picture.height}; expected {size[0]}x{size[1]} like the first frame.")
        if count:
            replaced[frame] = count
        yield picture
        progress((k + 1) / len(frames), f"frame {frame} written")


def _to_pictures(
    source: FramePattern, target: FramePattern, frames: list[int], fps: Fraction, how: Delivery, form: PictureFormat, overwrite: bool,
    progress: Progress, cancel: CancelToken | None,
) -> Delivered:  # fmt: skip
    if (source.folder.resolve(), source.before, source.after) == (target.folder.resolve(), target.before, target.after):
        raise WrongInput(f"{target}: the frames that are read; expected another name, so that they are not lost.")
    there = sorted(set(target.frames()) & set(frames))
    if there and not overwrite:
        raise WrongInput(f"{target}: frames {write_frames(there)} exist already; give another name, or allow overwriting.")
    clear_folder(target.folder)
    replaced: dict[int, int] = {}
    tags = tags_of(form, how.colour, fps, how.panorama)
    for frame, picture in zip(frames, _pictures(source, frames, replaced, progress, cancel, how.picture.layers)):
        rgb = in_colour(picture.rgb, how.colour, how.config)
        write_format(target.path(frame), Picture(rgb, picture.guides, picture.attributes), form, how.picture, tags)
        if how.picture.layers and how.picture.apart:
            for name, layer in layers_of(picture).items():
                write_format(layer_pattern(target, name).path(frame), layer, form, how.picture, tags)
    flush_folder(target.folder)
    return Delivered(frames, replaced)


def layers_of(picture: Picture) -> dict[str, Picture]:
    """Return the guides of a picture as pictures of their own, by name: albedo, normal, Z, motion.

    Parameters
    ----------
    picture : with its guides
    """
    names = dict.fromkeys(g.partition(".")[0] for g in picture.guides if g != "A")
    out = {}
    for name in names:
        planes = [p for g, p in picture.guides.items() if g.partition(".")[0] == name][:3]
        planes += [np.zeros_like(planes[0]) if len(planes) > 1 else planes[0]] * (3 - len(planes))
        out[name] = Picture(np.stack(planes, axis=-1).astype(np.float32), {}, picture.attributes)
    return out


def layer_pattern(target: FramePattern, name: str) -> FramePattern:
    """Return where a layer goes that has files of its own: beside the colour, with its name before the number.

    Parameters
    ----------
    target : of the colour
    name : of the layer
    """
    return replace(target, before=f"{target.before}{name}.")


def tags_of(form: PictureFormat, colour: ColourOutput, fps: Fraction, panorama: bool = False) -> dict[str, object]:
    """Return what files say of their colour and rate.

    Parameters
    ----------
    form : of the files
    colour : what light is written as
    fps : frames per second
    panorama : the pictures show all around, 360 by 180 degrees
    """
    if form.heads:
        around = {"textureformat": "LatLong Environment"} if panorama else {}  # written as the standard attribute envmap
        return {"chromaticities": colour.chromaticities, "FramesPerSecond": (fps.numerator, fps.denominator), **around}
    srgb = colour.transfer == SRGB_CURVE
    return {"oiio:ColorSpace": "sRGB" if srgb else "Rec709"} if not colour.light else {"oiio:ColorSpace": "lin_rec709"}
