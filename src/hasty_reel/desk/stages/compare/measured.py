"""The measures of both sides beside each other, the verdict as a sentence, and which settings to keep."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.rows import discard
from hasty_reel.desk.stages.compare.paint import paint_chip
from hasty_reel.studio.compare.measures import MeasureRow, MeasuresModel
from hasty_reel.studio.compare.sides import ComparedSides

ROW = 35


class MeasureBar(QWidget):
    """Name, figures of both sides, bars from zero with the limit across."""

    def __init__(self, row: MeasureRow, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._row = row
        self.setFixedHeight(ROW)
        self.setToolTip(row.tip)
        self.setAccessibleName(row.name)

    def paintEvent(self, event: QPaintEvent) -> None:
        row = self._row
        painter = QPainter(self)
        right = self.width() - 14.0
        painter.setPen(theme.MAT_RULE)
        painter.drawLine(QPointF(12, self.height() - 0.5), QPointF(right, self.height() - 0.5))
        painter.setFont(theme.words(13, 700))
        painter.setPen(theme.MAT_INK)
        painter.drawText(QRectF(12, 1, 120, 20), Qt.AlignmentFlag.AlignVCenter, row.name)
        wide = painter.fontMetrics().horizontalAdvance(row.name)
        painter.setFont(theme.words(12))
        painter.setPen(theme.MAT_INK2)
        painter.drawText(QRectF(12 + wide + 6, 1, 100, 20), Qt.AlignmentFlag.AlignVCenter, row.unit)
        if row.limit is not None:
            painter.drawText(QRectF(12, 18, 110, 16), Qt.AlignmentFlag.AlignVCenter, f"at most {row.form.format(row.limit)}")
        top = row.full or max([v for v in row.values if np.isfinite(v)] + [row.limit or 0.0, 1e-9])
        left, span = 148.0, right - 148.0
        for k, value in enumerate(row.values):
            x = right - (70 if k == 0 and len(row.values) == 2 else 0)
            painter.setFont(theme.words(15, 600))
            known = bool(np.isfinite(value))
            over = known and row.limit is not None and value >= row.limit
            painter.setPen(theme.MAT_INK if known else theme.MAT_INK3)
            text = row.form.format(value) if known else "–"
            painter.drawText(QRectF(x - 64, 1, 64, 20), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)
            if row.limit is not None and known:
                mark_x = x - painter.fontMetrics().horizontalAdvance(text) - 12
                if over:
                    marks.diamond(painter, mark_x, 11, radius=5.5)
                else:
                    marks.ring(painter, mark_x, 11, theme.LAGOON, "tick", 5.5)
            if known:
                bar = QRectF(left, 22 + 6 * k, span * value / top, 4)
                if k == 0:
                    painter.setPen(QPen(theme.MAT_INK2, 1))
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawRect(bar.adjusted(0.5, 0.5, -0.5, -0.5))
                else:
                    painter.fillRect(bar, theme.MAT_INK2)
        if row.limit is not None:
            x = left + span * row.limit / top
            painter.setPen(QPen(theme.MAT_INK, 1))
            painter.drawLine(QPointF(x, 20), QPointF(x, 34))


class Heads(QWidget):
    """The letters over the figures, and what is measured."""

    def __init__(self, words: str, two: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._words, self._two = words, two
        self.setFixedHeight(28)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.words(13, 700))
        painter.setPen(theme.MAT_INK)
        painter.drawText(QRectF(12, 0, 200, 28), Qt.AlignmentFlag.AlignVCenter, self._words)
        right = self.width() - 14
        if self._two:
            paint_chip(painter, right - 90, 4, "A", False)
            paint_chip(painter, right - 20, 4, "B", True)
        else:
            paint_chip(painter, right - 20, 4, "A", False)


class MeasuredPage(QWidget):
    """Rows, verdict, and what to keep."""

    def __init__(self, model: MeasuresModel, sides: ComparedSides, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model, self._sides = model, sides
        self.rows: list[MeasureRow] = []
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 8)
        self.column.setSpacing(0)
        self.head = QLabel("")
        self.head.setFont(theme.words(20, 700))
        self.head.setWordWrap(True)
        self.body = QLabel("")
        self.body.setFont(theme.words(13))
        self.body.setWordWrap(True)
        self.note = QLabel("")
        self.note.setFont(theme.words(12))
        self.note.setWordWrap(True)
        for label, colour in ((self.head, theme.MAT_INK), (self.body, theme.MAT_INK2), (self.note, theme.MAT_INK3)):
            label.setStyleSheet(f"color: {colour.name()}")
            label.setContentsMargins(12, 6, 12, 0)
        self.keep_buttons = [PlainButton(f"Keep {letter}", partial(self._model.keep, k)) for k, letter in enumerate("AB")]
        self._table = QWidget(self)
        self._rows = QVBoxLayout(self._table)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(0)
        buttons = QHBoxLayout()
        buttons.setContentsMargins(12, 8, 12, 0)
        buttons.setSpacing(6)
        for k, button in enumerate(self.keep_buttons):
            button.setToolTip(f"Make the settings of {'AB'[k]} those of the shot's recipe")
            buttons.addWidget(button)
        buttons.addStretch(1)
        self.column.addWidget(self._table)
        self.column.addWidget(self.head)
        self.column.addWidget(self.body)
        self.column.addLayout(buttons)
        self.column.addWidget(self.note)
        self.column.addStretch(1)
        follow(self, model.changed, self.refresh)
        follow(self, sides.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what is known of the sides."""
        model = self._model
        while self._rows.count():
            item = self._rows.takeAt(0)
            widget = None if item is None else item.widget()
            if widget is not None:
                discard(widget)
        two = len(self._sides.sides) == 2
        self._rows.addWidget(Heads(model.count_words, two))
        self.rows = model.rows
        for row in self.rows:
            self._rows.addWidget(MeasureBar(row))
        head, body = model.verdict
        self.head.setText(head)
        self.body.setText(model.busy or body)
        self.head.setVisible(bool(head))
        for k, button in enumerate(self.keep_buttons):
            button.setVisible(two)
            button.setEnabled(model.may_keep(k))
        notes = model.notes
        self.note.setText("\n".join(notes))
        self.note.setVisible(bool(notes))

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.MAT)
