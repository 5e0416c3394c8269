"""The renderer's machine code, made where it is not there yet, beside everything else."""

from __future__ import annotations

import threading
from collections.abc import Callable

from psygnal import Signal

from hasty_reel.machinecode import READY, WORDS, is_prepared, prepare
from hasty_reel.studio.background import Background


class Preparing:
    """Whether the renderer is ready; changed() : it is nearer to it.

    Parameters
    ----------
    background : in which it is made
    """

    changed = Signal()

    def __init__(self, background: Background) -> None:
        self._background = background
        self._ready = threading.Event()
        self.share = 0.0
        if is_prepared():
            self._ready.set()

    def begin(self) -> None:
        """Have the machine code made, where it is not there."""
        if self._ready.is_set():
            return
        task = self._background.start(lambda task: prepare(task.tell, task.cancel))
        task.progressed.connect(self._progressed)
        task.ended.connect(self._ended)
        self.changed.emit()

    def _progressed(self, share: float, words: str) -> None:
        self.share = share
        self.changed.emit()

    def _ended(self) -> None:
        self._ready.set()
        self.changed.emit()

    @property
    def words(self) -> str:
        """That the renderer is being prepared, and how far it is; '' where it is ready."""
        return "" if self._ready.is_set() else f"{WORDS}: {100 * self.share:.0f} %"

    def wait(self, tell: Callable[[str], None], part: str = READY) -> None:
        """Stay here until the renderer is ready, in a thread that would use it.

        Parameters
        ----------
        tell : called meanwhile with how far it is; may raise to leave
        part : that is enough, where it is there before all of it
        """
        while not self._ready.wait(0.2) and not (part != READY and is_prepared(part)):
            tell(self.words)
