"""Preferences: how the window is wanted on this machine, and the limits of what is read and kept in memory."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, ValueField
from hasty_reel.desk.menus import choice_menu
from hasty_reel.errors import HastyReelError
from hasty_reel.own.finishmemory import GIGABYTE, USUAL, finish_memory, keep_finish_memory
from hasty_reel.own.preferences import SURROUNDS, TEXT_SIZES, Preferences, keep_preferences, preferences, preferences_path
from hasty_reel.pictures.limits import PictureLimits, current_limits, set_limits
from hasty_reel.typednumbers import read_number

ROWS = (("megapixels", "Megapixels of a picture"), ("channels", "Channels of a picture"), ("memory", "Memory for finishing"))
LABELS = 210


class PreferencesPage(QDialog):
    """What is chosen is kept at once; what counts from the next start says so."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Preferences")
        self.setFixedWidth(560)
        self._column = QVBoxLayout(self)
        self._heading("Window")
        self.text_size = PickButton(self._sizes_menu, self)
        self.surround = PickButton(self._surrounds_menu, self)
        self._rows((("Text size", self.text_size), ("Around pictures", self.surround)))
        self._words(f"Both count from the next start. Text takes all that it stands in with it. Kept in {preferences_path()}")
        self._heading("Limits of this machine")
        self.fields: dict[str, ValueField] = {}
        for name, text in ROWS:
            field = ValueField("GB" if name == "memory" else "", self)
            field.setFixedWidth(90)
            field.setAlignment(Qt.AlignmentFlag.AlignLeft)
            field.setAccessibleName(text)
            field.committed.connect(lambda typed, n=name: self._typed(n, typed))
            self.fields[name] = field
        self._rows([(text, self.fields[name]) for name, text in ROWS])
        self._words(
            "A small file may unfold to more pixels than there is memory. Pictures above these bounds are not read: not as frames "
            "brought in, not from a linked renderer, not for hand-over. "
            "Finishing puts what it keeps of other frames on the disk where it would take more memory than this; frames come out the same."
        )
        self.fault = self._words("")
        buttons = QHBoxLayout()
        buttons.addWidget(PlainButton("As shipped", self._as_shipped, parent=self))
        buttons.addStretch(1)
        buttons.addWidget(PlainButton("Close", self.accept, parent=self))
        self._column.addLayout(buttons)
        self.refresh()

    def _heading(self, text: str) -> None:
        label = QLabel(text)
        label.setFont(theme.words(13, 700))
        label.setContentsMargins(0, 6, 0, 2)
        self._column.addWidget(label)

    def _words(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setWordWrap(True)
        label.setFont(theme.words(12))
        label.setStyleSheet(f"color: {theme.INK2.name()}")
        self._column.addWidget(label)
        return label

    def _rows(self, rows) -> None:
        grid = QGridLayout()
        grid.setColumnMinimumWidth(0, LABELS)
        grid.setColumnStretch(1, 1)
        for row, (text, widget) in enumerate(rows):
            label = QLabel(text)
            label.setFont(theme.words(13))
            widget.setAccessibleName(text)
            grid.addWidget(label, row, 0)
            grid.addWidget(widget, row, 1, Qt.AlignmentFlag.AlignLeft)
        self._column.addLayout(grid)

    def _sizes_menu(self) -> QMenu:
        sizes = [(size, f"{size} %") for size in TEXT_SIZES]
        return choice_menu(self, sizes, self._held.text_size, lambda size: self._try(lambda: keep_preferences(text_size=size)))

    def _surrounds_menu(self) -> QMenu:
        return choice_menu(self, SURROUNDS.items(), self._held.surround, lambda what: self._try(lambda: keep_preferences(surround=what)))

    @property
    def _held(self) -> Preferences:
        try:
            return preferences()
        except HastyReelError as error:
            self.fault.setText(str(error))
            return Preferences()

    def refresh(self) -> None:
        """Show what counts."""
        held = self._held
        self.text_size.show_value(f"{held.text_size} %")
        self.surround.show_value(SURROUNDS[held.surround])
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
        self._try(lambda: keep_preferences(text_size=Preferences().text_size, surround=Preferences().surround))

    def _try(self, act: Callable[[], object]) -> None:
        try:
            act()
            self.fault.setText("")
        except HastyReelError as error:
            self.fault.setText(str(error))
        self.refresh()
