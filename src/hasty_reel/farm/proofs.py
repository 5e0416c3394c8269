"""Making proofs: each frame with two seeds, its manifest growing frame by frame."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

import msgspec
import numpy as np

from hasty_reel.errors import PictureError, RendererFault, Stopped, WrongInput
from hasty_reel.evidence.proof import (
    DenoiseEffect,
    Proof,
    ProofPicture,
    write_effects,
    write_proof,
)
from hasty_reel.farm.claim import new_proof_folder
from hasty_reel.farm.link import Job, Renderer, camera_of, moment_of, render_job, whole_steps
from hasty_reel.image.size import scaled_size
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.document import Reel
from hasty_reel.reel.draftcut import DraftCut, drafted
from hasty_reel.reel.recipe import Recipe
from hasty_reel.reel.shot import Shot
from hasty_reel.wholefile import write_whole
from hasty_reel.work import CancelToken, Progress, silent

SEEDS = (1, 2)
SHORTEST_RUN = 3
"""Consecutive frames from which denoising over time can be measured."""
MESSAGES = "messages"
"""Folder in a proof with what its renderer printed, a file for each picture."""
LONGEST_RUN = 9
"""Of a longer run its middle is measured."""


@dataclass(frozen=True)
class Order:
    """What to render.

    scale : in percent of the delivered width
    seeds : 2 where noise is to be measured, 1 for times alone
    guides : render guides beside runs, so that denoising can be tried
    draft : name of the draft cut that made it; '' for none
    stop_noise : stop where the noise of a pixel is below this, and cap : seconds a picture may take; both with
        `samples` as the most and `floor` as the fewest samples
    parent : id of the proof it varies; '' for none
    sweep : name of the sweep it belongs to, '' for none
    """

    shot: Shot
    recipe: Recipe
    frames: tuple[int | float, ...]
    samples: int = 16
    scale: float = 25.0
    seeds: int = 2
    guides: bool = True
    draft: str = ""
    floor: int = 4
    stop_noise: float | None = None
    cap: float | None = None
    parent: str = ""
    sweep: str = ""

    def under(self, cut: DraftCut) -> Order:
        """This order with a draft cut over it; the only place where a cut meets what is rendered."""
        return replace(
            self,
            recipe=drafted(self.recipe, cut),
            samples=self.samples if cut.samples is None else min(self.samples, cut.samples),
            scale=self.scale if cut.size is None else min(self.scale, cut.size),
            seeds=min(self.seeds, cut.seeds),
            guides=self.guides and cut.guides,
            draft=cut.name,
        )

    def checked(self) -> Order:
        """This order, if it can be carried out.

        Raises
        ------
        WrongInput
            Names what is out of bounds.
        """
        begin, end = self.shot.begin, self.shot.past - 1
        outside = [f for f in self.frames if not begin <= f <= end]
        if not self.frames:
            raise WrongInput(f"Proof of {self.shot.id}: no frames; expected some of {begin}-{end}.")
        if outside:
            raise WrongInput(f"Proof of {self.shot.id}: frame {outside[0]} is not in the shot; expected {begin} to {end}.")
        if not 1 <= self.samples <= 65536:
            raise WrongInput(f"Proof of {self.shot.id}: {self.samples} samples; expected 1 to 65536.")
        if not 1 <= self.floor <= 65536:
            raise WrongInput(f"Proof of {self.shot.id}: floor {self.floor}; expected 1 to 65536.")
        for words, value in (("noise to stop at", self.stop_noise), ("time cap", self.cap)):
            if value is not None and not 0 < value < 1e6:
                raise WrongInput(f"Proof of {self.shot.id}: {words} {value:g}; expected a number above 0, or none.")
        if not 1 <= self.scale <= 200:
            raise WrongInput(f"Proof of {self.shot.id}: scale {self.scale:g} %; expected 1 to 200 %.")
        return self


def make_proof(
    reel: Reel,
    root: Path,
    order: Order,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    show: Callable[[int | float, np.ndarray], None] | None = None,
    renderer: Renderer = render_job,
    fault: Callable[[int | float, str], None] | None = None,
) -> Proof:
    """Render a proof into a new folder under `root`; a stopped one keeps its finished frames.

    Parameters
    ----------
    root : the proofs folder of the reel
    show : called with the frame and its growing picture
    renderer : what renders
    fault : called with a frame that failed and what was wrong; the rest goes on. None: the first fault ends the proof

    Raises
    ------
    WrongInput, PictureError
        When the order is out of bounds or the folder cannot be written.
    Stopped
        When `cancel` asked for it; what was finished is evidence all the same.
    """
    order.checked()
    shot = order.shot
    with new_proof_folder(root, shot.proofs) as folder:
        return _fill(folder, reel, order, scaled_size(reel.picture_size, order.scale), progress, cancel, show, renderer, fault)


def _fill(
    folder: Path,
    reel: Reel,
    order: Order,
    size: tuple[int, int],
    progress: Progress,
    cancel: CancelToken | None,
    show: Callable[[int | float, np.ndarray], None] | None,
    renderer: Renderer,
    fault: Callable[[int | float, str], None] | None,
) -> Proof:
    """Render the frames of an order into a folder; see `make_proof`."""
    shot, (width, height) = order.shot, size
    proof = Proof(
        id=folder.name,
        shot=shot.id,
        made=datetime.now().astimezone().isoformat(timespec="seconds"),
        recipe=order.recipe,
        width=width,
        height=height,
        samples=whole_steps(order.samples, order.recipe),
        offset=shot.offset,
        draft=order.draft,
        parent=order.parent,
        sweep=order.sweep,
    )
    seeds = SEEDS[: order.seeds]
    runs = runs_of(order.frames)
    count = len(order.frames) * len(seeds)
    done, first_fault = 0, ""
    for frame in order.frames:
        made = []
        failed = ""
        for seed in seeds:
            job = Job(
                shot.scene, shot.scene_frame(frame), width, height, order.samples, order.recipe, seed,
                guides=order.guides and any(frame in run for run in runs), camera=camera_of(reel),
                moment=moment_of(shot, order.recipe, frame, _chunk_first(frame, runs)), floor=order.floor,
                stop_noise=order.stop_noise, cap=order.cap,
            )  # fmt: skip

            def tell(share: float, words: str, frame=frame, seed=seed, done=done) -> None:
                progress((done + share) / count, f"frame {frame}, seed {seed} of {len(seeds)}: {words}")

            def grow(rgb: np.ndarray, frame=frame) -> None:
                if show is not None:
                    show(frame, rgb)

            try:
                rendered = renderer(job, tell, cancel, grow)
            except (RendererFault, PictureError, MemoryError) as error:
                failed = str(error) or f"Frame {frame}: there was not enough memory for it."
                if fault is None:
                    raise RendererFault(failed) from error
                break
            name = f"{shot.id}.{frame_name(frame)}.s{seed}.exr"
            began = time.perf_counter()
            write_picture(folder / name, rendered.picture)
            if rendered.messages:
                keep_messages(folder / MESSAGES / f"{name}.txt", rendered.messages)
            made.append(
                ProofPicture(
                    frame=frame,
                    seed=seed,
                    file=name,
                    load_seconds=rendered.load_seconds,
                    cache_seconds=rendered.cache_seconds,
                    sample_seconds=rendered.sample_seconds,
                    samples=rendered.samples if job.adaptive else 0.0,
                    memory_bytes=rendered.memory_bytes,
                    write_seconds=time.perf_counter() - began,
                )
            )
            done += 1
        if failed and fault is not None:
            first_fault = first_fault or failed
            fault(frame, failed)
            continue
        proof = msgspec.structs.replace(proof, pictures=(*proof.pictures, *made))
        write_proof(folder, proof)
    if not proof.pictures:
        raise RendererFault(f"Proof of {shot.id}: no frame of it could be rendered. {first_fault}".strip())
    done_frames = set(proof.by_frame())
    # what a filter does without guides says nothing of frames that will have them
    for run in (r for r in runs if order.guides and done_frames.issuperset(r)):
        if cancel is not None and cancel.cancelled:
            raise Stopped("Stopped on request; the frames of the proof are kept.")
        progress(1.0, f"denoising the run {run[0]}–{run[-1]} to see what it does")
        write_effects(folder, measure_run(folder, proof, run))
    return proof


def frame_name(frame: int | float) -> str:
    """A frame in a file name: 1001, or 1001_5 for 1001.5."""
    return f"{frame:04d}" if isinstance(frame, int) else f"{frame:.10g}".replace(".", "_")


def keep_messages(path: Path, messages: str) -> None:
    """Keep what a renderer printed beside its picture; that it cannot be kept is no reason to lose the picture."""
    with contextlib.suppress(OSError):
        write_whole(path, messages.encode("utf-8", "replace"), make=True)


def measure_run(folder: Path, proof: Proof, run: Sequence[int]) -> list[DenoiseEffect]:
    """What denoising over 3, 5 and 7 frames does on a run of consecutive frames of a proof."""
    from hasty_reel.finish.effect import measure_effect  # brings the compiler along

    by_frame = proof.by_frame()
    middle = len(run) // 2
    near = run[max(0, middle - LONGEST_RUN // 2) : middle + LONGEST_RUN // 2 + 1]
    seeds: list[list[Picture]] = [[read_picture(folder / by_frame[f][k].file) for f in near] for k in range(min(2, len(by_frame[near[0]])))]
    if len(seeds) > 1:  # guides hardly depend on the seed: a picture without them takes those of the other
        seeds[1] = [b if b.guides else replace(b, guides=a.guides) for a, b in zip(*seeds)]
    out = []
    for window in (3, 5, 7):
        if window > len(near):
            break
        out.append(measure_effect(seeds[0], seeds[1] if len(seeds) > 1 else None, window))
    return out


def _chunk_first(frame: int | float, runs: Sequence[Sequence[int]]) -> int | None:
    """The first frame of the run a frame is in, which is a chunk of its own; None for a frame by itself."""
    return next((run[0] for run in runs if frame in run), None)


def runs_of(frames: Sequence[int | float]) -> list[list[int]]:
    """The longest stretch of consecutive frames, where it is long enough to judge motion by."""
    runs: list[list[int]] = []
    for frame in sorted({int(f) for f in frames if f == int(f)}):
        if runs and frame == runs[-1][-1] + 1:
            runs[-1].append(frame)
        else:
            runs.append([frame])
    longest = max(runs, key=len, default=[])
    return [longest] if len(longest) >= SHORTEST_RUN else []
