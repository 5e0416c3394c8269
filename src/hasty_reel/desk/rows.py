"""Rows of names and values, as the panes of the stages are laid out."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from hasty_reel.desk import theme


def discard(widget: QWidget) -> None:
    """Take a widget away for good: out of sight at once, deleted when nothing uses it any more."""
    widget.hide()
    widget.deleteLater()


def caption(text: str) -> QLabel:
    """A name before a value."""
    label = QLabel(text)
    label.setFont(theme.words(13))
    label.setStyleSheet(f"color: {theme.INK2.name()}")
    return label


def field_row(*things: object) -> QHBoxLayout:
    """A row of widgets; a text becomes a caption, a number that many pixels, None the space that is left."""
    row = QHBoxLayout()
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(6)
    for thing in things:
        if thing is None:
            row.addStretch(1)
        elif isinstance(thing, int):
            row.addSpacing(thing)
        elif isinstance(thing, str):
            row.addWidget(caption(thing))
        elif isinstance(thing, QWidget):
            row.addWidget(thing)
    return row
