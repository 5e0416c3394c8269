"""Menus that offer choices, the one that counts ticked."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu, QWidget


def choice_menu(parent: QWidget, entries: Iterable[tuple[Any, str]], now: object, act: Callable[[Any], object]) -> QMenu:
    """A menu of values with their words; `act` is called with the one that is chosen."""
    menu = QMenu(parent)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    for value, words in entries:
        entry = menu.addAction(words)
        entry.setCheckable(True)
        entry.setChecked(value == now)
        entry.triggered.connect(lambda _=False, v=value: act(v))
    return menu
