"""The open reel: its history, its evidence, and its plan, computed beside the window's thread.

The flow goes one way: an edit makes a new reel; reel and evidence make a new plan;
views are told and read it. No view keeps figures of its own.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

import msgspec
from PySide6.QtCore import QObject, QTimer, Signal

from hasty_reel.desk.jobs import Job, Jobs
from hasty_reel.errors import CannotSolve, HastyReelError
from hasty_reel.plan.deadline import Deadline, allowed_seconds, deadline
from hasty_reel.plan.prices import Price, price_tags
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.predict.evidence import Evidence, EvidenceReader
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel, checked_reel, with_hold, with_line
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.history import History
from hasty_reel.reel.recipe import LINE, Recipe, Value
from hasty_reel.reel.shot import Hold, Shot

TICK_MS = 30_000


@dataclass(frozen=True)
class Outlook:
    """What the views read: plans by shot, prices of the current shot, the deadline, why a shot has no plan."""

    plans: dict[str, ShotPlan] = field(default_factory=dict)
    prices: dict[str, Price] = field(default_factory=dict)
    deadline: Deadline | None = None
    allowed: float = 0.0
    lacks: dict[str, str] = field(default_factory=dict)


class Session(QObject):
    """One open reel."""

    reel_changed = Signal()
    evidence_changed = Signal()
    planning = Signal()
    plan_changed = Signal()
    shot_changed = Signal()
    frame_changed = Signal(int)
    selection_changed = Signal()
    said = Signal(str)

    def __init__(self, path: Path, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.jobs = Jobs(self)
        self.path = path
        self.history = History(read_reel(path))
        self.saved = self.history.reel
        self.shot_id = self.reel.shots[0].id
        self.frame = self.shot.first
        self.selection: tuple[int, int] | None = None
        self.evidence: dict[str, Evidence] = {}
        self.outlook = Outlook()
        self.stale = True
        self._reader = EvidenceReader()
        self._models: dict[str, ShotModel | str] = {}
        self._planning: Job | None = None
        self._wanted = False
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.replan)
        self._timer.start(TICK_MS)

    @property
    def reel(self) -> Reel:
        """The reel as it stands."""
        return self.history.reel

    @property
    def shot(self) -> Shot:
        """The shot that is looked at."""
        return self.reel.shot(self.shot_id)

    @property
    def recipe(self) -> Recipe:
        """Its recipe with its departures."""
        return self.reel.recipe_of(self.shot)

    @property
    def plan(self) -> ShotPlan | None:
        """Its plan; None while there is none."""
        return self.outlook.plans.get(self.shot_id)

    @property
    def proofs_root(self) -> Path:
        """Folder of the proofs, beside the reel."""
        return self.path.parent / self.reel.proofs

    @property
    def shot_evidence(self) -> Evidence:
        """What the proofs of the shot say."""
        return self.evidence.get(self.shot_id, Evidence())

    @property
    def changed(self) -> bool:
        """Whether there is something to save."""
        return self.reel != self.saved

    # -- edits

    def edit(self, name: str, reel: Reel) -> None:
        """Make an edit; it can be undone under its name."""
        if self.history.edit(name, reel):
            self._after_edit()

    def set_line(self, field_name: str, value: Value) -> None:
        """Set a line of the recipe; a value that does not do is said, and nothing changes."""
        label = LINE[field_name].label.lower()
        try:
            self.edit(f"Set {label}", with_line(self.reel, self.shot_id, field_name, value))
        except HastyReelError as error:
            self.said.emit(str(error))
            self.reel_changed.emit()

    def set_hold(self, hold: Hold) -> None:
        """Set what the budget of the shot holds."""
        words = {"noise": "Hold noise", "total": "Hold total", "cap": "Hold a cap"}[hold.kind]
        try:
            self.edit(words, with_hold(self.reel, self.shot_id, hold))
        except HastyReelError as error:
            self.said.emit(str(error))
            self.reel_changed.emit()

    def set_recipe(self, name: str) -> None:
        """Point the shot to another recipe."""
        shots = tuple(msgspec.structs.replace(s, recipe=name) if s.id == self.shot_id else s for s in self.reel.shots)
        try:
            self.edit(f"Use recipe {name}", checked_reel(msgspec.structs.replace(self.reel, shots=shots)))
        except HastyReelError as error:
            self.said.emit(str(error))

    def set_due(self, due: datetime) -> None:
        """Set when everything must be ready."""
        text = due.isoformat(timespec="seconds")
        self.edit("Set due time", checked_reel(msgspec.structs.replace(self.reel, due=text)))

    def undo(self) -> None:
        """Take the last edit back."""
        self.history.undo()
        self._after_edit()

    def redo(self) -> None:
        """Make the last edit taken back again."""
        self.history.redo()
        self._after_edit()

    def save(self, path: Path | None = None) -> bool:
        """Save the reel; a fault is said, and False returned."""
        try:
            save_reel(path or self.path, self.reel)
        except HastyReelError as error:
            self.said.emit(str(error))
            return False
        if path is not None and path.parent != self.path.parent:
            self.said.emit(f"Saved as {path.name}. Its proofs stay in {self.proofs_root}.")
        self.path = path or self.path
        self.saved = self.reel
        self.reel_changed.emit()
        return True

    def _after_edit(self) -> None:
        if all(s.id != self.shot_id for s in self.reel.shots):
            self.show_shot(self.reel.shots[0].id)
        self.reel_changed.emit()
        self.replan()

    # -- looking around: no edits

    def show_shot(self, shot_id: str) -> None:
        """Look at another shot."""
        self.shot_id = shot_id
        self.selection = None
        self.frame = min(max(self.frame, self.shot.first), self.shot.last)
        self.shot_changed.emit()
        self.selection_changed.emit()
        self.frame_changed.emit(self.frame)
        self.replan()

    def show_frame(self, frame: int) -> None:
        """Move the playhead."""
        frame = min(max(int(frame), self.shot.first), self.shot.last)
        if frame != self.frame:
            self.frame = frame
            self.frame_changed.emit(frame)

    def select(self, frames: tuple[int, int] | None) -> None:
        """Select a stretch of frames, or none."""
        if frames is not None:
            low, high = sorted(frames)
            frames = (max(low, self.shot.first), min(high, self.shot.last))
        if frames != self.selection:
            self.selection = frames
            self.selection_changed.emit()

    # -- evidence and plan

    def read_evidence(self) -> None:
        """Read the proofs anew and plan from them."""
        reel, root = self.reel, self.proofs_root
        job = self.jobs.start(lambda job: {s.id: self._reader.read(root, s.id) for s in reel.shots})
        job.done.connect(self._have_evidence)
        job.failed.connect(self.said)

    def _have_evidence(self, evidence: dict[str, Evidence]) -> None:
        new_faults = {f for e in evidence.values() for f in e.faults} - {f for e in self.evidence.values() for f in e.faults}
        self.evidence = evidence
        self._models = {}
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
        reel, shot_id, evidence, models = self.reel, self.shot_id, self.evidence, self._models
        job = self.jobs.start(lambda job: make_outlook(reel, shot_id, evidence, models, datetime.now().astimezone()))
        self._planning = job
        job.done.connect(self._have_outlook)
        job.failed.connect(self.said)
        job.ended.connect(self._planned)

    def _have_outlook(self, outlook: Outlook) -> None:
        self.outlook = outlook
        self.stale = self._wanted
        self.plan_changed.emit()

    def _planned(self) -> None:
        self._planning = None
        if self._wanted:
            self._begin()


def make_outlook(reel: Reel, shot_id: str, evidence: dict[str, Evidence], models: dict[str, ShotModel | str], now: datetime) -> Outlook:
    """Plans, prices and deadline; `models` keeps what is learnt from evidence until it changes."""
    plans, lacks = {}, {}
    for shot in reel.shots:
        model = models.get(shot.id)
        if model is None or (isinstance(model, ShotModel) and list(model.frames) != list(shot.frames)):
            try:
                model = ShotModel(evidence.get(shot.id, Evidence()), shot.frames)
            except CannotSolve as error:
                model = str(error)
            models[shot.id] = model
        if isinstance(model, str):
            lacks[shot.id] = model
        else:
            plans[shot.id] = plan_shot(reel, shot, model)
    prices = {}
    current = models.get(shot_id)
    if isinstance(current, ShotModel):
        prices = price_tags(reel, reel.shot(shot_id), current, plans[shot_id])
    return Outlook(plans, prices, deadline(reel, plans, now), allowed_seconds(reel, now), lacks)
