"""Making proofs: each frame with two seeds, its manifest growing frame by frame."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path

import msgspec
import numpy as np

from hasty_reel.errors import PictureError, RendererFault, Stopped
from hasty_reel.evidence.measured import ProofMeasures
from hasty_reel.evidence.proof import Cropped, Proof, ProofPicture, write_effects, write_proof
from hasty_reel.evidence.rows import measure_frame
from hasty_reel.farm.claim import new_proof_folder
from hasty_reel.farm.job import FrameJob, camera_of, moment_of, whole_steps
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofrun import measure_run, runs_of, try_chain
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.farm.renderers.protocol import Renderer
from hasty_reel.farm.tiles import in_tiles
from hasty_reel.farm.yardstick import KEPT, OFTEN
from hasty_reel.image.resize import square_means
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.reel.document import Reel
from hasty_reel.scaledsize import scaled_size
from hasty_reel.settings.finishorder import ENLARGED_FIRST
from hasty_reel.wholefile import write_whole
from hasty_reel.work import CancelToken, Progress, silent

SEEDS = (1, 2)
SMALL_WIDTH = 60
"""Pixels across of pictures that are kept small, about."""
MESSAGES = "messages"
"""Folder in a proof with what its renderer printed, a file for each picture."""

Show = Callable[[int | float, np.ndarray], None]
Fault = Callable[[int | float, str], None]
Yardstick = Callable[[CancelToken | None], tuple[float, ...]]


def make_proof(
    reel: Reel,
    root: Path,
    order: ProofOrder,
    renderer: Renderer = render_on_bench,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
    show: Show | None = None,
    fault: Fault | None = None,
    yardstick: Yardstick | None = None,
) -> Proof:
    """Render a proof into a new folder under `root`; a stopped one keeps its finished frames.

    Parameters
    ----------
    reel : says size and camera
    root : the proofs folder of the reel
    order : what is rendered
    renderer : what renders
    progress : called with the share that is done, and words
    cancel : looked at while it renders
    show : called with the frame and its growing picture, (h, w, 3) scene-linear light
    fault : called with a frame that failed and what was wrong; the rest goes on. None: the first fault ends the proof
    yardstick : tells how fast the machine is just now, in several short figures; None: it is not asked

    Returns
    -------
    Proof
        The proof as it stands in the store.

    Raises
    ------
    WrongInput
        When the order is out of bounds.
    PictureError
        When the folder cannot be written.
    Stopped
        When `cancel` asked for it; what was finished is evidence all the same.
    """
    order.checked()
    with new_proof_folder(root, order.shot.proofs) as folder:
        return _ProofMaker(folder, reel, order, renderer, progress, cancel, show, fault, yardstick).make()


class _ProofMaker:
    """Fills the folder of one proof."""

    def __init__(
        self, folder: Path, reel: Reel, order: ProofOrder, renderer: Renderer, progress: Progress, cancel: CancelToken | None,
        show: Show | None, fault: Fault | None, yardstick: Yardstick | None,
    ) -> None:  # fmt: skip
        self._reel, self._folder, self._order = reel, folder, order
        self._renderer = in_tiles(renderer) if order.tiles > 1 else renderer
        self._progress, self._cancel, self._show, self._fault = progress, cancel, show, fault
        self._yardstick, self._fps = yardstick, float(reel.fps)
        self._camera = camera_of(reel)
        self._size, self._rows = scaled_size(reel.picture_size, order.scale), reel.picture_size[1]
        self._seeds = SEEDS[: order.seeds]
        self._runs = [] if order.scan else runs_of(order.frames)
        self._kept_size = self._size if order.crop is None else order.crop[2:]
        self._small = max(1, self._size[0] // SMALL_WIDTH) if order.small and order.seeds > 1 else 1
        self._done = 0
        self._first_fault = ""
        self._yardsticks: tuple[float, ...] = ()
        self._looked = 0.0

    def make(self) -> Proof:
        """Render all frames, then measure what denoising does on its runs."""
        proof = self._empty()
        self._look_at_the_machine()
        for frame in self._order.frames:
            if time.monotonic() - self._looked > OFTEN:
                self._look_at_the_machine()
            made = self._render_frame(frame)
            if made and self._small > 1:
                keep_small(self._folder, proof, made, self._small)
            if made:
                proof = self._with_yardsticks(msgspec.structs.replace(proof, pictures=(*proof.pictures, *made)))
                write_proof(self._folder, proof)
        if not proof.pictures:
            raise RendererFault(f"Proof of {proof.shot}: no frame of it could be rendered. {self._first_fault}".strip())
        if time.monotonic() - self._looked > KEPT:
            self._look_at_the_machine()
            proof = self._with_yardsticks(proof)
            write_proof(self._folder, proof)
        self._measure_runs(proof)
        return proof

    def _look_at_the_machine(self) -> None:
        """Take the yardstick: around and within the proof, since one alone is no measure of a machine that is busy at times."""
        self._looked = time.monotonic()
        if self._yardstick is not None:
            self._yardsticks += self._yardstick(self._cancel)

    def _with_yardsticks(self, proof: Proof) -> Proof:
        """The proof with what the yardsticks so far told."""
        if not self._yardsticks:
            return proof
        logs = np.log(self._yardsticks)
        return msgspec.structs.replace(proof, yardstick=float(np.mean(self._yardsticks)), yardstick_spread=float(np.std(logs)))

    def _empty(self) -> Proof:
        order, shot = self._order, self._order.shot
        return Proof(
            id=self._folder.name,
            shot=shot.id,
            made=datetime.now().astimezone().isoformat(timespec="seconds"),
            recipe=order.recipe,
            width=self._kept_size[0],
            height=self._kept_size[1],
            samples=whole_steps(order.samples, order.recipe),
            offset=shot.offset,
            draft=order.draft,
            parent=order.parent,
            sweep=order.sweep,
            scan=order.scan,
            small=self._small,
            tiles=order.tiles,
            crop=self._cropped(),
        )

    def _cropped(self) -> Cropped | None:
        crop, (width, height) = self._order.crop, self._size
        return None if crop is None else Cropped(left=crop[0], top=crop[1], frame_width=width, frame_height=height)

    def _job(self, frame: int | float, seed: int) -> FrameJob:
        order, shot = self._order, self._order.shot
        # the scale that a renderer is told is that of the proof
        recipe = msgspec.structs.replace(order.recipe, tiles=order.tiles, render_scale=order.scale)
        return FrameJob(
            shot.scene, shot.scene_frame(frame), *self._size, order.samples, recipe, seed,
            guides=order.guides and self._in_row(frame), camera=self._camera,
            moment=moment_of(shot, order.recipe, frame, _chunk_first(frame, self._runs)), floor=order.floor,
            stop_noise=order.stop_noise, cap=order.cap, crop=order.crop,
        )  # fmt: skip

    def _in_row(self, frame: int | float) -> bool:
        """Whether a frame stands beside another: then its guides tell how it moves on, and a longer run tries denoising."""
        return not self._order.scan and any(f in self._order.frames for f in (frame - 1, frame + 1))

    def _render_frame(self, frame: int | float) -> list[ProofPicture]:
        """The pictures of a frame, one for each seed; none where it failed and the rest is to go on."""
        made = []
        for seed in self._seeds:
            try:
                made.append(self._render_picture(frame, seed))
            except (RendererFault, PictureError, MemoryError) as error:
                words = str(error) or f"Frame {frame}: there was not enough memory for it."
                if self._fault is None:
                    raise RendererFault(words) from error
                self._first_fault = self._first_fault or words
                self._fault(frame, words)
                return []
        return made

    def _render_picture(self, frame: int | float, seed: int) -> ProofPicture:
        def tell(share: float, words: str) -> None:
            count = len(self._order.frames) * len(self._seeds)
            self._progress((self._done + share) / count, f"frame {frame}, seed {seed} of {len(self._seeds)}: {words}")

        def grow(rgb: np.ndarray) -> None:
            if self._show is not None:
                self._show(frame, rgb)

        job = self._job(frame, seed)
        rendered = self._renderer(job, tell, self._cancel, grow)
        name = f"{self._order.shot.id}.{frame_name(frame)}.s{seed}.exr"
        began = time.perf_counter()
        write_picture(self._folder / name, rendered.picture)
        if rendered.messages:
            keep_messages(self._folder / MESSAGES / f"{name}.txt", rendered.messages)
        self._done += 1
        return ProofPicture(
            frame=frame,
            seed=seed,
            file=name,
            load_seconds=rendered.load_seconds / self._order.tiles**2,
            cache_seconds=rendered.cache_seconds / self._order.tiles**2,
            sample_seconds=rendered.sample_seconds,
            samples=rendered.samples if job.adaptive or rendered.samples != job.settings.samples else 0.0,
            memory_bytes=rendered.memory_bytes,
            cache_bytes=rendered.cache_bytes,
            caches_made=rendered.caches_made,
            write_seconds=time.perf_counter() - began,
            cpu_seconds=rendered.cpu_seconds,
            one_number=rendered.one_number,
            history_seconds=rendered.history_seconds,
            history_frames=rendered.history_frames,
        )

    def _measure_runs(self, proof: Proof) -> None:
        done_frames = set(proof.by_frame())
        # what a filter does without guides says nothing of frames that will have them
        for run in (r for r in self._runs if self._order.guides and done_frames.issuperset(r)):
            if self._cancel is not None and self._cancel.cancelled:
                raise Stopped("Stopped on request; the frames of the proof are kept.")
            self._progress(1.0, f"denoising the run {run[0]}–{run[-1]} to see what it does")
            write_effects(self._folder, measure_run(self._folder, proof, run, self._rows, self._fps))
            self._try_enlarged_first(proof)

    def _try_enlarged_first(self, proof: Proof) -> None:
        """See what denoising after resizing does, where frames are delivered at another size: which order is better differs."""
        recipe = msgspec.structs.replace(self._order.recipe, finish_order=ENLARGED_FIRST)
        resolved = self._reel.resolved(self._order.shot, recipe)
        if resolved.scaled and resolved.window > 1 and self._small == 1:
            self._progress(1.0, "denoising the run after resizing to see what that does")
            try_chain(self._folder, proof, resolved, (), self._rows, self._fps, silent, self._cancel or CancelToken())


def keep_small(folder: Path, proof: Proof, made: Sequence[ProofPicture], times: int) -> None:
    """Measure the noise of a frame, then keep its pictures as means over squares of pixels.

    Parameters
    ----------
    folder : of the proof
    proof : the proof as it stands
    made : the pictures of the frame, by seed
    times : pixels a side of a square
    """
    kept = ProofMeasures(folder)
    paths = [folder / p.file for p in made]
    samples = float(np.mean([p.samples or proof.samples for p in made]))
    measure_frame(msgspec.structs.replace(proof, small=1), made[0].frame, made, kept)
    noise = kept.get(paths[:2], samples) if len(paths) > 1 else None
    for path in paths:
        whole = read_picture(path)
        write_picture(path, Picture(square_means(whole.rgb, times), {}, whole.attributes))
    if noise is not None:
        kept.put(paths[:2], samples, noise)
        kept.save()


def frame_name(frame: int | float) -> str:
    """Return a frame in a file name: 1001, or 1001_5 for 1001.5.

    Parameters
    ----------
    frame : as the shot numbers it
    """
    return f"{frame:04d}" if isinstance(frame, int) else f"{frame:.10g}".replace(".", "_")


def keep_messages(path: Path, messages: str) -> None:
    """Keep what a renderer printed beside its picture; that it cannot be kept is no reason to lose the picture.

    Parameters
    ----------
    path : of the file that is written
    messages : what the renderer printed
    """
    with contextlib.suppress(OSError):
        write_whole(path, messages.encode("utf-8", "replace"), make=True)


def _chunk_first(frame: int | float, runs: Sequence[Sequence[int]]) -> int | None:
    """The first frame of the run a frame is in, which is a chunk of its own; None for a frame by itself."""
    return next((run[0] for run in runs if frame in run), None)
