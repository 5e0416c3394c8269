"""Patterns learnt from an example: some lines of a log are pasted, times in them are marked, and one says which is which."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QTextCharFormat, QTextCursor
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QPlainTextEdit, QScrollArea, QTextEdit, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import discard
from hasty_reel.farm.renderers.learnlog import PROGRESS
from hasty_reel.farm.renderers.links import TOLD_PARTS, TOTAL
from hasty_reel.studio.rendererlinks import RendererLinksModel

PARTS = [("", "nothing"), *((part, "all of it" if part == TOTAL else part) for part in TOLD_PARTS), (PROGRESS, "progress")]


class LearnPage(QDialog):
    """The pasted lines above, the numbers in them below."""

    def __init__(self, model: RendererLinksModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Learn from a log")
        self.resize(720, 560)
        words = QLabel("Paste what your renderer prints for one frame, ten lines or so. Times in it are marked; say of each what it is of.")
        words.setWordWrap(True)
        words.setFont(theme.words(13))
        self.log = QPlainTextEdit(self)
        self.log.setFont(theme.figures(12))
        self.log.setAccessibleName("Lines of a log")
        self.log.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.log.setStyleSheet(f"QPlainTextEdit {{ background: {theme.WELL.name()}; border: 1px solid {theme.STRONG_RULE.name()}; }}")
        self.log.textChanged.connect(lambda: model.read_log(self.log.toPlainText()))
        inner = QWidget()
        self._grid = QGridLayout(inner)
        self._grid.setColumnStretch(2, 1)
        self._grid.setHorizontalSpacing(14)
        self._grid.setAlignment(Qt.AlignmentFlag.AlignTop)
        scroll = QScrollArea(self)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setWidget(inner)
        self.picks: list[PickButton] = []
        self.take_button = PlainButton("Take these", self._take, main=True, parent=self)
        buttons = QHBoxLayout()
        buttons.addWidget(self.take_button)
        buttons.addStretch(1)
        buttons.addWidget(PlainButton("Close", self.accept, parent=self))
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addWidget(self.log, 1)
        column.addWidget(scroll, 1)
        column.addLayout(buttons)
        follow(self, model.changed, self.refresh)
        model.read_log("")
        self.log.setFocus()

    def _take(self) -> None:
        self._model.learn()
        self.accept()

    def refresh(self) -> None:
        """Mark the numbers, and list them."""
        found = self._model.found
        while (item := self._grid.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                discard(widget)
        self.picks, marks = [], []
        for k, one in enumerate(found):
            pick = PickButton(partial(self._menu, k), self)
            pick.setAccessibleName(f"What {one.text} in line {one.line + 1} is of")
            pick.show_value(dict(PARTS)[one.part])
            self.picks.append(pick)
            value = f"{one.seconds:g} %" if one.pattern.endswith("%") else f"{one.seconds:g} s"
            lines = self.log.toPlainText().splitlines()
            for column, (text, font) in enumerate(((value, theme.figures(12)), (lines[one.line].strip()[:90], theme.figures(11)))):
                label = QLabel(text)
                label.setTextFormat(Qt.TextFormat.PlainText)
                label.setFont(font)
                label.setStyleSheet(f"color: {(theme.INK if one.part else theme.INK3).name()}")
                self._grid.addWidget(label, k, (0, 2)[column])
            self._grid.addWidget(pick, k, 1)
            marks.append(self._mark(one.line, one.begin, one.end, bool(one.part)))
        self.log.setExtraSelections(marks)
        self.take_button.setEnabled(any(one.part for one in found))

    def _menu(self, place: int):
        return choice_menu(self, PARTS, self._model.found[place].part, partial(self._model.take_for, place))

    def _mark(self, line: int, begin: int, end: int, taken: bool) -> QTextEdit.ExtraSelection:
        mark = QTextEdit.ExtraSelection()
        cursor = QTextCursor(self.log.document().findBlockByLineNumber(line))
        cursor.setPosition(cursor.block().position() + begin)
        cursor.setPosition(cursor.block().position() + end, QTextCursor.MoveMode.KeepAnchor)
        form = QTextCharFormat()
        form.setBackground(theme.RAISED if not taken else QColor(theme.LAGOON.red(), theme.LAGOON.green(), theme.LAGOON.blue(), 90))
        form.setForeground(theme.INK)
        mark.cursor, mark.format = cursor, form
        return mark
