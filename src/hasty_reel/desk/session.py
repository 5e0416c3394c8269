"""The open reel: its history, its evidence, and its plan, computed beside the window's thread.

The flow goes one way: an edit makes a new reel; reel and evidence make a new plan;
views are told and read it. No view keeps figures of its own.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from hasty_reel.desk.jobs import Job
from hasty_reel.desk.openreel import OpenReel
from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence, EvidenceReader
from hasty_reel.evidence.sheet import Card, marked, unmarked
from hasty_reel.farm.queue import ProofQueue
from hasty_reel.machinecode import WORDS as PREPARING
from hasty_reel.machinecode import is_prepared, prepare
from hasty_reel.measure.seen import Eyes
from hasty_reel.plan.keeper import Outlook, PlanKeeper
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits import with_fields, with_hold, with_line, with_settings, with_shot_fields
from hasty_reel.reel.rate import place_text
from hasty_reel.reel.recipe import LINE, Recipe, Value
from hasty_reel.reel.shot import Hold, Shot

TICK_MS = 30_000


class Session(OpenReel):
    """One open reel that is looked at: shot, playhead and selection, its evidence and its plan."""

    evidence_changed = Signal()
    planning = Signal()
    plan_changed = Signal()
    shot_changed = Signal()
    frame_changed = Signal(int)
    selection_changed = Signal()
    queue_changed = Signal()
    cards_changed = Signal()
    wanted_proof = Signal(object)
    preparing = Signal()

    def __init__(self, path: Path, parent: QObject | None = None) -> None:
        super().__init__(path, parent)
        self.queue = ProofQueue()
        self._prepared = threading.Event()
        self.prepared_share = 0.0
        if is_prepared():
            self._prepared.set()
        self._cards: tuple[tuple, list[Card]] | None = None
        self.shot_id = self.reel.shots[0].id
        self.frame = self.shot.first
        self.selection: tuple[int, int] | None = None
        self.evidence: dict[str, Evidence] = {}
        self.outlook = Outlook()
        self.stale = True
        self._reader = EvidenceReader()
        self._sources: dict[str, tuple[str, int]] = {}
        self._looked_through: dict[int, Shot] = {}
        self._keeper = PlanKeeper(self.watchers.eyes)
        self._planning: Job | None = None
        self._wanted = False
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.replan)
        self._timer.start(TICK_MS)
        self.eyes_changed.connect(self._new_eyes)
        self.path_changed.connect(self._moved)

    @property
    def shot(self) -> Shot:
        """The shot that is looked at."""
        return self.reel.shot(self.shot_id)

    @property
    def recipe(self) -> Recipe:
        """Its recipe with its departures."""
        return self.reel.recipe_of(self.shot)

    def place_words(self, frame: int | None = None) -> str:
        """A frame (that under the playhead) with its time and timecode in the film, as they are shown everywhere."""
        frame, reel = self.frame if frame is None else frame, self.reel
        place = reel.film_place(self.shot, frame)
        if place is None:
            return f"{frame} · not in the film"
        return place_text(frame, place, reel.fps, reel.start_frame, reel.drop_frame)

    @property
    def plan(self) -> ShotPlan | None:
        """Its plan; None while there is none."""
        return self.outlook.plans.get(self.shot_id)

    @property
    def shot_evidence(self) -> Evidence:
        """What the proofs of the shot say."""
        return self.evidence.get(self.shot_id, Evidence())

    @property
    def cards(self) -> list[Card]:
        """The cards of the shot's proofs, the oldest first; laid out once for evidence and reel."""
        rests_on = (self.shot_evidence, self.reel.picture_size, self.reel.rate, self.eyes)
        # evidence is told apart as an object: it holds arrays, and is read anew as a whole
        if self._cards is None or self._cards[0][0] is not rests_on[0] or self._cards[0][1:] != rests_on[1:]:
            self._cards = (rests_on, unmarked(self.shot_evidence, self.reel, self.eyes))
        return marked(self._cards[1], self.shot)

    # -- edits

    def set_line(self, field_name: str, value: Value) -> None:
        """Set a line of the recipe; a value that does not do is said, and nothing changes."""
        self.do(f"Set {LINE[field_name].words}", lambda reel: with_line(reel, self.shot_id, field_name, value))

    def set_hold(self, hold: Hold) -> None:
        """Set what the budget of the shot holds."""
        words = {"noise": "Hold noise", "total": "Hold total", "cap": "Hold a cap"}[hold.kind]
        self.do(words, lambda reel: with_hold(reel, self.shot_id, hold))

    def set_recipe(self, name: str) -> None:
        """Point the shot to another recipe."""
        self.do(f"Use recipe {name}", lambda reel: with_shot_fields(reel, self.shot_id, recipe=name))

    def set_due(self, due: datetime) -> None:
        """Set when everything must be ready."""
        self.do("Set due time", lambda reel: with_fields(reel, due=due.isoformat(timespec="seconds")))

    def use_settings(self, proof: Proof) -> None:
        """Make the settings of a proof those of the shot's recipe; one made under a draft cut is refused."""
        if proof.draft:
            self.said.emit(f"Proof {proof.id} was made under draft cut '{proof.draft}': its settings are not for delivery.")
            return
        self.use_recipe(proof.recipe, f"Use settings of {proof.id}")

    def use_recipe(self, recipe: Recipe, name: str) -> None:
        """Make settings those of the shot's recipe."""
        self.do(name, lambda reel: with_settings(reel, self.shot_id, recipe))

    def _after_edit(self) -> None:
        if not self.reel.has_shot(self.shot_id):
            whole = self.shot_id.partition(".")[0]
            self.show_shot(whole if self.reel.has_shot(whole) else self.reel.shots[0].id)
        self.show_frame(self.frame)
        self.select(self.selection)
        super()._after_edit()
        self.cards_changed.emit()
        if self.evidence and (unread := self._unread()):
            self.read_evidence(unread)
        self.replan()

    def _moved(self) -> None:
        """The reel lies elsewhere: its proofs are read anew where they went with it."""
        if self.proofs_root.is_dir():
            self.read_evidence()

    def _new_eyes(self) -> None:
        self._keeper.eyes = self.eyes
        self.cards_changed.emit()
        self.replan()

    # -- looking around: no edits

    def show_shot(self, shot_id: str) -> None:
        """Look at another shot, or at a layer."""
        self.shot_id = shot_id
        self.selection = None
        self.frame = self._within(self.frame)
        self.shot_changed.emit()
        self.selection_changed.emit()
        self.frame_changed.emit(self.frame)
        self.replan()

    def show_frame(self, frame: int) -> None:
        """Move the playhead."""
        frame = self._within(int(frame))
        if frame != self.frame:
            self.frame = frame
            self.frame_changed.emit(frame)

    def select(self, frames: tuple[int, int] | None) -> None:
        """Select a stretch of frames, or none."""
        if frames is not None:
            low, high = sorted(frames)
            frames = (self._within(low), self._within(high))
        if frames != self.selection:
            self.selection = frames
            self.selection_changed.emit()

    def _within(self, frame: int) -> int:
        shot = self.shot
        return min(max(frame, shot.begin), shot.past - 1)

    # -- the renderer's machine code

    def prepare(self) -> None:
        """Have the machine code of the renderer made, where it is not there yet, beside everything else."""
        if self._prepared.is_set():
            return
        job = self.jobs.start(lambda job: prepare(job.tell, job.cancel))
        job.progressed.connect(self._preparing)
        job.ended.connect(self._is_prepared)
        self.preparing.emit()

    def _preparing(self, share: float, words: str) -> None:
        self.prepared_share = share
        self.preparing.emit()

    def _is_prepared(self) -> None:
        self._prepared.set()
        self.preparing.emit()

    @property
    def prepared_words(self) -> str:
        """That the renderer is being prepared, and how far it is; '' where it is ready."""
        return "" if self._prepared.is_set() else f"{PREPARING}: {100 * self.prepared_share:.0f} %"

    def wait_until_prepared(self, tell: Callable[[str], None]) -> None:
        """Stay here until the renderer is ready, in a thread that would use it; `tell` may raise to leave."""
        while not self._prepared.wait(0.2):
            tell(self.prepared_words)

    # -- evidence and plan

    def _unread(self) -> list[Shot]:
        """Shots and layers whose proofs have not been read, or not at these frame numbers."""
        known, self._looked_through = self._looked_through, {id(s): s for s in self.reel.shots}
        parts = (t for k, s in self._looked_through.items() if k not in known for t in s.as_layers())
        return [t for t in parts if self._sources.get(t.id) != (t.proofs, t.offset)]

    def read_evidence(self, only: list[Shot] | None = None) -> None:
        """Read the proofs anew, of all shots or of some alone, and plan from them."""
        root, reader = self.proofs_root, self._reader
        wanted = only if only is not None else [t for s in self.reel.shots for t in s.as_layers()]
        self._sources.update((t.id, (t.proofs, t.offset)) for t in wanted)
        reel, current, eyes = self.reel, self.shot_id, self.eyes

        def read(job: Job) -> tuple[dict[str, Evidence], str, Reel, list[Card], Eyes]:
            found = reader.read_all(root, wanted)
            return found, current, reel, unmarked(found[current], reel, eyes) if current in found else [], eyes

        job = self.jobs.start(read)
        job.done.connect(self._have_evidence)
        job.failed.connect(self.said)

    def _have_evidence(self, thing: tuple[dict[str, Evidence], str, Reel, list[Card], Eyes]) -> None:
        evidence, current, reel, laid_out, eyes = thing
        if current in evidence and self.shot_id == current:
            self._cards = ((evidence[current], reel.picture_size, reel.rate, eyes), laid_out)
        new_faults = {f for e in evidence.values() for f in e.faults} - {f for e in self.evidence.values() for f in e.faults}
        self.evidence = {**self.evidence, **evidence}
        for fault in sorted(new_faults):
            self.said.emit(fault)
        self.evidence_changed.emit()
        self.replan()

    def replan(self) -> None:
        """Compute the plan from reel and evidence; the newest wish wins, the window goes on meanwhile."""
        if not self.evidence:
            return
        self._wanted = True
        if self._planning is None:
            self._begin()

    def _begin(self) -> None:
        self._wanted = False
        self.stale = True
        self.planning.emit()
        reel, shot_id, evidence, keeper = self.reel, self.shot_id, self.evidence, self._keeper
        job = self.jobs.start(lambda job: keeper.outlook(reel, shot_id, evidence, datetime.now().astimezone()))
        self._planning = job
        job.done.connect(self._have_outlook)
        job.failed.connect(self.said)
        job.ended.connect(self._planned)

    def _have_outlook(self, outlook: Outlook) -> None:
        self.outlook = outlook
        self.stale = self._wanted
        self.plan_changed.emit()

    def close(self) -> None:
        """Let the reel go, and plan no more."""
        self._timer.stop()
        super().close()

    def _planned(self) -> None:
        self._planning = None
        if self._wanted:
            self._begin()
