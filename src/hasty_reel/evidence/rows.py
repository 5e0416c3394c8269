"""What the proofs of a shot say, measured: one row per proof frame."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

import msgspec
import numpy as np

from hasty_reel.errors import HastyReelError, PictureError
from hasty_reel.evidence.measured import MEASURED, VERSION, PictureNoise, ProofMeasures
from hasty_reel.evidence.proof import (
    SECONDS_FIELDS,
    DenoiseEffect,
    Proof,
    ProofPicture,
    proof_folders,
    read_effects,
    read_proof,
)
from hasty_reel.evidence.seentable import SAMPLE_GRID, SIGHT_GRID, seen_table
from hasty_reel.measure.grainsight import DEGREES
from hasty_reel.measure.varianceshares import WEIGHTS
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.reel.shot import Shot
from hasty_reel.settings.recipe import Recipe

_SIGHT = len(DEGREES), len(SIGHT_GRID)

WAITED = 0.05
"""Share of the seconds by which one seed must have waited longer for a processor than the other before it counts."""


@dataclass(frozen=True)
class ProofFrame:
    """One frame of a proof.

    variance : of linear luminance at one sample per pixel, mean over the frame; nan with a single seed
    worst_variance : 95th percentile of its blocks; nan with a single seed
    lightness_noise, contrast_noise, spark_noise : predicted at `SAMPLE_GRID`; nan with a single seed (see `BodyAndSparks.seen`)
    noise_linear, noise_L : of one picture as it is; nan with a single seed
    variance_shares : variance of shares of the pixels / mean, the noisiest last; ones with a single seed (see `variance_shares`)
    spark_share : share of the variance that is sparks
    apart : logarithm of the seconds of one seed over those of the other; nan with a single seed
    scan : tiny and cheap: it tells how the cost changes from frame to frame, and nothing else
    cpu_seconds : of processors; 0 where it is not known
    one_number : `sample_seconds` hold seconds that do not grow with pixels and samples, too
    caches_made : light caches computed for one of its pictures, in the mean; 0 where that is not known
    longest_load : the longest load of its pictures: the other finds the scene loaded where it is kept
    history_each : seconds of going through one frame before it; 0 where that is not known
    version : of how its noise was measured
    sight : (`DEGREES`, `SIGHT_GRID`) seen flicker / that on an even grey, for the picture seen in several sizes; ones where not measured
    """

    proof: str
    frame: int | float
    recipe: Recipe
    pixels: int
    samples: int
    load_seconds: float
    cache_seconds: float
    sample_seconds: float
    write_seconds: float
    variance: float
    worst_variance: float
    lightness_noise: np.ndarray
    contrast_noise: np.ndarray
    spark_noise: np.ndarray
    noise_linear: float
    noise_L: float
    picture: Path
    apart: float = float("nan")
    scan: bool = False
    spark_share: float = 0.0
    cpu_seconds: float = 0.0
    one_number: bool = False
    caches_made: float = 0.0
    longest_load: float = 0.0
    history_each: float = 0.0
    version: int = VERSION
    variance_shares: np.ndarray = field(default_factory=lambda: np.ones(len(WEIGHTS)))
    sight: np.ndarray = field(default_factory=lambda: np.ones(_SIGHT))

    def seen_noise(self, degrees: float) -> np.ndarray:
        """Return the contrast of grain on an even grey that is seen as much as its noise, (grid,) at `SAMPLE_GRID`.

        Parameters
        ----------
        degrees : height of the picture as it is seen
        """
        return seen_table(self.contrast_noise[None], self.sight[None], degrees)[0]

    @property
    def seconds(self) -> float:
        """Of one picture, all parts."""
        return self.load_seconds + self.cache_seconds + self.sample_seconds + self.write_seconds

    @property
    def cost(self) -> float:
        """Seconds per pixel and sample."""
        return self.sample_seconds / (self.pixels * self.samples)


@dataclass(frozen=True)
class Evidence:
    """Everything known about a shot: proof frames, effects of denoising, and what could not be read.

    cropped : frames of which a part was rendered: to be looked at, and no evidence of seconds and noise of the whole frame
    """

    frames: tuple[ProofFrame, ...] = ()
    effects: tuple[DenoiseEffect, ...] = ()
    proofs: tuple[Proof, ...] = ()
    faults: tuple[str, ...] = ()
    folders: dict[str, Path] = field(default_factory=dict)
    effects_of: dict[str, tuple[DenoiseEffect, ...]] = field(default_factory=dict)
    cropped: tuple[ProofFrame, ...] = ()

    def rows_of(self, proof: str) -> list[ProofFrame]:
        """Return the frames of a proof.

        Parameters
        ----------
        proof : its id
        """
        return [r for r in (*self.frames, *self.cropped) if r.proof == proof]

    def without(self, away: Collection[str]) -> Evidence:
        """Return the evidence without some proofs.

        Parameters
        ----------
        away : ids of proofs that do not count
        """
        if not away:
            return self
        left = {k: e for k, e in self.effects_of.items() if k not in away}
        return Evidence(
            tuple(r for r in self.frames if r.proof not in away),
            tuple(e for found in left.values() for e in found),
            tuple(p for p in self.proofs if p.id not in away),
            self.faults,
            {k: f for k, f in self.folders.items() if k not in away},
            left,
            tuple(r for r in self.cropped if r.proof not in away),
        )

    def newest(self, frame: int) -> ProofFrame | None:
        """Return the newest proof frame at or nearest to a frame; one that is to be looked at, where there is one.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        if not self.frames:
            return None
        rank = {p.id: k for k, p in enumerate(self.proofs)}
        unseen = {p.id for p in self.proofs if not p.whole}
        rows = [r for r in self.frames if r.proof not in unseen] or self.frames
        return min(rows, key=lambda p: (abs(p.frame - frame), -rank.get(p.proof, 0)))

    def largest(self, frame: int) -> ProofFrame | None:
        """Return the proof frame with the most pixels as they were rendered, of these the nearest; None where there is none.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        kept = {p.id for p in self.proofs if p.whole}
        return min((r for r in self.frames if r.proof in kept), key=lambda r: (-r.pixels, abs(r.frame - frame)), default=None)


class EvidenceReader:
    """Reads proofs and measures each picture once, in this run of the program and the next; a new proof costs only itself."""

    def __init__(self) -> None:
        self._known: dict[tuple, ProofFrame] = {}

    def read_all(self, root: Path, shots: Iterable[Shot]) -> dict[str, Evidence]:
        """Read the evidence of many shots; those that share their proofs share what was read of them.

        Parameters
        ----------
        root : the proofs folder of the reel
        shots : shots or layers

        Returns
        -------
        dict[str, Evidence]
            Evidence by the id of the shot.
        """
        read: dict[tuple[str, int], Evidence] = {}
        out = {}
        for shot in shots:
            key = (shot.proofs, shot.offset)
            if key not in read:
                read[key] = self.read(root, shot)
            out[shot.id] = read[key]
        return out

    def read(self, root: Path, shot: Shot) -> Evidence:
        """Return the evidence of a shot from the proofs in `root`; what cannot be read is told, not fatal.

        Proofs made while the shot was numbered otherwise are taken at the frames that show the same.

        Parameters
        ----------
        root : folder of the proofs
        shot : the shot or layer
        """
        proofs, faults = [], []
        frames: list[ProofFrame] = []
        cropped: list[ProofFrame] = []
        folders, effects_of = {}, {}
        for folder in proof_folders(root, shot.proofs):
            try:
                proof = read_proof(folder)
                effects = read_effects(folder)
            except HastyReelError as error:
                faults.append(str(error))
                continue
            proofs.append(proof)
            folders[proof.id] = folder
            off = shot.offset - proof.offset
            effects_of[proof.id] = tuple(
                msgspec.structs.replace(e, width=proof.frame_size[0], frame=None if e.frame is None else e.frame + off) for e in effects
            )
            kept = ProofMeasures(folder)
            for frame, pictures in proof.by_frame().items():
                try:
                    row = self._measure(kept, proof, frame, pictures)
                    (frames if proof.crop is None else cropped).append(row if off == 0 else replace(row, frame=frame + off))
                except PictureError as error:
                    faults.append(f"Proof {proof.id} of {shot.id}, frame {frame}: {error} The plan does without it.")
            kept.save()
        own = {s.name: s for p in proofs for s in p.recipe.own_settings}
        if own:  # a proof from before a setting was declared was rendered with what it leaves out
            proofs = [msgspec.structs.replace(p, recipe=p.recipe.declared(own.values())) for p in proofs]
            frames, cropped = ([replace(r, recipe=r.recipe.declared(own.values())) for r in rows] for rows in (frames, cropped))
        every = tuple(e for found in effects_of.values() for e in found)
        return Evidence(tuple(frames), every, tuple(proofs), tuple(faults), folders, effects_of, tuple(cropped))

    def _measure(self, kept: ProofMeasures, proof: Proof, frame: int | float, pictures: list[ProofPicture]) -> ProofFrame:
        paths = [kept.folder / p.file for p in pictures]
        for path in paths:
            if not path.is_file():
                raise PictureError(f"{path}: no such picture.")
        key = tuple((str(p), p.stat().st_mtime_ns, p.stat().st_size) for p in paths)
        if key not in self._known:
            self._known[key] = measure_frame(proof, frame, pictures, kept)
        return self._known[key]


_NOWHERE = (float("nan"),) * len(SAMPLE_GRID)
_EVEN = (1.0,) * len(WEIGHTS)
_UNKNOWN = PictureNoise(float("nan"), float("nan"), _NOWHERE, _NOWHERE, _NOWHERE, float("nan"), float("nan"), version=VERSION)
"""Of a frame with a single seed."""


def _counts(one: Picture, two: Picture) -> np.ndarray | None:
    """Samples each pixel got, the mean of two renders, (h, w); None where the pictures do not tell."""
    told = [p.guides.get("samples") for p in (one, two)]
    return None if told[0] is None or told[1] is None else (told[0] + told[1]) / 2.0


def measure_frame(proof: Proof, frame: int | float, pictures: Sequence[ProofPicture], kept: ProofMeasures) -> ProofFrame:
    """One frame of a proof from its pictures in the folder of `kept` (one seed: times; two: noise too).

    Parameters
    ----------
    proof : the proof
    frame : as the shot numbers it
    pictures : of the frame, by seed
    kept : figures kept beside the proof
    """
    quiet = quiet_share(pictures)
    mean = {part: quiet * float(np.mean([getattr(p, part) for p in pictures])) for part in SECONDS_FIELDS}
    samples = float(np.mean([p.samples or proof.samples for p in pictures]))
    paths = [kept.folder / p.file for p in pictures]
    noise = _UNKNOWN
    if len(paths) >= 2:
        found = kept.get(paths[:2], samples)
        if found is None or (found.version < VERSION and proof.small == 1):
            found = _noise(proof, paths, samples, bool(pictures[0].samples))
            kept.put(paths[:2], samples, found)
        noise = found
    return ProofFrame(
        proof=proof.id,
        frame=frame,
        recipe=proof.recipe,
        pixels=proof.width * proof.height,
        samples=max(1, round(samples)),
        variance=noise.variance,
        worst_variance=noise.worst_variance,
        lightness_noise=np.array(noise.lightness_noise),
        contrast_noise=np.array(noise.contrast_noise),
        spark_noise=np.array(noise.spark_noise),
        noise_linear=noise.noise_linear,
        noise_L=noise.noise_L,
        spark_share=noise.spark_share,
        variance_shares=np.array(noise.variance_shares or _EVEN),
        sight=sight_of(noise),
        picture=paths[0],
        apart=_apart(pictures),
        scan=proof.scan,
        cpu_seconds=float(np.mean([p.cpu_seconds for p in pictures])),
        one_number=any(p.one_number for p in pictures),
        longest_load=max(p.load_seconds for p in pictures),
        caches_made=float(np.mean([p.caches_made for p in pictures])),
        history_each=sum(p.history_seconds for p in pictures) / max(1, sum(p.history_frames for p in pictures)),
        version=noise.version,
        **mean,
    )


def sight_of(noise: PictureNoise) -> np.ndarray:
    """Return what is told of how far noise is in sight, (`DEGREES`, `SIGHT_GRID`); ones where that was not measured.

    Parameters
    ----------
    noise : of a frame, as it is kept
    """
    return np.array(noise.sight).reshape(_SIGHT) if noise.sight else np.ones(_SIGHT)


def quiet_share(pictures: Sequence[ProofPicture]) -> float:
    """Return the share of the seconds of a frame that it takes while nothing else is done on the machine, as far as its seeds tell.

    Two seeds of a frame are the same work, and take the same seconds of processors. Where the clock ran on for one of them, its
    renderer had to wait for a processor: the one that waited least tells how long the frame takes.

    Parameters
    ----------
    pictures : of one frame, by seed
    """
    told = [(p.load_seconds + p.history_seconds + p.cache_seconds + p.sample_seconds, p.cpu_seconds) for p in pictures if p.cpu_seconds > 0]
    if len(told) < 2 or len(told) < len(pictures):
        return 1.0
    clock, cpu = (np.array(column) for column in zip(*told))
    share = float(np.mean(cpu) * np.min(clock / cpu) / max(1e-9, np.mean(clock)))
    return share if share < 1.0 - WAITED else 1.0


def _apart(pictures: Sequence[ProofPicture]) -> float:
    if len(pictures) < 2 or min(p.sample_seconds for p in pictures[:2]) <= 0:
        return float("nan")
    return float(np.log(pictures[0].sample_seconds / pictures[1].sample_seconds))


def _noise(proof: Proof, paths: Sequence[Path], samples: float, told: bool) -> PictureNoise:
    """Measure two pictures; told : they tell how many samples each pixel got."""
    if proof.small > 1:
        raise PictureError(f"{paths[0]}: kept small, and what was measured on it is gone; expected it in {MEASURED} beside.")
    one, two = (read_picture(p) for p in paths[:2])
    a, b = one.rgb, two.rgb
    if a.shape != b.shape or a.shape[:2] != (proof.height, proof.width):
        raise PictureError(f"{paths[1]}: {b.shape[1]}x{b.shape[0]} pixels; expected {proof.width}x{proof.height} like its manifest.")
    return noise_of_pictures(a, b, samples, _counts(one, two) if told else None)


def noise_of_pictures(a: np.ndarray, b: np.ndarray, samples: float, counts: np.ndarray | None = None) -> PictureNoise:
    """Noise of a frame from two renders of it.

    Parameters
    ----------
    a : (h, w, 3) float32, scene-linear light of one picture
    b : (h, w, 3) float32, of the other
    samples : a pixel got
    counts : (h, w) samples each pixel got, where they differ; `samples` is their mean then
    """
    from hasty_reel.measure.bodysparks import body_and_sparks  # brings the compiler along
    from hasty_reel.measure.noise import noise_lightness, noise_linear

    found = body_and_sparks(a, b, max(1, round(samples)), counts)
    in_l, contrast, sparks = (tuple(t.tolist()) for t in found.seen(SAMPLE_GRID))
    variance, worst = float(found.variance.mean()), found.worst(found.variance)
    return PictureNoise(
        variance,
        worst,
        in_l,
        contrast,
        sparks,
        noise_linear(a, b),
        noise_lightness(a, b),
        tuple(found.shares.tolist()),
        found.spark_share,
        tuple(np.round(found.in_sight(SIGHT_GRID), 4).ravel().tolist()),
        VERSION,
    )
