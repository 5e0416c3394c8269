"""What the eye test shows: the loops of a trial on even grey, and the course of the test."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.follow import follow
from hasty_reel.desk.picture import as_image
from hasty_reel.measure.eyetest import Staircase
from hasty_reel.studio.compare.eyetest import EyeTest

PAUSE_MS, ROUNDS = 450, 2
GREY = QColor(160, 160, 160)
ASK = "Which one was restless? 1 the first, 2 the second; guess if you cannot tell."


class PatchView(QWidget):
    """Plays the loops of a trial one after the other, on even grey, then asks."""

    played = Signal()

    def __init__(self, model: EyeTest, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._loops: list[list[QImage]] = []
        self._at, self._which, self._round = 0, -1, 0
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._next)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Eye test")
        follow(self, model.trial, self.play)
        follow(self, model.changed, self._changed)

    def play(self) -> None:
        """Play both loops, then ask."""
        self._loops = [[as_image(f) for f in loop] for loop in self._model.loops]
        self._fps, self._which, self._at, self._round = self._model.fps, 0, 0, 0
        self._timer.start(round(1000 / self._fps))
        self.setFocus()
        self.update()

    def _changed(self) -> None:
        if not self._model.running:
            self._timer.stop()
            self._which = -1
        self.update()

    def _next(self) -> None:
        self._at += 1
        if self._at >= len(self._loops[self._which]):
            self._at = 0
            self._round += 1
            if self._round >= ROUNDS:
                self._timer.stop()
                self._round = 0
                if self._which == 0:
                    self._which = -2
                    QTimer.singleShot(PAUSE_MS, self, self._second)
                else:
                    self._which = -1
                    self._model.ask()
                    self.played.emit()
        self.update()

    def _second(self) -> None:
        if self._which == -2:
            self._which, self._at = 1, 0
            self._timer.start(round(1000 / self._fps))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.text() in ("1", "2") and self._model.asking:
            self._model.answer(int(event.text()) - 1)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), GREY)
        painter.setPen(QColor("#101010"))
        painter.setFont(theme.words(13, 600))
        foot = QRectF(0, self.height() - 34, self.width(), 24)
        if self._which >= 0:
            image = self._loops[self._which][self._at]
            # own pixels on screen pixels, also where the window is scaled
            ratio = self.devicePixelRatioF()
            w, h = image.width() / ratio, image.height() / ratio
            painter.drawImage(QRectF(round((self.width() - w) / 2), round((self.height() - h) / 2), w, h), image)
            painter.drawText(foot, Qt.AlignmentFlag.AlignCenter, ("First", "Second")[self._which])
        elif self._model.asking:
            painter.drawText(
                foot,
                Qt.AlignmentFlag.AlignCenter,
                ASK,
            )


class StairsCurve(QWidget):
    """The course of the test: the amount of each trial, found (solid) or not (hollow), and the limit across."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._stairs: Staircase | None = None
        self.setFixedHeight(110)
        self.setAccessibleName("Course of the test")
        self.setToolTip("Amount of unrest in JND, trial by trial: solid where the restless loop was found, hollow where not.")

    def show_stairs(self, stairs: Staircase | None) -> None:
        """Show a course; nothing before the first answer."""
        self._stairs = stairs
        self.setVisible(stairs is not None and bool(stairs.trials))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._stairs is None or not self._stairs.trials:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(34, 6, self.width() - 44, self.height() - 14)
        amounts = [t.amount for t in self._stairs.trials]
        low, high = np.log(min(*amounts, 0.5)), np.log(max(*amounts, 2.0))

        def y(amount: float) -> float:
            return box.bottom() - box.height() * float((np.log(amount) - low) / (high - low))

        painter.setFont(theme.figures(11))
        for mark in (0.1, 0.25, 0.5, 1.0, 2.0, 4.0, 8.0, 16.0, 32.0):
            if low <= np.log(mark) <= high:
                painter.setPen(theme.MAT_RULE)
                painter.drawLine(QPointF(box.left(), y(mark)), QPointF(box.right(), y(mark)))
                painter.setPen(theme.MAT_INK3)
                painter.drawText(QRectF(0, y(mark) - 7, 28, 14), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, f"{mark:g}")
        step = box.width() / max(20, len(amounts))
        for k, trial in enumerate(self._stairs.trials):
            painter.setPen(QPen(theme.MAT_INK, 1.2))
            painter.setBrush(theme.MAT_INK if trial.right else Qt.BrushStyle.NoBrush)
            painter.drawEllipse(QPointF(box.left() + (k + 0.5) * step, y(trial.amount)), 2.6, 2.6)
        if self._stairs.limit is not None:
            painter.setPen(QPen(theme.MAT_INK, 1))
            painter.drawLine(QPointF(box.left(), y(self._stairs.limit)), QPointF(box.right(), y(self._stairs.limit)))
