"""The header over the frames: reel and shot at the left, the stage line in the middle."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QMenu, QSizePolicy, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.follow import follow
from hasty_reel.studio.session import Session
from hasty_reel.studio.verdicts import Verdict

OWN_ARROWS = "ownArrows"
"""Property of a widget in which Left and Right do something of their own, instead of stepping frames."""


class ReelButton(QAbstractButton):
    """Reel name over shot name; opens the menu of shots and files."""

    def __init__(self, session: Session, menu: Callable[[], QMenu], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._menu = session, menu
        self.setFixedHeight(theme.HEADER_HEIGHT - 8)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Shots of the reel, and its file")
        self.setAccessibleName("Reel and shot")
        self.clicked.connect(self._open)
        follow(self, session.reel_changed, self.update)
        follow(self, session.playhead.shot_changed, self.update)

    def sizeHint(self) -> QSize:
        return QSize(204, theme.HEADER_HEIGHT - 8)

    def _open(self) -> None:
        menu = self._menu()
        menu.popup(self.mapToGlobal(self.rect().bottomLeft()))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.underMouse():
            painter.fillRect(self.rect(), theme.RAISED)
        reel, shot = self._session.reel, self._session.shot
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK2)
        name = reel.name + (" · not saved" if self._session.changed else "")
        painter.drawText(QRectF(4, 5, self.width() - 8, 18), Qt.AlignmentFlag.AlignVCenter, name)
        font = theme.words(15, 700)
        painter.setFont(font)
        painter.setPen(theme.INK)
        metrics = QFontMetrics(font)
        text = metrics.elidedText(f"{shot.id} {shot.name}", Qt.TextElideMode.ElideRight, self.width() - 28)
        painter.drawText(QRectF(4, 22, self.width() - 24, 22), Qt.AlignmentFlag.AlignVCenter, text)
        x = 4 + metrics.horizontalAdvance(text) + 12
        painter.setPen(QPen(theme.INK2, 1.6))
        painter.drawPolyline(QPolygonF([QPointF(x - 4, 31), QPointF(x, 35), QPointF(x + 4, 31)]))
        if self.hasFocus():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 3, 3)


class MenuButton(QAbstractButton):
    """The menu of everything: its word over a line."""

    def __init__(self, menu: Callable[[], QMenu], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._menu = menu
        self.setText("&Menu")
        self.setAccessibleName("Menu")
        self.setToolTip("Everything one can do, with its keys (F10)")
        self.setFixedSize(56, theme.HEADER_HEIGHT - 8)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda _=False: self._menu().popup(self.mapToGlobal(self.rect().bottomLeft())))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.underMouse():
            painter.fillRect(self.rect(), theme.RAISED)
        painter.setFont(theme.words(13, 600))
        painter.setPen(theme.INK)
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Menu")
        if self.hasFocus():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 3, 3)


class StageLine(QWidget):
    """The stages in the order of the work; the current one is notched."""

    chosen = Signal(int)

    def __init__(self, names: list[str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._marks = [Verdict(n) for n in names]
        self._current = 0
        self._hover = -1
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(theme.HEADER_HEIGHT)
        self.setAccessibleName("Stages")
        self.setProperty(OWN_ARROWS, True)

    def set_marks(self, marks_: list[Verdict]) -> None:
        """Show the verdicts on the stages."""
        if marks_ != self._marks:
            self._marks = marks_
            self.update()

    def set_current(self, index: int) -> None:
        """Notch a stage."""
        self._current = index
        self.update()

    def _centre(self, k: int) -> float:
        step = min(216.0, (self.width() - 60) / max(1, len(self._marks)))
        start = (self.width() - step * (len(self._marks) - 1)) / 2
        return start + step * k

    def _at(self, x: float) -> int:
        for k in range(len(self._marks)):
            if abs(x - self._centre(k)) < 54:
                return k
        return -1

    def mousePressEvent(self, event: QMouseEvent) -> None:
        k = self._at(event.position().x())
        if k >= 0:
            self.chosen.emit(k)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        k = self._at(event.position().x())
        if k != self._hover:
            self._hover = k
            self.setCursor(Qt.CursorShape.PointingHandCursor if k >= 0 else Qt.CursorShape.ArrowCursor)
            mark = self._marks[k] if k >= 0 else None
            self.setToolTip(f"{mark.stage} (Ctrl+{k + 1})" + (f": {mark.reason}" if mark.reason else "") if mark else "")
            self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._hover = -1
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self.chosen.emit(min(max(self._current + step, 0), len(self._marks) - 1))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        y = 18.0
        for k in range(len(self._marks) - 1):
            done = self._marks[k].standing == "done"
            pen = QPen(theme.INK3 if done else theme.STRONG_RULE, 1)
            if not done:
                pen.setDashPattern([1, 4])
            painter.setPen(pen)
            painter.drawLine(QPointF(self._centre(k) + 14, y), QPointF(self._centre(k + 1) - 14, y))
        for k, mark in enumerate(self._marks):
            x = self._centre(k)
            current = k == self._current
            if mark.standing == "look":
                marks.triangle(painter, x, y)
            elif mark.standing == "done":
                marks.ring(painter, x, y, theme.LAGOON if current else theme.INK2, "tick")
            else:
                marks.ring(painter, x, y, theme.LAGOON if current else theme.OFF, "dot" if current else "empty")
            painter.setFont(theme.words(13, 700 if current else 500))
            painter.setPen(theme.INK if current or k == self._hover else theme.INK2)
            painter.drawText(QRectF(x - 60, 28, 120, 18), Qt.AlignmentFlag.AlignCenter, mark.stage)
            if current:
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(theme.LAGOON)
                bottom = self.height()
                painter.drawRect(QRectF(x - 44, bottom - 2, 88, 2))
                painter.drawPolygon(QPolygonF([QPointF(x - 5, bottom - 2), QPointF(x, bottom - 7), QPointF(x + 5, bottom - 2)]))
        if self.hasFocus():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self._centre(self._current) - 52, 3, 104, self.height() - 10), 3, 3)


class WindowHeader(QWidget):
    """Menu, reel button and stage line on the shell."""

    def __init__(
        self,
        session: Session,
        stages: list[str],
        menu: Callable[[], QMenu],
        everything: Callable[[], QMenu],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.setFixedHeight(theme.HEADER_HEIGHT)
        self.menu_button = MenuButton(everything, self)
        self.reel_button = ReelButton(session, menu, self)
        self.stage_line = StageLine(stages, self)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 0, 16, 0)
        row.setSpacing(12)
        row.addWidget(self.menu_button)
        row.addWidget(self.reel_button)
        row.addWidget(self.stage_line, 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.SHELL)
        painter.setPen(theme.RULE)
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
        x = self.reel_button.geometry().right() + 6
        painter.drawLine(x, 12, x, self.height() - 12)
