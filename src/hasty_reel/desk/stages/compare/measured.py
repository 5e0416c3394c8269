"""The measures of both sides beside each other, the verdict as a sentence, and which settings to keep."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.rows import discard
from hasty_reel.desk.stages.compare.paint import paint_chip
from hasty_reel.evidence.sides import Side, mean_seconds, verdict
from hasty_reel.measure.content import sharpness_kept
from hasty_reel.measure.seen import Eyes
from hasty_reel.measure.sequence import SequenceMeasures

ROW = 40
TIPS = {
    "time": "Mean over the frames compared, at the size they were rendered.",
    "flicker": "What is left of a frame when its neighbours are taken away along the motion; 95th percentile over frames and tiles.",
    "seen": "Flicker weighted by the eye, its pixels as in the delivered picture, {:.3g} heights away; seen from {:.2g} JND on.",
    "sparks": "Fireflies: pixels that stand alone, far above their surroundings, in a single frame.",
    "sharpness": "Gradient energy without that of the noise, against A.",
    "ssim": "How alike the structure of both is in L* at this frame (Wang et al. 2004); 1 is the same.",
    "flip": "How much the eye sees change when it flips between both at this frame (Andersson et al. 2020).",
}


@dataclass(frozen=True)
class Row:
    """One measure: name, unit, values of A and B (nan where there is none), its limit, how it is written, what fills the bar."""

    name: str
    unit: str
    values: tuple[float, ...]
    limit: float | None = None
    form: str = "{:.2f}"
    tip: str = ""
    full: float | None = None


def rows_of(sides: Sequence[Side], found: Sequence[SequenceMeasures | None], frames: Sequence[int], eyes: Eyes) -> list[Row]:
    """The measures of one side or two over the frames they share."""

    def of(name: str) -> tuple[float, ...]:
        return tuple(float("nan") if m is None else getattr(m, name) for m in found)

    energies = [float("nan") if m is None else m.sharpness**2 for m in found]
    kept = tuple(100.0 * sharpness_kept(e, energies[0]) for e in energies)
    noise_from = "two seeds" if all(m is not None and m.two_seeds for m in found) else "estimated from the picture where there is one seed"
    rows = [
        Row("Time", "s a picture", tuple(mean_seconds(s, frames) for s in sides), tip=TIPS["time"]),
        Row("Noise", "L*", of("noise_L"), tip=f"Spread of lightness, root mean square over the frames; {noise_from}."),
        Row("Flicker", "L*", of("flicker_L"), tip=TIPS["flicker"]),
        Row("Seen flicker", "JND", of("seen_flicker"), eyes.limit, tip=TIPS["seen"].format(eyes.heights, eyes.limit)),
        Row("Sparks", "a megapixel", of("sparks_per_megapixel"), form="{:.0f}", tip=TIPS["sparks"]),
    ]
    if len(sides) == 2:
        rows.append(Row("Sharpness", "% of A", kept, form="{:.0f}", tip=TIPS["sharpness"]))
    return rows


class MeasureRow(QWidget):
    """Name, figures of both sides, bars from zero with the limit across."""

    def __init__(self, row: Row, parent: QWidget | None = None) -> None:
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
        painter.drawText(QRectF(12, 2, 120, 20), Qt.AlignmentFlag.AlignVCenter, row.name)
        wide = painter.fontMetrics().horizontalAdvance(row.name)
        painter.setFont(theme.words(12))
        painter.setPen(theme.MAT_INK2)
        painter.drawText(QRectF(12 + wide + 6, 2, 100, 20), Qt.AlignmentFlag.AlignVCenter, row.unit)
        if row.limit is not None:
            painter.drawText(QRectF(12, 20, 110, 18), Qt.AlignmentFlag.AlignVCenter, f"seen from {row.limit:.2g} on")
        top = row.full or max([v for v in row.values if np.isfinite(v)] + [row.limit or 0.0, 1e-9])
        left, span = 148.0, right - 148.0
        for k, value in enumerate(row.values):
            x = right - (70 if k == 0 and len(row.values) == 2 else 0)
            painter.setFont(theme.words(15, 600))
            known = bool(np.isfinite(value))
            over = known and row.limit is not None and value >= row.limit
            painter.setPen(theme.MAT_INK if known else theme.MAT_INK3)
            text = row.form.format(value) if known else "–"
            painter.drawText(QRectF(x - 64, 2, 64, 20), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)
            if row.limit is not None and known:
                mark_x = x - painter.fontMetrics().horizontalAdvance(text) - 12
                if over:
                    marks.diamond(painter, mark_x, 12, radius=5.5)
                else:
                    marks.ring(painter, mark_x, 12, theme.LAGOON, "tick", 5.5)
            if known:
                bar = QRectF(left, 25 + 6 * k, span * value / top, 4)
                if k == 0:
                    painter.setPen(QPen(theme.MAT_INK2, 1))
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawRect(bar.adjusted(0.5, 0.5, -0.5, -0.5))
                else:
                    painter.fillRect(bar, theme.MAT_INK2)
        if row.limit is not None:
            x = left + span * row.limit / top
            painter.setPen(QPen(theme.MAT_INK, 1))
            painter.drawLine(QPointF(x, 22), QPointF(x, 38))


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
    """Rows, verdict, and what to keep. keep(int): A or B."""

    keep = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.rows: list[Row] = []
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
        self.keep_buttons = [PlainButton(f"Keep {letter}", partial(self.keep.emit, k)) for k, letter in enumerate("AB")]
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

    def show_measures(
        self,
        sides: list[Side],
        found: list[SequenceMeasures | None],
        frames: list[int],
        eyes: Eyes,
        busy: str = "",
        apart: tuple[float, float] = (np.nan, np.nan),
    ) -> None:
        """Show what is known of the sides; `busy` says what is still being measured, `apart` are FLIP and SSIM of the frame shown."""
        while self._rows.count():
            item = self._rows.takeAt(0)
            widget = None if item is None else item.widget()
            if widget is not None:
                discard(widget)
        count = "one frame" if len(frames) == 1 else f"{len(frames)} frames"
        self._rows.addWidget(Heads(count if frames else "No frame in common", len(sides) == 2))
        self.rows = rows_of(sides, found, frames, eyes)
        if np.isfinite(apart[0]):
            self.rows.append(Row("FLIP", "A to B, 0–1", (apart[0],), form="{:.3f}", tip=TIPS["flip"], full=1.0))
            self.rows.append(Row("SSIM", "A to B, 0–1", (apart[1],), form="{:.3f}", tip=TIPS["ssim"], full=1.0))
        for row in self.rows:
            self._rows.addWidget(MeasureRow(row))
        two = len(sides) == 2
        measured = [m for m in found if m is not None]
        head, body = "", ""
        if two and len(measured) == 2:
            seen = (measured[0].seen_flicker, measured[1].seen_flicker)
            head, body = verdict(sides[0], sides[1], seen, (measured[0].noise_L, measured[1].noise_L), eyes.limit)
        self.head.setText(head)
        self.body.setText(busy or body)
        self.head.setVisible(bool(head))
        for k, button in enumerate(self.keep_buttons):
            proof = sides[k].proof if k < len(sides) else None
            button.setVisible(two)
            button.setEnabled(proof is not None and not proof.draft)
        words = [w for m in measured for w in m.words()]
        self.note.setText("\n".join(dict.fromkeys(words)))
        self.note.setVisible(bool(words))

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.MAT)
