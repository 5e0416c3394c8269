"""Undo: the documents before and after, each with the name of its edit; and edits that are only tried, until they are kept or dropped."""

from __future__ import annotations

from collections.abc import Callable

from hasty_reel.reel.document import Reel

DEPTH = 500


class History:
    """The current reel, the way to it, and the way on after an undo.

    Parameters
    ----------
    reel : the reel
    """

    def __init__(self, reel: Reel) -> None:
        self.reel = reel
        self._past: list[tuple[str, Reel]] = []
        self._future: list[tuple[str, Reel]] = []
        self._before_trial: tuple[Reel, list[tuple[str, Reel]], list[tuple[str, Reel]]] | None = None

    @property
    def trying(self) -> bool:
        """Whether edits are only tried."""
        return self._before_trial is not None

    @property
    def kept(self) -> Reel:
        """The reel without what is only tried: what is saved."""
        return self.reel if self._before_trial is None else self._before_trial[0]

    def begin_trial(self) -> None:
        """Only try the edits that follow; undo does not reach behind this."""
        if self._before_trial is None:
            self._before_trial = self.reel, self._past, self._future
            self._past, self._future = [], []

    def keep_trial(self, name: str) -> None:
        """Keep what was tried, as one edit.

        Parameters
        ----------
        name : of the edit
        """
        if self._before_trial is not None:
            tried, (self.reel, self._past, future) = self.reel, self._before_trial
            self._before_trial = None
            self._future = []
            if not self.edit(name, tried):
                self._future = future

    def drop_trial(self) -> None:
        """Let go of what was tried."""
        if self._before_trial is not None:
            self.reel, self._past, self._future = self._before_trial
            self._before_trial = None

    def edit(self, name: str, reel: Reel) -> bool:
        """Make `reel` the current one; False when it says the same as before.

        Parameters
        ----------
        name : of the edit
        reel : the reel
        """
        if reel == self.reel:
            return False
        self._past = [*self._past[-DEPTH + 1 :], (name, self.reel)]
        self._future = []
        self.reel = reel
        return True

    @property
    def undo_name(self) -> str | None:
        """Name of the edit that `undo` takes back, None without one."""
        return self._past[-1][0] if self._past else None

    @property
    def redo_name(self) -> str | None:
        """Name of the edit that `redo` makes again, None without one."""
        return self._future[-1][0] if self._future else None

    def everywhere(self, change: Callable[[Reel], Reel]) -> None:
        """Change the reel as it is, as it was and as it may be again: what no undo may take back.

        Parameters
        ----------
        change : makes the new reel of each
        """
        self.reel = change(self.reel)
        self._past, self._future = _all(self._past, change), _all(self._future, change)
        if self._before_trial is not None:
            reel, past, future = self._before_trial
            self._before_trial = change(reel), _all(past, change), _all(future, change)

    def undo(self) -> None:
        """Take the last edit back."""
        if self._past:
            name, before = self._past.pop()
            self._future.append((name, self.reel))
            self.reel = before

    def redo(self) -> None:
        """Make the last edit taken back again."""
        if self._future:
            name, after = self._future.pop()
            self._past.append((name, self.reel))
            self.reel = after


def _all(entries: list[tuple[str, Reel]], change: Callable[[Reel], Reel]) -> list[tuple[str, Reel]]:
    return [(name, change(reel)) for name, reel in entries]
