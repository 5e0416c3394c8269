"""A page that lets its model look while it is in sight, and shows what was found."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtWidgets import QLabel, QWidget

from hasty_reel.desk import theme


class Watched(Protocol):
    """A model that looks for something while somebody watches."""

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at it."""


class WatchedPage(QWidget):
    """Tells its model when it comes into sight and goes; `_show` is called only while it is there."""

    def __init__(self, watched: Watched) -> None:
        super().__init__()
        self._watched = watched

    def _refresh(self) -> None:
        if self.isVisible():
            self._show()

    def _show(self) -> None:
        """Show what the model knows; each page does so in its own way."""
        raise NotImplementedError

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self._watched.watch(True)
        self._refresh()

    def hideEvent(self, event) -> None:
        super().hideEvent(event)
        self._watched.watch(False)


def sentences(*labels: QLabel) -> None:
    """Set the labels at the head of a page: the first one weighs more."""
    for k, label in enumerate(labels):
        label.setFont(theme.words(13, 500 if k else 600))
        label.setWordWrap(True)
        label.setContentsMargins(16, 0, 16, 0)
