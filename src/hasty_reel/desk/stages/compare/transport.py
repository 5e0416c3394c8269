"""The loop in the window: play and stop, its frames, the rate that is reached, what is in memory."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QSizePolicy, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.rows import caption
from hasty_reel.studio.compare.comparison import Comparison


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

    def __init__(self, comparison: Comparison, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._comparison, self._loop = comparison, comparison.loop
        self.button = PlayButton(self)
        self.bar = LoopBar(self)
        self.length = caption("")
        self.reached = caption("")
        self.reached.setMinimumWidth(92)
        self.memory = ValueField("MB", self)
        self.memory.setFixedWidth(72)
        self.memory.setToolTip("The most memory that pictures may take. What does not fit is read anew each time round.")
        self.memory.setAccessibleName("Memory for loops")
        self.used = caption("")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 2, 12, 4)
        row.setSpacing(8)
        for widget in (self.button, self.bar, self.length, self.reached, self.used, self.memory):
            row.addWidget(widget, 1 if widget is self.bar else 0)
        self.button.clicked.connect(self._loop.toggle)
        self.bar.chosen.connect(self._loop.go_to)
        self.memory.committed.connect(self._loop.type_bound)
        follow(self, self._loop.changed, self.refresh)
        follow(self, comparison.sides_changed, self.refresh)
        follow(self, comparison.shown_changed, lambda: self.bar.show_at(comparison.sides.at))
        self.refresh()

    def refresh(self) -> None:
        """Show the loop as it stands."""
        loop, run = self._loop, self._comparison.sides.run
        self.button.show_playing(loop.playing)
        self.button.setEnabled(len(run) > 1)
        self.bar.show_loop(run, loop.in_memory)
        self.length.setText(loop.length_words)
        self.reached.setText(loop.rate_words)
        self.used.setText(f"memory {loop.megabytes:,.0f} of")
        self.memory.show_value(f"{loop.bound_mb}")
