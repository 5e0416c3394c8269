"""How widgets follow the models of studio: for as long as they are there, and without ending what the model does."""

from __future__ import annotations

import inspect
import sys
from collections.abc import Callable, Iterable
from typing import Any

from psygnal import SignalInstance
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid


def follow(owner: QObject, signal: Any, slot: Callable[..., object]) -> None:
    """Call a slot whenever a model's signal is emitted, as long as `owner` is there.

    A fault in the slot is reported like any other of the window, and does not reach the model:
    one view that fails must not end an edit.
    """
    assert isinstance(signal, SignalInstance)
    taken = _taken(slot)

    def call(*args: object) -> None:
        if not isValid(owner):
            return
        try:
            slot(*(args if taken is None else args[:taken]))
        except Exception:
            sys.excepthook(*sys.exc_info())

    signal.connect(call)
    owner.destroyed.connect(lambda: signal.disconnect(call, missing_ok=True))


class _PutOff(QObject):
    """Calls what was put off while a widget was hidden, once it is shown."""

    def __init__(self, owner: QWidget, slot: Callable[[], object]) -> None:
        super().__init__(owner)
        self._owner, self._slot, self._due = owner, slot, False
        owner.installEventFilter(self)

    def __call__(self) -> None:
        # a widget whose window was never shown has nobody who would miss it, but tests and pictures that read it
        self._due = self._owner.window().isVisible() and not self._owner.isVisible()
        if not self._due:
            self._slot()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if self._due and event.type() == QEvent.Type.Show:
            self._due = False
            self._slot()
        return super().eventFilter(watched, event)


def follow_shown(owner: QWidget, signals: Iterable[Any], slot: Callable[[], object]) -> None:
    """Call a slot whenever one of the signals is emitted; while `owner` is hidden once only, when it is shown again.

    For what takes milliseconds: an edit on one stage must not wait for all the others.
    """
    put_off = _PutOff(owner, slot)
    for signal in signals:
        follow(owner, signal, lambda: put_off())


def _taken(slot: Callable[..., object]) -> int | None:
    """How many arguments a slot takes; None for all there are, as for what is written in C++."""
    try:
        found = inspect.signature(slot).parameters.values()
    except (TypeError, ValueError):
        return None
    if any(p.kind is p.VAR_POSITIONAL for p in found):
        return None
    return sum(p.kind in (p.POSITIONAL_ONLY, p.POSITIONAL_OR_KEYWORD) for p in found)
