"""Edits of the artist's own steps of finishing."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec

from hasty_reel.own.chosenlist import ChosenList
from hasty_reel.programs.ownsteps import OwnStep
from hasty_reel.studio.commandlist import CommandListModel

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

FIRST = OwnStep(name="Own step", command=("program", "{input}", "{output}"))
"""What a new step begins with: to be replaced by the artist's program."""


class OwnStepsModel(CommandListModel[OwnStep]):
    """The own steps.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        super().__init__(session.own.set_steps)
        self._session = session
        session.own.steps_changed.connect(self.changed)

    @property
    def kept(self) -> ChosenList[OwnStep]:
        """All of them and the one that is looked at."""
        return self._session.own.steps

    def add(self) -> None:
        """Add a step, to be filled in, and look at it."""
        taken = any(s.name == FIRST.name for s in self.kept.items)
        self._keep(self.kept.added(msgspec.structs.replace(FIRST, name=self.kept.free_name(FIRST.name) if taken else FIRST.name)))

    def remove(self) -> None:
        """Take the step that is looked at out of the list; recipes that name it say so."""
        if self.current is not None:
            self._keep(self.kept.without(self.current))
