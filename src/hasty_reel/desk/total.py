"""The foot of the right column: what the whole shot takes, and its worst frames."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.follow import follow
from hasty_reel.reel.durations import spoken
from hasty_reel.studio.session import Session
from hasty_reel.viewers import who_sees


class ShotTotal(QWidget):
    """Whole shot in large figures, then mean, worst frame, frames over the allowed time, frames that flicker."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setFixedHeight(theme.STRIP_HEIGHT)
        for signal in (session.planner.plan_changed, session.reel_changed, session.playhead.shot_changed, session.planner.planning):
            follow(self, signal, self.update)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAGE)
        painter.setPen(theme.RULE)
        painter.drawLine(16, 0, self.width() - 16, 0)
        left, right = 16, self.width() - 16
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK2)
        where = ", all machines at work" if len(self._session.reel.machines) > 1 else ""
        painter.drawText(QRectF(left, 5, right - left, 18), Qt.AlignmentFlag.AlignVCenter, f"Whole shot{where}")
        plan = self._session.plan
        if plan is None:
            lack = self._session.planner.outlook.lacks.get(self._session.playhead.shot_id)
            painter.setPen(theme.INK2)
            painter.setFont(theme.words(13))
            painter.drawText(
                QRectF(left, 30, right - left, 100),
                Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignTop,
                lack or "Reading the proofs …",
            )
            return
        ink = theme.OFF if self._session.planner.stale else theme.INK
        speed = self._session.reel.frame_speed
        self._paint_hours(painter, left, plan.total_seconds / speed, ink)
        over = int(np.sum(plan.seconds > self._session.planner.outlook.allowed))
        worst = int(plan.frames[int(np.argmax(plan.seconds))])
        rows = (
            ("Mean", f"{plan.seconds.mean():.1f}", "s/frame", ""),
            (f"Worst frame {worst}", f"{plan.seconds.max():.1f}", "s", "over" if over else ""),
            (f"Frames over {self._session.planner.outlook.allowed:.0f} s", str(over), "frames", "over" if over else ""),
            self._flicker_row(),
        )
        y = 66.0
        for name, value, unit, mark in rows:
            painter.setFont(theme.words(13))
            painter.setPen(theme.INK2)
            painter.drawText(QRectF(left, y, 190, 24), Qt.AlignmentFlag.AlignVCenter, name)
            painter.setFont(theme.words(12))
            painter.setPen(theme.INK3)
            painter.drawText(QRectF(right - 46, y, 46, 24), Qt.AlignmentFlag.AlignVCenter, unit)
            painter.setFont(theme.figures(13, 600))
            painter.setPen(ink)
            box = QRectF(right - 116, y, 64, 24)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, value)
            if mark == "over":
                marks.diamond(painter, right - 104, y + 12, radius=5.5)
            elif mark == "look":
                marks.triangle(painter, right - 104, y + 12, radius=6)
            y += 24

    def _flicker_row(self) -> tuple[str, str, str, str]:
        plan = self._session.plan
        assert plan is not None
        visible, risky = int(plan.visible.sum()), int(plan.at_risk.sum())
        if visible or not risky:
            return f"Seen by more than {who_sees(plan.eyes.limit)}", str(visible), "frames", "over" if visible else ""
        return f"Maybe by more than {who_sees(plan.eyes.limit)}", str(risky), "frames", "look"

    def _paint_hours(self, painter: QPainter, x: float, seconds: float, ink) -> None:
        pieces: list[tuple[str, int, int]]
        # numbers large, units small: '12 h 05', '12 min', '45 s'
        words = spoken(seconds).split(" ")
        pieces = [(word if k % 2 == 0 else f" {word} ", *((32, 700) if k % 2 == 0 else (20, 500))) for k, word in enumerate(words)]
        for text, size, weight in pieces:
            painter.setFont(theme.words(size, weight))
            painter.setPen(ink if weight == 700 else theme.INK2)
            width = painter.fontMetrics().horizontalAdvance(text)
            painter.drawText(QRectF(x, 22, width + 4, 40), Qt.AlignmentFlag.AlignBottom, text)
            x += width
