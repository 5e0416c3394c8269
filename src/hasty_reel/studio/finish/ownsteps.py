"""Edits of the artist's own steps of finishing."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import msgspec
from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.own.chosenlist import ChosenList
from hasty_reel.programs.commands import read_command
from hasty_reel.programs.ownsteps import OwnStep
from hasty_reel.reel.numbers import read_number

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

FIRST = OwnStep(name="Own step", command=("program", "{input}", "{output}"))
"""What a new step begins with: to be replaced by the artist's program."""


class OwnStepsModel:
    """The own steps; answer : what is wrong with the last edit. changed() : something of this.

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.answer = ""
        session.own.steps_changed.connect(self.changed)

    @property
    def steps(self) -> ChosenList[OwnStep]:
        """All steps and the one that is looked at."""
        return self._session.own.steps

    @property
    def step(self) -> OwnStep | None:
        """The step that is looked at; None where there is none."""
        return self.steps.choice or next(iter(self.steps.items), None)

    def choose(self, name: str) -> None:
        """Look at another step.

        Parameters
        ----------
        name : of the step
        """
        self._keep(self.steps.choosing(name))

    def _keep(self, steps: ChosenList[OwnStep]) -> None:
        self._answer(self._session.own.set_steps(steps))

    def _answer(self, words: str) -> None:
        self.answer = words
        self.changed.emit()

    def change(self, **changes: Any) -> None:
        """Change fields of the step that is looked at.

        Parameters
        ----------
        **changes : by field
        """
        step = self.step
        if step is None:
            return
        self._keep(self.steps.changed(step, msgspec.structs.replace(step, **changes)))

    def type_command(self, text: str) -> None:
        """Set the command as it is typed.

        Parameters
        ----------
        text : arguments, the program first
        """
        try:
            self.change(command=read_command(text))
        except HastyReelError as error:
            self._answer(str(error))

    def type_timeout(self, text: str) -> None:
        """Set the time-out as it is typed.

        Parameters
        ----------
        text : seconds
        """
        try:
            value = read_number(text)
        except ValueError:
            value = None
        if value is None:
            self._answer(f"Time-out: '{text[:40]}' is no number; expected seconds.")
            return
        self.change(timeout=float(value))

    def type_progress(self, text: str) -> None:
        """Set the pattern of the progress as it is typed.

        Parameters
        ----------
        text : regular expression; '' or 'none' for none
        """
        self.change(progress="" if text in ("none", "") else text)

    def add(self) -> None:
        """Add a step, to be filled in, and look at it."""
        taken = any(s.name == FIRST.name for s in self.steps.items)
        self._keep(self.steps.added(msgspec.structs.replace(FIRST, name=self.steps.free_name(FIRST.name) if taken else FIRST.name)))

    def remove(self) -> None:
        """Take the step that is looked at out of the list; recipes that name it say so."""
        if self.step is not None:
            self._keep(self.steps.without(self.step))
