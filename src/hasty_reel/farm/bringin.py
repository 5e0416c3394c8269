"""Frames and times from elsewhere, kept as a proof like those rendered here."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.evidence.proof import Proof, ProofPicture, write_effects, write_proof
from hasty_reel.farm.claim import new_proof_folder
from hasty_reel.farm.proofrun import measure_run, runs_of
from hasty_reel.farm.times import Times, seconds_in
from hasty_reel.pictures.foreign import Channels, guess_channels, is_coded, read_foreign
from hasty_reel.pictures.frame import Picture, read_planes
from hasty_reel.pictures.sequence import FramePattern
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.frames import write_frames
from hasty_reel.reel.shot import Shot
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken, Progress, silent


@dataclass(frozen=True)
class Bringing:
    """What is brought in.

    pattern : the pictures; pair : the same frames with another seed, None for none
    samples : per pixel; None: as the files or the times say
    channels : what is which channel, guessed where it is None; coded : display codes, None: as the files let expect
    attribute : name of the header attribute with the seconds; '' looks for the usual ones
    """

    shot: Shot
    recipe: Recipe
    pattern: FramePattern
    pair: FramePattern | None = None
    samples: int | None = None
    channels: Channels | None = None
    coded: bool | None = None
    times: Times = field(default_factory=Times)
    attribute: str = ""


def bring_in(root: Path, what: Bringing, progress: Progress = silent, cancel: CancelToken | None = None) -> tuple[Proof, list[str]]:
    """Keep a sequence as a proof; returns it and what is missing in it, in words.

    Parameters
    ----------
    root : the proofs folder of the reel
    what : the sequence, and what is known of it
    progress : called with the share that is done, 0 to 1, and words
    cancel : looked at meanwhile; None: it cannot be stopped

    Returns
    -------
    proof : Proof
        As it stands in the store.
    missing : list of str
        What is missing in it, in sentences.

    Raises
    ------
    WrongInput
        When there are no frames of the shot, or the samples are not known.
    PictureError
        When the first picture cannot be read.
    """
    shot = what.shot
    there = [f for f in what.pattern.frames() if shot.begin <= f < shot.past]
    if not there:
        raise WrongInput(f"{what.pattern}: no frames of {shot.id}; expected some of {shot.begin} to {shot.past - 1}.")
    _, names, head = read_planes(what.pattern.path(there[0]))
    channels = {**guess_channels(names), **(what.channels or {})}
    coded = is_coded(what.pattern.path(there[0]), head) if what.coded is None else what.coded
    samples = what.samples or _whole(head.get("hr:samples")) or next(iter(what.times.samples.values()), 0)
    if samples < 1:
        raise WrongInput(f"{what.pattern}: how many samples a pixel got is not told; expected it, such as 64.")
    with new_proof_folder(root, shot.proofs) as folder:
        pictures, size, words = _copied(folder, what, there, channels, coded, samples, progress, cancel)
        words += _unknown(what, pictures)
        proof = Proof(
            id=folder.name,
            shot=shot.id,
            made=datetime.now().astimezone().isoformat(timespec="seconds"),
            recipe=what.recipe,
            width=size[0],
            height=size[1],
            samples=samples,
            offset=shot.offset,
            pictures=tuple(pictures),
        )
        write_proof(folder, proof)
        for run in runs_of(sorted({p.frame for p in pictures})):
            write_effects(folder, measure_run(folder, proof, run, proof.height))
    return proof, words


def _copied(
    folder: Path, what: Bringing, there: Sequence[int], channels: Channels, coded: bool, samples: int,
    progress: Progress, cancel: CancelToken | None,
) -> tuple[list[ProofPicture], tuple[int, int], list[str]]:  # fmt: skip
    """Copy what can be read of a sequence into a proof; its entries, its size in pixels, and what cannot be read, in words."""
    words: list[str] = []
    pictures: list[ProofPicture] = []
    size: tuple[int, int] | None = None
    patterns = [p for p in (what.pattern, what.pair) if p is not None]
    for k, frame in enumerate(there):
        if cancel is not None:
            cancel.check()
        progress(k / len(there), f"frame {frame}")
        made: list[tuple[Picture, ProofPicture]] = []
        try:
            for seed, pattern in enumerate(patterns, start=1):
                # the other seed is for the noise alone, and may come without guides
                wanted = None if seed == 1 else ()
                picture = read_foreign(pattern.path(frame), channels, coded, wanted)
                size = size or (picture.width, picture.height)
                if (picture.width, picture.height) != size:
                    raise PictureError(
                        f"{pattern.path(frame)}: {picture.width}x{picture.height}; expected {size[0]}x{size[1]} like the first."
                    )
                if not np.isfinite(picture.rgb).all():
                    raise PictureError(f"{pattern.path(frame)}: holds numbers that are not finite.")
                made.append((picture, _entry(what.shot, what, frame, seed, picture.attributes)))
        except PictureError as error:
            words.append(str(error))
            continue
        for picture, entry in made:
            write_picture(folder / entry.file, Picture(picture.rgb, picture.guides, {"hr:samples": samples, "hr:seed": str(entry.seed)}))
            pictures.append(entry)
    if not pictures or size is None:
        raise PictureError(f"{what.pattern}: no frame could be brought in. {words[0] if words else ''}".strip())
    return pictures, size, words


def _unknown(what: Bringing, pictures: Sequence[ProofPicture]) -> list[str]:
    """What a sequence does not tell of itself, in words."""
    words = []
    timeless = [int(p.frame) for p in pictures if p.sample_seconds == 0 and p.seed == 1]
    if timeless:
        words.append(f"Seconds of {write_frames(timeless)} are not known: these frames can be looked at, but not planned from.")
    if what.pair is None:
        words.append("One seed: noise is not measured.")
    return words


def _entry(shot: Shot, what: Bringing, frame: int, seed: int, attributes: Mapping[str, object]) -> ProofPicture:
    parts = what.times.parts.get(frame, {})
    told = what.times.seconds.get(frame)
    seconds = told if told is not None else seconds_in(attributes, what.attribute)
    load, write = parts.get("load_seconds", 0.0), parts.get("write_seconds", 0.0)
    sample = parts.get("sample_seconds", max(0.0, (seconds or 0.0) - load - write))
    return ProofPicture(
        frame=frame, seed=seed, file=f"{shot.id}.{frame:04d}.s{seed}.exr", load_seconds=load, sample_seconds=sample, write_seconds=write
    )


def _whole(value: object) -> int:
    return int(value) if isinstance(value, int | float) and value >= 1 else 0
