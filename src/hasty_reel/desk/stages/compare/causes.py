"""The causes of unrest: how plain each is, where and when, what speaks for it, what helps and what that costs."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import Choice, PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.measure.causes import Cause
from hasty_reel.measure.causes.found import HEARD, PLAIN
from hasty_reel.plan.compare.levers import Lever
from hasty_reel.plan.compare.remedies import remedy_words
from hasty_reel.reel.durations import price_text
from hasty_reel.reel.frames import write_frames
from hasty_reel.studio.compare.causes import CausesModel
from hasty_reel.studio.compare.sides import ComparedSides
from hasty_reel.studio.session import Session


class CauseRow(QWidget):
    """A cause with the bar of its score. picked(str): its name."""

    picked = Signal(str)

    def __init__(self, cause: Cause, chosen: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.cause, self._chosen = cause, chosen
        self.setFixedHeight(26)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(cause.trace.note)
        self.setAccessibleName(f"{cause.words}, score {cause.score:.2f}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.picked.emit(self.cause.name)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.picked.emit(self.cause.name)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        score = self.cause.score
        if self._chosen:
            painter.fillRect(self.rect().adjusted(6, 1, -6, -1), theme.MAT.lighter(122))
        y = self.height() / 2
        if score >= PLAIN:
            marks.diamond(painter, 20, y, radius=5.5)
        elif score >= HEARD:
            marks.triangle(painter, 20, y, radius=6)
        else:
            marks.ring(painter, 20, y, theme.MAT_INK3, "tick", 5)
        painter.setFont(theme.words(13, 700 if self._chosen else 500))
        painter.setPen(theme.MAT_INK if score >= HEARD else theme.MAT_INK3)
        painter.drawText(QRectF(34, 0, 120, self.height()), Qt.AlignmentFlag.AlignVCenter, self.cause.words)
        right = self.width() - 14
        painter.setFont(theme.figures(12))
        painter.drawText(
            QRectF(right - 40, 0, 40, self.height()), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, f"{score:.2f}"
        )
        left, span = 146.0, right - 46 - 146.0
        painter.setPen(QPen(theme.MAT_RULE, 1))
        painter.drawLine(QPointF(left, y), QPointF(left + span, y))
        painter.fillRect(QRectF(left, y - 2.5, span * score, 5), theme.MAT_INK2 if score >= HEARD else theme.NEUTRAL_STRONG)
        if self.hasFocus():
            painter.setPen(QPen(theme.MAT_INK, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(6.75, 0.75, -6.75, -0.75), 3, 3)


class EvidenceCurve(QWidget):
    """How much of a cause is in each frame; or, for copies of edges, how they come back along the motion."""

    def __init__(self, cause: Cause, frames: tuple[int, ...], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        detail = cause.trace.detail
        self._along = len(detail) > 1
        self._x: np.ndarray = detail[:, 0] if self._along else np.array(frames, float)
        self._y: np.ndarray = detail[:, 1] if self._along else np.nan_to_num(cause.trace.curve)
        self._unit = (
            "likeness of edges along the way of a frame" if self._along else {"sparks": "a megapixel"}.get(cause.name, "L* in each frame")
        )
        self.setFixedHeight(74)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(44, 6, self.width() - 62, self.height() - 26)
        top = float(max(self._y.max(initial=0.0), 1e-6))
        painter.setPen(QPen(theme.NEUTRAL_STRONG, 1))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.setFont(theme.figures(11))
        painter.setPen(theme.MAT_INK2)
        painter.drawText(
            QRectF(0, box.top() - 6, 38, 14),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            f"{top:,.0f}" if top >= 10 else f"{top:.2g}",
        )
        painter.drawText(QRectF(0, box.bottom() - 8, 38, 14), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "0")
        x0, x1 = float(self._x[0]), float(self._x[-1])
        path = QPainterPath()
        for k, (x, y) in enumerate(zip(self._x, self._y)):
            point = QPointF(box.left() + box.width() * (x - x0) / max(x1 - x0, 1e-9), box.bottom() - box.height() * max(0.0, y) / top)
            path.moveTo(point) if k == 0 else path.lineTo(point)
            if not self._along and len(self._x) <= 40:
                painter.setBrush(theme.MAT_INK)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.drawEllipse(point, 2, 2)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.MAT_INK, 1.5))
        painter.drawPath(path)
        painter.setPen(theme.MAT_INK2)
        painter.setFont(theme.words(11))
        foot = QRectF(box.left(), box.bottom() + 3, box.width(), 14)
        first, last = (f"{100 * x0:.0f} %", f"{100 * x1:.0f} %") if self._along else (f"{x0:.0f}", f"{x1:.0f}")
        painter.drawText(foot, Qt.AlignmentFlag.AlignLeft, first)
        painter.drawText(foot, Qt.AlignmentFlag.AlignRight, last)
        painter.drawText(foot, Qt.AlignmentFlag.AlignHCenter, self._unit)


class LeverRow(QWidget):
    """What helps, what it changes, its price and what it does to flicker. wanted(Lever): to be used."""

    wanted = Signal(object)

    def __init__(self, lever: Lever, speed: float, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.lever, self._speed = lever, speed
        self.setFixedHeight(46)
        self.button = PlainButton("Use", lambda: self.wanted.emit(lever), parent=self)
        self.button.setEnabled(bool(lever.words) and (lever.recipe is not None or lever.hold is not None))
        self.button.setToolTip(lever.why_not or f"{lever.words}; it can be undone")
        self.setToolTip(lever.why_not or lever.words)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 8, 8, 8)
        row.addStretch(1)
        row.addWidget(self.button)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.words(13, 600))
        painter.setPen(theme.MAT_INK)
        room = self.button.geometry().left() - 12
        painter.drawText(QRectF(12, 2, room - 100, 20), Qt.AlignmentFlag.AlignVCenter, self.lever.helps)
        painter.setFont(theme.words(12))
        painter.setPen(theme.MAT_INK2)
        words = painter.fontMetrics().elidedText(self.lever.words or self.lever.why_not, Qt.TextElideMode.ElideRight, int(room - 14))
        painter.drawText(QRectF(12, 22, room - 8, 20), Qt.AlignmentFlag.AlignVCenter, words)
        tag = QRectF(room - 104, 4, 68, 18)
        if self.lever.seconds is None:
            painter.setPen(theme.MAT_INK3)
            painter.drawText(tag, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, "not proven")
        elif self.lever.words:
            text, kind = price_text(self.lever.seconds / self._speed)
            marks.tag(painter, tag, text, kind, 0.0)
        if self.lever.words and self.lever.seconds is not None:
            marks.trace(painter, QRectF(room - 30, 7, 24, 12), self.lever.effect)


class CausesPage(QScrollArea):
    """Causes of one side, what speaks for each, and what helps."""

    def __init__(self, model: CausesModel, sides: ComparedSides, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model, self._sides, self._session = model, sides, session
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        follow(self, model.changed, self.refresh)
        follow(self, sides.changed, self.refresh)

    def refresh(self) -> None:
        """Lay the page out anew."""
        model = self.model
        page = QWidget()
        page.setObjectName("causes")
        page.setStyleSheet(f"#causes {{ background: {theme.MAT.name()}; }}")
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 2, 0, 8)
        column.setSpacing(0)
        if len(self._sides.sides) == 2:
            row = QHBoxLayout()
            row.setContentsMargins(12, 0, 12, 4)
            for k, letter in enumerate("AB"):
                choice = Choice(f"of {letter}")
                choice.setChecked(k == model.which)
                choice.clicked.connect(lambda _=False, k=k: model.turn_to(k))
                row.addWidget(choice)
            row.addStretch(1)
            column.addLayout(row)
        if model.causes is None:
            column.addWidget(_text(model.words))
            column.addStretch(1)
            self.setWidget(page)
            return
        heard = list(model.heard)
        head = "Nothing that is seen to be restless." if not heard else f"Mostly {heard[0].words}."
        column.addWidget(_text(head, 15, 700))
        shown = [c for c in model.causes.causes if c in heard or c.name == model.name]
        self._rows(column, shown)
        if model.cause is not None:
            self._evidence(column, model.cause)
        rest = [c for c in model.causes.causes if c not in shown]
        if rest:
            column.addSpacing(6)
            column.addWidget(_text("Not heard", 12, 700))
            self._rows(column, rest)
        for words in model.causes.words():
            column.addWidget(_text(words))
        column.addStretch(1)
        at = self.verticalScrollBar().value()
        self.setWidget(page)
        self.verticalScrollBar().setValue(at)

    def _rows(self, column: QVBoxLayout, causes: list[Cause]) -> None:
        for cause in causes:
            line = CauseRow(cause, cause.name == self.model.name)
            line.picked.connect(self.model.pick)
            column.addWidget(line)

    def _evidence(self, column: QVBoxLayout, chosen: Cause) -> None:
        """What speaks for a cause, what helps, and what that costs."""
        model = self.model
        assert model.causes is not None
        frames = write_frames(chosen.frames) if chosen.frames else "no frame above the others"
        column.addSpacing(6)
        column.addWidget(_text(chosen.trace.note, 13, 600))
        column.addWidget(_text(f"Worst in {frames}; the corners in the picture mark where."))
        column.addWidget(EvidenceCurve(chosen, model.causes.measured))
        if not model.levers:
            column.addWidget(_text(model.lack or f"Helps: {remedy_words(chosen.name)}."))
            return
        column.addWidget(_text("What helps, and what it costs over the shot", 12, 700))
        for lever in model.levers:
            one = LeverRow(lever, self._session.reel.frame_speed)
            one.wanted.connect(model.use)
            column.addWidget(one)


def _text(words: str, size: int = 12, weight: int = 500) -> QLabel:
    label = QLabel(words)
    label.setFont(theme.words(size, weight))
    label.setStyleSheet(f"color: {(theme.MAT_INK if weight > 500 else theme.MAT_INK2).name()}")
    label.setWordWrap(True)
    label.setContentsMargins(12, 2, 12, 2)
    return label
