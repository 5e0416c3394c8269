"""The run of a proof as it would look with other samples, as rendered and as finished."""

from __future__ import annotations

import zlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from threading import Lock

import numpy as np

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence
from hasty_reel.farm.proofrun import picture_of, runs_of
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.denoise import Denoiser, Denoising
from hasty_reel.finish.finisher import Finisher
from hasty_reel.finish.shelf import Shelf
from hasty_reel.measure.bandsleft import BandsLeft, bands_left
from hasty_reel.measure.othersamples import TwoRenders, two_renders
from hasty_reel.pictures.frame import Picture
from hasty_reel.reel.shot import Shot

CALM = Denoising(5, True)
"""By which the frame without noise is told, for more samples than both seeds have: the longest window leaves least."""
FEWEST, MOST = 1.0, 65536.0
"""Samples that may be asked for."""


@dataclass(frozen=True)
class ProofRun:
    """Consecutive frames of a proof with two seeds.

    proof : the proof; folder : where its pictures are; frames : as the proof numbers them
    """

    proof: Proof
    folder: Path
    frames: tuple[int, ...]

    def picture(self, frame: int, seed: int) -> Picture:
        """Return a picture with its guides; those of the first seed where the second has none.

        Parameters
        ----------
        frame : as the proof numbers it
        seed : 0 or 1

        Raises
        ------
        PictureError
            When it cannot be read.
        """
        return picture_of(self.folder, self.proof, frame, seed)

    def samples(self, frame: int) -> float:
        """Return the samples of each of both pictures of a frame.

        Parameters
        ----------
        frame : as the proof numbers it
        """
        return float(np.mean([p.samples or self.proof.samples for p in self.proof.by_frame()[frame][:2]]))


def run_to_look_at(evidence: Evidence, shot: Shot) -> ProofRun | None:
    """Return the run with two seeds whose pixels are densest, the newest of several; None where there is none.

    Parameters
    ----------
    evidence : of the shot
    shot : the shot or layer
    """
    best: ProofRun | None = None
    for proof in evidence.proofs:
        pairs = [f for f, pictures in proof.by_frame().items() if len(pictures) > 1]
        runs = runs_of(pairs) if proof.as_rendered and proof.id not in shot.put_away else []
        if runs and (best is None or proof.frame_size >= best.proof.frame_size):
            best = ProofRun(proof, evidence.folders[proof.id], tuple(runs[0]))
    return best


class RunAtSamples:
    """Shows a run with other samples; keeps what the next frames need.

    Parameters
    ----------
    run : with two seeds
    memory : bytes that finishing may take; None for any number
    """

    def __init__(self, run: ProofRun, memory: int | None = None) -> None:
        self.run = run
        self._memory = memory
        self._renders: dict[int, TwoRenders] = {}
        self._calm_of: dict[int, BandsLeft] = {}
        self._first: dict[int, Picture] = {}
        shelf = Shelf(memory)
        self._denoisers = [Denoiser(CALM, partial(self._side, side), shelf) for side in (0, 1)]
        self._calming = Lock()

    def as_rendered(self, frame: int, samples: float, quickly: bool = False) -> Picture:
        """Return a frame as it would be rendered with so many samples, with its guides.

        Parameters
        ----------
        frame : of the run
        samples : per pixel
        quickly : the mean of both seeds stands for the frame without noise until that was found

        Raises
        ------
        PictureError
            When a picture of the run cannot be read.
        """
        two = self._two(frame)
        calm = self._calm_of.get(frame) if quickly or samples <= two.most_exact else self._calm(frame)
        seed = zlib.crc32(f"{self.run.proof.id} {frame}".encode())
        return replace(self._first[frame], rgb=two.at(samples, seed, calm))

    def prepare(self, frame: int) -> None:
        """Read a frame, so that it is there at once when it is asked for.

        Parameters
        ----------
        frame : of the run
        """
        self._two(frame)

    def prepare_calm(self, frame: int) -> None:
        """Find a frame without noise, by which more samples than both seeds have are shown.

        Parameters
        ----------
        frame : of the run
        """
        self._calm(frame)

    def finisher(self, chain: Chain, samples: float) -> Callable[[int], Picture]:
        """Return what finishes frames of the run that were rendered with so many samples.

        Parameters
        ----------
        chain : of finishing
        samples : per pixel
        """
        finisher = Finisher(chain, lambda k: self.as_rendered(k, samples), memory=self._memory)
        known = set(self.run.frames)
        return lambda frame: finisher.finish(frame, chain.needed(frame, known))

    def exact(self, samples: float) -> bool:
        """Whether the noise of what is shown is exact in variance: not more samples than both seeds have together.

        Parameters
        ----------
        samples : per pixel
        """
        return samples <= 2.0 * min(self.run.samples(f) for f in self.run.frames)

    def _two(self, frame: int) -> TwoRenders:
        if frame not in self._renders:
            one, two = (self.run.picture(frame, seed) for seed in (0, 1))
            self._first[frame] = one
            self._renders[frame] = two_renders(one.rgb, two.rgb, self.run.samples(frame))
        return self._renders[frame]

    def _side(self, side: int, frame: int) -> Picture:
        two = self._two(frame)
        return replace(self._first[frame], rgb=two.sides[side])

    def _calm(self, frame: int) -> BandsLeft:
        with self._calming:  # a denoiser does one frame at a time
            if frame not in self._calm_of:
                two, frames = self._two(frame), set(self.run.frames)
                self._calm_of[frame] = bands_left(two.mean, two.half, *(side.denoise(frame, frames) for side in self._denoisers))
            return self._calm_of[frame]


def checked_samples(samples: float, what: str) -> float:
    """Return samples, if they can be shown.

    Parameters
    ----------
    samples : per pixel
    what : names where they were asked for

    Raises
    ------
    WrongInput
        When they are out of bounds.
    """
    if not FEWEST <= samples <= MOST:
        raise WrongInput(f"{what}: {samples:g} samples; expected {FEWEST:g} to {MOST:g}.")
    return samples
