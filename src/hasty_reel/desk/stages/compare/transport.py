"""The loop: frames from memory at their true rate, and the rate that is reached said beside it."""

from __future__ import annotations

import time
from collections import deque

from PySide6.QtCore import QObject, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import ValueField
from hasty_reel.desk.rows import caption
from hasty_reel.reel.numbers import read_number

SEEN_OVER = 1.0
"""Seconds over which the rate reached is taken."""


class LoopPlayer(QObject):
    """Tells which frame of a loop is due; leaves frames out rather than run slow.

    due(int) : place in the loop; rate(float) : frames a second that were shown, told twice a second
    """

    due = Signal(int)
    rate = Signal(float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._tick)
        self._began, self._fps, self._count, self._first = 0.0, 24.0, 0, 0
        self._last = -1
        self._shown: deque[float] = deque()
        self._told = 0.0

    @property
    def playing(self) -> bool:
        """Whether it plays."""
        return self._timer.isActive()

    def play(self, count: int, fps: float, first: int = 0) -> None:
        """Play a loop of so many frames, from one of them on."""
        if count < 1:
            return
        self._count, self._fps, self._first, self._last = count, fps, first, -1
        self._began = self._told = time.perf_counter()
        self._shown.clear()
        # looked at oftener than the frames change, so that none is late by more than a few milliseconds
        self._timer.start(max(2, int(250.0 / fps)))

    def stop(self) -> None:
        """Stop where it is."""
        self._timer.stop()

    def _tick(self) -> None:
        now = time.perf_counter()
        number = int((now - self._began) * self._fps)
        if number == self._last:
            return
        self._last = number
        self.due.emit((self._first + number) % self._count)
        shown = time.perf_counter()
        self._shown.append(shown)
        while self._shown and shown - self._shown[0] > SEEN_OVER:
            self._shown.popleft()
        if shown - self._told >= 0.5 and len(self._shown) > 1:
            self._told = shown
            self.rate.emit((len(self._shown) - 1) / (self._shown[-1] - self._shown[0]))


class PlayButton(QAbstractButton):
    """A triangle to play, two bars to stop."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.playing = False
        self.setFixedSize(32, 28)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Play or stop the loop (Space)")
        self.setAccessibleName("Play")

    def sizeHint(self) -> QSize:
        return QSize(32, 28)

    def show_playing(self, playing: bool) -> None:
        """Which of the two it offers."""
        self.playing = playing
        self.setAccessibleName("Stop" if playing else "Play")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ink = theme.MAT_INK if self.isEnabled() else theme.OFF
        painter.setPen(
            QPen(theme.MAT_INK2 if self.hasFocus() or self.underMouse() else theme.NEUTRAL_STRONG, 1.5 if self.hasFocus() else 1)
        )
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 2, 2)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(ink)
        if self.playing:
            painter.drawRect(QRectF(11, 9, 3.5, 10))
            painter.drawRect(QRectF(17.5, 9, 3.5, 10))
        else:
            painter.drawPolygon([QPointF(12, 8.5), QPointF(22, 14), QPointF(12, 19.5)])


class LoopBar(QWidget):
    """The frames of the loop as a row of ticks: filled where in memory, with the one that is shown.

    chosen(int) : a place in the loop was clicked or dragged to
    """

    chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.frames: list[int] = []
        self.at = 0
        self.held: list[bool] = []
        self.setFixedHeight(28)
        self.setMinimumWidth(120)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Frames of the loop")

    def show_loop(self, frames: list[int], held: list[bool]) -> None:
        """Other frames, and which of them are in memory."""
        self.frames, self.held = frames, held
        self.at = min(self.at, max(0, len(frames) - 1))
        self.update()

    def show_at(self, at: int) -> None:
        """Where it is."""
        if at != self.at:
            self.at = at
            self.update()

    def _x(self, k: float) -> float:
        return 8 + k * (self.width() - 16) / max(1, len(self.frames) - 1)

    def _pick(self, event: QMouseEvent) -> None:
        if self.frames:
            share = (event.position().x() - 8) / max(1, self.width() - 16)
            self.chosen.emit(min(max(round(share * (len(self.frames) - 1)), 0), len(self.frames) - 1))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pick(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._pick(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        y = self.height() / 2
        painter.setPen(QPen(theme.NEUTRAL_STRONG, 1))
        painter.drawLine(QPointF(8, y), QPointF(self.width() - 8, y))
        if not self.frames:
            return
        dense = len(self.frames) > self.width() / 5
        for k, held in enumerate(self.held):
            if dense and k % (1 + len(self.frames) // 100):
                continue
            painter.setPen(QPen(theme.MAT_INK2 if held else theme.NEUTRAL_STRONG, 1))
            x = round(self._x(k)) + 0.5
            painter.drawLine(QPointF(x, y - (4 if held else 2)), QPointF(x, y + (4 if held else 2)))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor("#1E1E1E"), 1))
        painter.setBrush(theme.MAT_INK)
        painter.drawRoundedRect(QRectF(self._x(self.at) - 4, y - 10, 8, 20), 4, 4)


class Transport(QWidget):
    """Play, the loop, its length, the rate reached, what is in memory."""

    bound_changed = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.button = PlayButton(self)
        self.bar = LoopBar(self)
        self.length = caption("")
        self.reached = caption("")
        self.reached.setMinimumWidth(92)
        self.memory = ValueField("MB", self)
        self.memory.setFixedWidth(72)
        self.memory.setToolTip("The most memory the pictures of loops may take. What does not fit is read anew each time round.")
        self.memory.setAccessibleName("Memory for loops")
        self.memory.committed.connect(self._typed)
        self.used = caption("")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 2, 12, 4)
        row.setSpacing(8)
        for widget in (self.button, self.bar, self.length, self.reached, self.used, self.memory):
            row.addWidget(widget, 1 if widget is self.bar else 0)

    def _typed(self, text: str) -> None:
        try:
            value = read_number(text.removesuffix("MB"))
        except ValueError:
            value = None
        if value is not None and 16 <= value <= 65536:
            self.bound_changed.emit(round(value))

    def say_length(self, frames: int, fps: float) -> None:
        """How long the loop is."""
        self.length.setText(f"{frames} frames, {frames / fps:.2f} s" if frames > 1 else "one frame: no loop")

    def say_rate(self, reached: float | None, fps: float) -> None:
        """The rate that is reached; None while nothing plays."""
        if reached is None:
            self.reached.setText(f"{fps:.5g} fps")
        elif reached < 0.97 * fps:
            self.reached.setText(f"only {reached:.1f} of {fps:.5g} fps")
        else:
            self.reached.setText(f"{min(reached, fps):.1f} of {fps:.5g} fps")

    def say_memory(self, megabytes: float, bound: int) -> None:
        """What the pictures take."""
        self.used.setText(f"memory {megabytes:,.0f} of")
        self.memory.show_value(f"{bound}")
