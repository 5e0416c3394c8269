"""How widgets follow the models of studio: for as long as they are there, and without ending what the model does."""

from __future__ import annotations

import inspect
import sys
from collections.abc import Callable
from typing import Any

from psygnal import SignalInstance
from PySide6.QtCore import QObject
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


def _taken(slot: Callable[..., object]) -> int | None:
    """How many arguments a slot takes; None for all there are, as for what is written in C++."""
    try:
        found = inspect.signature(slot).parameters.values()
    except (TypeError, ValueError):
        return None
    if any(p.kind is p.VAR_POSITIONAL for p in found):
        return None
    return sum(p.kind in (p.POSITIONAL_ONLY, p.POSITIONAL_OR_KEYWORD) for p in found)
