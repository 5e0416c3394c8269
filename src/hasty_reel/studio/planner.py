"""Evidence and plan of an open reel: read and computed anew when something they rest on changes.

The flow goes one way: an edit makes a new reel; reel and evidence make a new plan; views are told and
read it. No view keeps figures of its own. The command line plans with the same `plan_reel`, at once.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from psygnal import Signal

from hasty_reel.evidence.rows import Evidence, EvidenceReader
from hasty_reel.measure.seen import Eyes
from hasty_reel.plan.outlook import Outlook, PlanMemory
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot
from hasty_reel.studio.background import Background, BackgroundTask
from hasty_reel.studio.eventloop import EventLoop, Timer

TICK_SECONDS = 30.0
"""Time goes on: how often the deadline is looked at anew."""


def plan_reel(reel: Reel, proofs_root: Path, eyes: Eyes, only: str | None = None) -> tuple[Outlook, list[str]]:
    """Read the evidence of a reel and plan from it, at once.

    Parameters
    ----------
    reel : the reel
    proofs_root : folder of its proofs
    eyes : who looks
    only : a shot or layer that alone is planned; None for all

    Returns
    -------
    outlook
        Plans by shot or layer, the deadline they make, and what stands in the way
    faults
        What could not be read, in sentences
    """
    tasks = list(reel.tasks) if only is None else list(reel.shot(only).as_layers())
    evidence = EvidenceReader().read_all(proofs_root, tasks)
    # layers may share what they read: each fault is told once
    faults = [fault for found in {id(e): e for e in evidence.values()}.values() for fault in found.faults]
    return PlanMemory(eyes).outlook_of_tasks(reel, tasks, evidence, datetime.now().astimezone()), faults


class Planner:
    """Evidence by shot, and the outlook from it; stale : a newer plan is under way.

    Parameters
    ----------
    reel, current : give the reel as it stands, and the id of the shot or layer that is looked at
    background : in which is read and planned
    loop : for the look at the deadline as time goes on
    eyes : who looks
    """

    evidence_changed = Signal()
    planning = Signal()
    plan_changed = Signal()
    said = Signal(str)

    def __init__(self, reel: Callable[[], Reel], current: Callable[[], str], background: Background, loop: EventLoop, eyes: Eyes) -> None:
        self._reel, self._current, self._background = reel, current, background
        self.evidence: dict[str, Evidence] = {}
        self.outlook = Outlook()
        self.stale = True
        self._reader = EvidenceReader()
        self._memory = PlanMemory(eyes)
        self._sources: dict[str, tuple[str, int]] = {}
        self._looked_through: dict[int, Shot] = {}
        self._planning: BackgroundTask | None = None
        self._wanted = False
        self.ahead: Callable[[dict[str, Evidence]], None] = lambda evidence: None
        """Called with what was read, in the thread that read it, before it is told."""
        self.give_way: Callable[[], None] = lambda: None
        """Called before planning, in its thread: returns when nothing that is waited for more impatiently needs the processors."""
        self._timer = Timer(loop, TICK_SECONDS, self.replan, again=True)
        self._timer.start()

    def set_eyes(self, eyes: Eyes) -> None:
        """Plan for other eyes from now on.

        Parameters
        ----------
        eyes : who looks
        """
        self._memory.eyes = eyes
        self.replan()

    def read_evidence(self, proofs_root: Path, only: list[Shot] | None = None) -> None:
        """Read the proofs anew and plan from them.

        Parameters
        ----------
        proofs_root : folder of the reel's proofs
        only : shots or layers whose proofs are read; None for all
        """
        reader = self._reader
        wanted = only if only is not None else [t for s in self._reel().shots for t in s.as_layers()]
        self._sources.update((t.id, (t.proofs, t.offset)) for t in wanted)

        def _read(task: BackgroundTask) -> dict[str, Evidence]:
            found = reader.read_all(proofs_root, wanted)
            self.ahead(found)
            return found

        task = self._background.start(_read)
        task.done.connect(self._have_evidence)
        task.failed.connect(self.said)

    def read_unread(self, proofs_root: Path) -> None:
        """Read the proofs of shots and layers that were not read, or not at these frame numbers; nothing before the first reading.

        Parameters
        ----------
        proofs_root : folder of the reel's proofs
        """
        if self.evidence and (unread := self._unread()):
            self.read_evidence(proofs_root, unread)

    def _unread(self) -> list[Shot]:
        known, self._looked_through = self._looked_through, {id(s): s for s in self._reel().shots}
        parts = (t for k, s in self._looked_through.items() if k not in known for t in s.as_layers())
        return [t for t in parts if self._sources.get(t.id) != (t.proofs, t.offset)]

    def _have_evidence(self, evidence: dict[str, Evidence]) -> None:
        new_faults = {f for e in evidence.values() for f in e.faults} - {f for e in self.evidence.values() for f in e.faults}
        self.evidence = {**self.evidence, **evidence}
        for fault in sorted(new_faults):
            self.said.emit(fault)
        self.evidence_changed.emit()
        self.replan()

    def replan(self) -> None:
        """Compute the plan from reel and evidence; the newest wish wins, everything else goes on meanwhile."""
        if not self.evidence:
            return
        self._wanted = self.stale = True  # at once: a plan that has come but not ended must not pass for the new one
        if self._planning is None:
            self._begin()

    def _begin(self) -> None:
        self._wanted = False
        self.stale = True
        self.planning.emit()
        reel, shot_id, evidence, memory = self._reel(), self._current(), self.evidence, self._memory
        first = not self.outlook.plans  # then there is something to look at before the deadline is known

        def _plan(task: BackgroundTask) -> Outlook:
            self.give_way()
            return memory.outlook(reel, shot_id, evidence, datetime.now().astimezone(), task.send if first else None)

        self._planning = task = self._background.start(_plan)
        task.came.connect(self._have_plans)
        task.done.connect(self._have_outlook)
        task.failed.connect(lambda words: self._cannot(shot_id, words))
        task.ended.connect(self._planned)

    def _have_plans(self, outlook: Outlook) -> None:
        """Show the first plans of a session, still without their deadline."""
        self.outlook = outlook
        self.plan_changed.emit()

    def _have_outlook(self, outlook: Outlook) -> None:
        self.outlook = outlook
        self.stale = self._wanted
        self.plan_changed.emit()

    def _cannot(self, shot_id: str, words: str) -> None:
        """Say that there is no plan: the one before must not be taken for it, nor wait for ever to be made anew."""
        self.said.emit(words)
        self.outlook = Outlook(lacks={**{t.id: "not planned" for t in self._reel().tasks}, shot_id: f"It could not be planned. {words}"})
        self.stale = self._wanted
        self.plan_changed.emit()

    def _planned(self) -> None:
        self._planning = None
        if self._wanted:
            self._begin()

    def close(self) -> None:
        """Plan no more."""
        self._timer.stop()
