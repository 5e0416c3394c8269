"""Edits of a list of command lines that is kept for the person: renderer links, own steps of finishing."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable
from typing import Any, Generic, TypeVar

import msgspec
from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.own.chosenlist import ChosenList, Named
from hasty_reel.programs.commands import read_command
from hasty_reel.typednumbers import read_number

Item = TypeVar("Item", bound=Named)


class CommandListModel(ABC, Generic[Item]):
    """The list; answer : what is wrong with the last edit, or what came of it. changed() : something of this.

    Parameters
    ----------
    keep : keeps another list; gives what is wrong with it, '' for nothing
    """

    changed = Signal()

    def __init__(self, keep: Callable[[ChosenList[Item]], str]) -> None:
        self._keep_list = keep
        self.answer = ""

    @property
    @abstractmethod
    def kept(self) -> ChosenList[Item]:
        """All of them and the one that is looked at."""

    @property
    def current(self) -> Item | None:
        """The one that is looked at; None where there is none."""
        return self.kept.choice or next(iter(self.kept.items), None)

    def choose(self, name: str) -> None:
        """Look at another one.

        Parameters
        ----------
        name : of it
        """
        self._keep(self.kept.choosing(name))

    def _keep(self, items: ChosenList[Item]) -> None:
        self._answer(self._keep_list(items))

    def _answer(self, words: str) -> None:
        self.answer = words
        self.changed.emit()

    def change(self, **changes: Any) -> None:
        """Change fields of the one that is looked at.

        Parameters
        ----------
        **changes : by field
        """
        now: Any = self.current
        if now is not None:
            self._keep(self.kept.changed(now, msgspec.structs.replace(now, **changes)))

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
