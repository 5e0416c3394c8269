"""The event loop of the models, as the window has it: Qt's own."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import QObject, Qt, QTimer, Signal


class _Call(QTimer):
    """A call after a delay that can be taken back."""

    def __init__(self, parent: QObject, delay: float, act: Callable[[], object]) -> None:
        super().__init__(parent)
        self._act = act
        self.setSingleShot(True)
        self.setTimerType(Qt.TimerType.PreciseTimer)
        self.timeout.connect(self._due)
        self.start(round(1000 * delay))

    def _due(self) -> None:
        self.deleteLater()
        self._act()

    def cancel(self) -> None:
        """Make it never."""
        self.stop()
        self.deleteLater()


class QtEventLoop(QObject):
    """Calls in the window's thread."""

    _wanted = Signal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._wanted.connect(self._call, Qt.ConnectionType.QueuedConnection)

    def _call(self, act: Callable[[], object]) -> None:
        act()

    def call_soon_threadsafe(self, callback: Callable[..., object], *args: Any) -> None:
        """Call on the next turn of the loop; may be asked for by any thread."""
        self._wanted.emit(partial(callback, *args))

    def call_later(self, delay: float, callback: Callable[..., object], *args: Any) -> _Call:
        """Call after a delay in seconds; what comes back can be cancelled."""
        return _Call(self, delay, partial(callback, *args))
