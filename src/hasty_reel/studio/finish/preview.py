"""A frame of a proof run before and after the finishing chain of the shot's recipe, computed beside everything else."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Literal

import numpy as np
from psygnal import Signal

from hasty_reel.evidence.proof import Proof
from hasty_reel.farm.proofrun import delivered_size, picture_of, runs_of
from hasty_reel.image.resize import resize
from hasty_reel.own.finishmemory import finish_memory
from hasty_reel.pictures.colour import codes8
from hasty_reel.settings.finishorder import USUAL, own_names
from hasty_reel.studio.background import BackgroundTask

if TYPE_CHECKING:
    from hasty_reel.finish.chain import Chain
    from hasty_reel.finish.finisher import Finisher
    from hasty_reel.studio.session import Session

Mode = Literal["wipe", "taken", "changed"]
MODES: tuple[tuple[Mode, str], ...] = (
    ("wipe", "Before and after"), ("taken", "What is taken out"), ("changed", "What changes besides noise"),
)  # fmt: skip
TAKEN_TIMES = 4.0
"""How many times what is taken out is raised, around middle grey."""
CHANGED_L = 5.0
"""L* of change that is shown white."""
AVERAGED = 5
"""Pixels a side over which a change is averaged: of a single pixel noise and change are not told apart."""
KEPT = 24
"""Frames that are kept as they were computed."""


@dataclass(frozen=True, eq=False)
class Finished:
    """A frame before and after, as (h, w, 3) display codes.

    taken : what the chain took out of it, around middle grey; changed : what it changed besides noise, None with a single seed
    """

    before: np.ndarray
    after: np.ndarray
    taken: np.ndarray
    changed: np.ndarray | None


class FinishPreview:
    """The frame that is looked at. changed() : it, or what is shown of it.

    proof : whose run is shown; None where no proof has three frames in a row; frames : of the run; frame : that is looked at
    mode : what is shown

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.proof: Proof | None = None
        self.frames: list[int] = []
        self.frame = 0
        self.mode: Mode = "wipe"
        self._kept: dict[tuple, Finished] = {}
        self._faults: dict[tuple, str] = {}
        self._finishers: dict[tuple, Finisher] = {}
        self._task: BackgroundTask | None = None
        self._watchers = 0
        planner = session.planner
        for signal in (planner.evidence_changed, session.own.steps_changed):
            signal.connect(self._forgive)
        for signal in (planner.evidence_changed, session.playhead.shot_changed, session.reel_changed, session.own.steps_changed):
            signal.connect(self._look)
        session.playhead.frame_changed.connect(lambda frame: self._look())

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at it: else nothing is computed.

        Parameters
        ----------
        watched : whether it is in sight
        """
        self._watchers = max(0, self._watchers + (1 if watched else -1))
        self._look()

    def show(self, mode: Mode) -> None:
        """Show the frame otherwise.

        Parameters
        ----------
        mode : what is shown
        """
        self.mode = mode
        self.changed.emit()

    def step(self, way: int) -> None:
        """Look at the next frame of the run, or the one before; around its ends.

        Parameters
        ----------
        way : -1 or 1
        """
        if self.frames:
            at = self.frames.index(self.frame) if self.frame in self.frames else 0
            self._session.playhead.show_frame(self.frames[(at + way) % len(self.frames)])

    @property
    def chain(self) -> Chain:
        """What the recipe of the shot does to a frame of the proof: resized as a rendered frame is, where the order of steps matters."""
        from hasty_reel.finish.chain import Chain  # brings the compiler along

        resolved = self._session.reel.resolved(self._session.shot)
        recipe = resolved.recipe
        kept = self._session.own.steps.items
        own = [step for step in kept if step.name in recipe.finish_order and not step.folder]
        order = tuple(name for name in recipe.finish_order if name in USUAL or name in [step.name for step in own])
        another = self.proof is not None and (order != USUAL)
        size = delivered_size((self.proof.width, self.proof.height), recipe.render_scale) if self.proof and another else None
        return replace(Chain.of(resolved, size, own), order=order)

    @property
    def left_out(self) -> str:
        """Steps of the chain that the picture is shown without, in words; '' where there are none."""
        own = {step.name: step for step in self._session.own.steps.items}
        names = [n for n in own_names(self._session.recipe.finish_order) if n not in own or own[n].folder]
        return f"shown without {', '.join(names)}" if names else ""

    @property
    def shown(self) -> Finished | None:
        """The frame as it was computed; None while it is under way."""
        return None if self.proof is None else self._kept.get(self._key)

    @property
    def _key(self) -> tuple:
        return self._shown_proof, self.frame, self.chain

    @property
    def _shown_proof(self) -> Path:
        """Folder of the proof whose run is shown: proofs of different shots have the same names."""
        assert self.proof is not None
        return self._session.evidence.folders[self.proof.id]

    @property
    def words(self) -> str:
        """What is shown, or what is missing."""
        if self.proof is None:
            return "No proof has three frames in a row: render a run of five or more in Proofs, and see here what finishing does to it."
        shown = self.shown
        if shown is None:
            return self._faults.get(self._key) or f"Finishing frame {self.frame} …"
        if self.mode == "changed" and shown.changed is None:
            return "One seed alone cannot tell noise from what changes: a run with two seeds can."
        return dict(MODES)[self.mode]

    def _forgive(self) -> None:
        """What failed may do with what there is now."""
        self._faults.clear()

    def _look(self) -> None:
        """Find the run and the frame, and compute what is not there."""
        if not self._watchers:
            return
        found = self._run()
        self.proof, self.frames = found if found is not None else (None, [])
        if self.frames:
            at = self._session.playhead.frame
            self.frame = min(self.frames, key=lambda f: abs(f - at))
        self.changed.emit()
        if self.proof is not None and self.shown is None and self._task is None and self._key not in self._faults:
            self._compute(self.proof)

    def _run(self) -> tuple[Proof, list[int]] | None:
        """The run to look at: of the widest pictures, the newest of these; with two seeds where there are two."""
        best = None
        for proof in self._session.evidence.proofs:
            runs = [] if not proof.as_rendered or proof.id in self._session.shot.put_away else runs_of(list(proof.by_frame()))
            if runs and (best is None or (proof.frame_size[0], _seeds(proof)) >= (best[0].frame_size[0], _seeds(best[0]))):
                best = proof, runs[0]
        return best

    def _compute(self, proof: Proof) -> None:
        chain, frame, run = self.chain, self.frame, list(self.frames)
        folder = self._shown_proof
        off = self._session.shot.offset - proof.offset

        def _work(task: BackgroundTask) -> Finished:
            self._session.preparing.wait(lambda words: task.cancel.check())
            return self._finish(proof, folder, chain, frame - off, [f - off for f in run])

        self._task = task = self._session.background.start(_work)
        key = self._key

        def _done(made: Finished) -> None:
            while len(self._kept) >= KEPT:
                del self._kept[next(iter(self._kept))]
            self._kept[key] = made
            self.changed.emit()  # whoever asks for what is shown from now on gets it: the views have it too

        task.done.connect(_done)
        task.failed.connect(partial(self._faults.__setitem__, key))
        task.ended.connect(self._ended)

    def _ended(self) -> None:
        self._task = None
        self._look()

    def _finish(self, proof: Proof, folder: Path, chain: Chain, frame: int, run: list[int]) -> Finished:
        from hasty_reel.finish.finisher import Finisher

        pictures = proof.by_frame()
        sides = []
        for seed in range(min(2, len(pictures[frame]))):
            key = (folder, chain, seed)
            if key not in self._finishers:
                while len(self._finishers) >= 4:
                    del self._finishers[next(iter(self._finishers))]
                self._finishers[key] = Finisher(chain, partial(picture_of, folder, proof, seed=seed), memory=finish_memory())
            made = self._finishers[key].finish(frame, chain.needed(frame, set(run)))
            before = picture_of(folder, proof, frame, seed).rgb
            sides.append((resize(before, made.width, made.height), made.rgb))
        return compared(sides)


def compared(sides: list[tuple[np.ndarray, np.ndarray]]) -> Finished:
    """Return a frame before and after, what was taken out, and what changed besides noise.

    Parameters
    ----------
    sides : one or two seeds, each (h, w, 3) scene-linear light before and after
    """
    import cv2

    from hasty_reel.finish.effect import changed_squares

    before, after = (codes8(p) for p in sides[0])
    taken = np.clip(128.0 + TAKEN_TIMES * (before.astype(np.float32) - after), 0, 255).astype(np.uint8)
    changed = None
    if len(sides) > 1:
        both = np.sqrt(np.maximum(cv2.blur(changed_squares(*sides), (AVERAGED, AVERAGED)), 0.0))
        grey = np.clip(both / CHANGED_L * 255.0, 0, 255).astype(np.uint8)
        changed = np.repeat(grey[..., None], 3, axis=2)
    return Finished(before, after, taken, changed)


def _seeds(proof: Proof) -> int:
    return min(2, min(len(p) for p in proof.by_frame().values()))
