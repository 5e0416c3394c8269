"""Limits of this machine: the largest picture that is read, and the memory that finishing may take."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, ValueField
from hasty_reel.errors import HastyReelError
from hasty_reel.own.finishmemory import GIGABYTE, USUAL, finish_memory, keep_finish_memory
from hasty_reel.pictures.limits import PictureLimits, current_limits, set_limits
from hasty_reel.studio.session import Session
from hasty_reel.typednumbers import read_number

ROWS = (("megapixels", "Megapixels of a picture"), ("channels", "Channels of a picture"), ("memory", "Memory for finishing"))


class LimitsPage(QDialog):
    """Three numbers, kept for the person."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Limits of this machine")
        words = QLabel(
            "A small file may unfold to more pixels than there is memory. Pictures above these bounds are not read: not as frames "
            "brought in, not from a linked renderer, not for hand-over. "
            "Finishing puts what it keeps of other frames on the disk where it would take more memory than this; frames come out the same."
        )
        words.setWordWrap(True)
        words.setFont(theme.words(12))
        words.setStyleSheet(f"color: {theme.INK2.name()}")
        self.fields: dict[str, ValueField] = {}
        grid = QGridLayout()
        for row, (name, text) in enumerate(ROWS):
            label = QLabel(text)
            label.setFont(theme.words(13))
            field = ValueField("GB" if name == "memory" else "", self)
            field.setFixedWidth(120)
            field.setAccessibleName(text)
            field.committed.connect(lambda typed, n=name: self._typed(n, typed))
            grid.addWidget(label, row, 0)
            grid.addWidget(field, row, 1)
            self.fields[name] = field
        self.fault = QLabel("")
        self.fault.setWordWrap(True)
        self.fault.setFont(theme.words(12))
        buttons = QHBoxLayout()
        buttons.addWidget(PlainButton("As shipped", self._as_shipped, parent=self))
        buttons.addStretch(1)
        buttons.addWidget(PlainButton("Close", self.accept, parent=self))
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addLayout(grid)
        column.addWidget(self.fault)
        column.addLayout(buttons)
        self.refresh()

    def refresh(self) -> None:
        """Show the limits that count."""
        try:
            limits = current_limits()
        except HastyReelError as error:
            self.fault.setText(str(error))
            limits = PictureLimits()
        self.fields["megapixels"].show_value(f"{limits.megapixels:g}")
        self.fields["channels"].show_value(f"{limits.channels}")
        try:
            self.fields["memory"].show_value(f"{finish_memory() / GIGABYTE:g}")
        except HastyReelError as error:
            self.fault.setText(str(error))

    def _typed(self, name: str, text: str) -> None:
        try:
            value = read_number(text)
            if value is None or (name == "channels" and value != int(value)):
                raise ValueError(text)
        except (ValueError, OverflowError):
            kind = "a whole number" if name == "channels" else "a number"
            self.fault.setText(f"{name.capitalize()} '{text[:40]}'; expected {kind}.")
            self.refresh()
            return
        if name == "memory":
            self._try(lambda: keep_finish_memory(value))
            return
        now = current_limits()
        megapixels = value if name == "megapixels" else now.megapixels
        limits = PictureLimits(megapixels=megapixels, channels=int(value) if name == "channels" else now.channels)
        self._try(lambda: set_limits(limits))

    def _as_shipped(self) -> None:
        self._try(lambda: set_limits(PictureLimits()))
        self._try(lambda: keep_finish_memory(USUAL))

    def _try(self, act: Callable[[], object]) -> None:
        try:
            act()
            self.fault.setText("")
        except HastyReelError as error:
            self.fault.setText(str(error))
        self.refresh()
