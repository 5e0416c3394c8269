"""What is measured of a sequence: frame by frame, and over all of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.image.tiles import tile_rms
from hasty_reel.measure.content import (
    displayed_luma,
    flicker_index,
    gradient_energy,
    percent_flicker,
    spatial_information,
    temporal_information,
)
from hasty_reel.measure.fields import seen_in_all, seen_in_fields
from hasty_reel.measure.flicker import TILE
from hasty_reel.measure.neighbours import FrameWithNeighbours, Reader, SequenceReport, frames_in_words, frames_with_neighbours
from hasty_reel.measure.noise import noise_between
from hasty_reel.measure.plane import seen_frame
from hasty_reel.measure.seen import STANDARD, Eyes
from hasty_reel.measure.spectrum import block_side
from hasty_reel.measure.stacks import MOST_FRAMES, FrameStacks
from hasty_reel.measure.worst import worst
from hasty_reel.work import CancelToken, Progress, silent

SHORTEST_WITHOUT_ENDS = 5
"""Frames from which on the first and the last do not make the figure of a sequence: a fade is no flicker."""


@dataclass(frozen=True)
class FrameMeasures:
    """One frame, measured.

    mean_L : mean L*; mean_Y : mean display luminance 0..1
    noise_L : spread of L*, from two seeds or estimated from the picture; flicker_L : along the motion, nan without a neighbour
    seen_flicker : in JND, less what the picture hides, in its most restless field of view; seen_noise : the same of the noise alone, which
        plans promise, nan with one seed
    sparks : their count; sharpness : root mean squared gradient in L* a pixel, without that of noise
    one_sided : its flicker rests on one neighbour, as at the ends of a sequence
    spatial, temporal : SI and TI of the displayed luma, nan where they were not asked for; temporal too without a frame before
    """

    frame: int
    mean_L: float
    mean_Y: float
    noise_L: float
    flicker_L: float
    seen_flicker: float
    sparks: int
    sharpness: float
    one_sided: bool = False
    seen_noise: float = float("nan")
    spatial: float = float("nan")
    temporal: float = float("nan")


@dataclass
class SequenceMeasures:
    """A sequence, measured.

    flicker_tiles : per frame (down, across), of tiles of 32 pixels
    seen_tiles, noise_tiles : (down, across) of blocks of `block` pixels, of each stack of frames: seen flicker, and that of the
        noise alone where two seeds tell it
    longest : frames of the longest stack
    two_seeds : noise comes from two seeds; else it is estimated
    """

    frames: list[FrameMeasures] = field(default_factory=list)
    report: SequenceReport = field(default_factory=SequenceReport)
    two_seeds: bool = False
    flicker_tiles: list[np.ndarray] = field(default_factory=list)
    seen_tiles: list[np.ndarray] = field(default_factory=list)
    noise_tiles: list[np.ndarray] = field(default_factory=list)
    block: int = 0
    longest: int = 0
    unpaired: dict[int, str] = field(default_factory=dict)

    @property
    def noise_L(self) -> float:
        """Root mean square over the frames."""
        return _rms([f.noise_L for f in self.frames])

    @property
    def flicker_L(self) -> float:
        """95th percentile over frames and tiles, of five frames or more without those that have one neighbour; nan with a single frame."""
        inner = [t for f, t in zip([f for f in self.frames if np.isfinite(f.flicker_L)], self.flicker_tiles) if not f.one_sided]
        return _worst_of(inner if len(self.frames) >= SHORTEST_WITHOUT_ENDS and inner else self.flicker_tiles)

    @property
    def seen_flicker(self) -> float:
        """In JND, of the most restless stack of frames and field of view; nan with a single frame."""
        return seen_in_all(self.seen_tiles)

    @property
    def seen_noise(self) -> float:
        """The same of the noise alone, which two seeds tell from all else; nan with one seed."""
        return seen_in_all(self.noise_tiles)

    @property
    def short_words(self) -> str:
        """That so few frames tell too little of slow unrest, or ''."""
        if not 1 < self.longest < MOST_FRAMES:
            return ""
        return f"Seen flicker of {self.longest} frames in a row: a lower bound for slow unrest; {MOST_FRAMES} frames tell all of it."

    @property
    def sparks_per_megapixel(self) -> float:
        """Mean over the frames."""
        pixels = self.report.shape[0] * self.report.shape[1]
        return float(np.mean([f.sparks for f in self.frames])) / pixels * 1e6 if self.frames and pixels else float("nan")

    @property
    def sharpness(self) -> float:
        """Root mean square over the frames."""
        return _rms([f.sharpness for f in self.frames])

    @property
    def percent_flicker(self) -> float:
        """Of the mean luminance of the frames, in percent."""
        return percent_flicker(np.array([f.mean_Y for f in self.frames])) if self.frames else float("nan")

    @property
    def flicker_index(self) -> float:
        """Of the mean luminance of the frames."""
        return flicker_index(np.array([f.mean_Y for f in self.frames])) if self.frames else float("nan")

    def words(self) -> list[str]:
        """Return what was not measured as one would expect, in sentences."""
        out = []
        out += self.report.words()
        out += [f"Frame {f}: {why} Its noise is estimated from the one picture." for f, why in sorted(self.unpaired.items())]
        if len(self.frames) == 1:
            out.append("One frame alone: it has no flicker; noise and sparks are estimated from the picture.")
        dark = [f.frame for f in self.frames if f.mean_L == 0.0]
        if dark:
            out.append(f"{frames_in_words(dark)} all black.")
        return out


def measure_sequence(
    frames: Sequence[int],
    read: Reader,
    pair: Reader | None = None,
    view: str | None = None,
    eyes: Eyes = STANDARD,
    fps: float = 24.0,
    pixels_a_degree: float | None = None,
    information: bool = False,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> SequenceMeasures:
    """Measure a sequence of any length; three frames are in memory at a time, and coarse planes of some dozen more.

    Parameters
    ----------
    frames : numbers of the frames, in order
    read : reads a frame with the guides that are named
    pair : reads the same frames rendered with another seed
    view : display view; None for the plain one, which clips and has no tone curve
    eyes : from how far the picture is seen, as high as it is
    fps : frames a second
    pixels_a_degree : where its pixels stand for those of another size
    information : measure SI and TI too, which takes as long as all the rest
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped

    Raises
    ------
    WrongInput
        When no frame could be measured.
    Stopped
        When the work was stopped.
    """
    out = SequenceMeasures(two_seeds=pair is not None)
    luma_before: np.ndarray | None = None
    stacks: FrameStacks | None = None
    for here in frames_with_neighbours(frames, read, out.report, view=view, progress=progress, cancel=cancel):
        if stacks is None:
            stacks = FrameStacks(pixels_a_degree or eyes.pixels_per_degree(here.picture.height), fps)
        row = _measured(here, out, stacks, pair, view)
        if information:
            luma = displayed_luma(here.seen.lightness)
            change = float("nan") if luma_before is None or here.before is None else temporal_information(luma, luma_before)
            row = replace(row, spatial=spatial_information(luma), temporal=change)
            luma_before = luma
        out.frames.append(row)
    if not out.frames:
        why = next(iter(out.report.unreadable.values()), "there are none.")
        raise WrongInput(f"No frame could be measured: {why}")
    assert stacks is not None
    told = zip(out.frames, stacks.by_frame, stacks.noise_by_frame)
    out.frames = [replace(f, seen_flicker=_in_fields(s), seen_noise=_in_fields(n)) for f, s, n in told]
    out.seen_tiles, out.noise_tiles = [s.blocks for s in stacks.seen], list(stacks.noise)
    out.block, out.longest = block_side(stacks.pixels_a_degree / stacks.coarse) * stacks.coarse, stacks.longest
    return out


def _measured(
    here: FrameWithNeighbours, out: SequenceMeasures, stacks: FrameStacks, pair: Reader | None, view: str | None
) -> FrameMeasures:
    seen = here.seen.lightness
    noise, apart = _rms(here.noise_tiles), None
    if pair is not None:
        try:
            other = pair(here.frame, ())
            if other.rgb.shape != here.picture.rgb.shape:
                own = f"{here.picture.width}x{here.picture.height}"
                raise PictureError(f"the other seed has {other.width}x{other.height} pixels, this one {own}.")
            lightness = seen_frame(other.rgb, view).lightness
            noise, apart = noise_between(seen, lightness), (seen - lightness) / np.float32(np.sqrt(2.0))
        except PictureError as error:
            out.unpaired[here.frame] = str(error)
    flicker_L = float("nan")
    beside = (here.before is not None) + (here.after is not None)
    if beside:
        flicker_L = here.unrest.flicker
        if np.isfinite(flicker_L):
            out.flicker_tiles.append(tile_rms(here.unrest.d, here.unrest.measured.view(np.uint8), TILE))
    stacks.take(seen, apart, here.pair)
    return FrameMeasures(
        frame=here.frame,
        mean_L=float(seen.mean()),
        mean_Y=here.seen.mean_light,
        noise_L=noise,
        flicker_L=flicker_L,
        seen_flicker=float("nan"),
        sparks=int(np.count_nonzero(here.sparks)),
        sharpness=float(np.sqrt(gradient_energy(seen, noise))),
        one_sided=beside == 1,
    )


def _rms(values: object) -> float:
    good = np.asarray(values, np.float64)
    good = good[np.isfinite(good)]
    return float(np.sqrt(np.mean(good**2))) if good.size else float("nan")


def _in_fields(blocks: np.ndarray | None) -> float:
    return float("nan") if blocks is None else seen_in_fields(blocks)


def _worst_of(tiles: Sequence[np.ndarray]) -> float:
    return worst(np.concatenate([t.ravel() for t in tiles])) if tiles else float("nan")
