"""How fast this machine is now against when the proofs were made, and what several workers do on it together: measured on request."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.quiet import speed_words
from hasty_reel.reel.edits import measured_machine

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

RECENT = 600.0
"""Seconds for which the yardstick of a proof tells how fast the machine is now."""


class MachineSpeed:
    """The speed of this machine. changed() : it is known anew, or is being measured.

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self._now, self._at = 0.0, 0.0
        self.measuring = False
        session.planner.plan_changed.connect(self.changed)

    @property
    def now(self) -> float:
        """Seconds of the yardstick now: measured on request, or with a proof of the last minutes; 0 where neither is."""
        taken = [(datetime.fromisoformat(p.made).timestamp(), p.yardstick) for p in self._proofs() if p.yardstick > 0]
        at, seconds = max([*taken, (self._at, self._now)])
        return seconds if datetime.now().timestamp() - at < RECENT else 0.0

    def _proofs(self) -> list[Proof]:
        different = {id(e): e for e in self._session.planner.evidence.values()}  # shots may share what they read
        return [p for e in different.values() for p in e.proofs]

    @property
    def quiet(self) -> float:
        """Seconds of the yardstick when the proofs of the reel were made; 0 where none has one."""
        return self._session.planner.outlook.quiet

    @property
    def words(self) -> str:
        """How fast it is now, in words; '' where it is not known."""
        return "Measuring this machine …" if self.measuring else speed_words(self.now, self.quiet)

    def measure(self) -> None:
        """Take the yardstick now, beside everything else."""
        if self.measuring:
            return

        def _take(task) -> float:
            from hasty_reel.farm.yardstick import yardstick_seconds

            self._session.preparing.wait(lambda words: task.cancel.check())
            return yardstick_seconds(task.cancel)

        self._start(_take, self._took)

    def measure_machine(self, place: int) -> None:
        """Take speed and gain of workers of a machine of the reel from this one, beside everything else.

        Parameters
        ----------
        place : of the machine, from 0
        """
        if self.measuring:
            return
        machine = self._session.reel.machines[place]

        def _take(task) -> tuple[float, float]:
            from hasty_reel.farm.yardstick import together, yardstick_seconds

            self._session.preparing.wait(lambda words: task.cancel.check())
            return yardstick_seconds(task.cancel), together(machine.workers, task.cancel)

        def _took(found: tuple[float, float]) -> None:
            seconds, gain = found
            self._took(seconds)
            machines = self._session.reel.machines
            if place < len(machines) and machines[place].name == machine.name and machines[place].workers == machine.workers:
                speed = self.quiet / seconds if self.quiet else machine.speed
                self._session.edit(f"Measure {machine.name}", measured_machine(self._session.reel, place, speed, gain))

        self._start(_take, _took)

    def _start(self, take, took) -> None:
        self.measuring = True
        task = self._session.background.start(take)
        task.done.connect(took)
        task.failed.connect(self._session.said)
        task.ended.connect(self._ended)
        self.changed.emit()

    def _took(self, seconds: float) -> None:
        self._now, self._at = seconds, datetime.now().timestamp()

    def _ended(self) -> None:
        self.measuring = False
        self.changed.emit()
