"""The night band: machines as lanes over the next days, their free hours, the work in them, and the due flag."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from hasty_reel.desk.follow import follow
from hasty_reel.desk.stages.brief.machine import MachinePage
from hasty_reel.desk.stages.brief.nightpaint import paint_band
from hasty_reel.studio.brief.nights import DAY, FOOT, HOUR, Band, Held
from hasty_reel.studio.session import Session

SHAPES = {
    "start": Qt.CursorShape.SizeHorCursor,
    "end": Qt.CursorShape.SizeHorCursor,
    "due": Qt.CursorShape.SizeHorCursor,
    "body": Qt.CursorShape.OpenHandCursor,
    "axis": Qt.CursorShape.OpenHandCursor,
    "name": Qt.CursorShape.PointingHandCursor,
    "lane": Qt.CursorShape.CrossCursor,
}
MOVED = 3
"""Pixels from which a press is a drag."""


class NightBand(QWidget):
    """Drag a free window, its ends, or the due flag; drag in an empty lane for a new window; wheel zooms."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.band = Band(session, datetime.now().timestamp() // HOUR * HOUR - HOUR)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Night band")
        for signal in (session.reel_changed, session.planner.plan_changed, session.planner.planning):
            follow(self, signal, self._changed)
        self._changed()
        ahead = self.band.due - self.band.begin
        if ahead > 0:
            self.band.span = max(self.band.span, min(14 * DAY, ahead * 1.15))

    def _changed(self) -> None:
        self.band.lane = min(self.band.lane, self.band.lanes - 1)
        self.setFixedHeight(round(self.band.bottom + FOOT))
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.band.width = self.width()
        super().resizeEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        paint_band(QPainter(self), self.band, self.hasFocus())

    # -- hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        band = self.band
        x, y = event.position().x(), event.position().y()
        band.held = band.under(x, y)
        band.origin = band.to = band.instant_at(x)
        if band.held.machine >= 0:
            band.lane = band.held.machine
        band.chosen = (band.held.machine, band.held.rule) if band.held.rule >= 0 else None
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        band = self.band
        x, y = event.position().x(), event.position().y()
        if not event.buttons() & Qt.MouseButton.LeftButton:
            band.hover = band.under(x, y)
            self.setCursor(SHAPES.get(band.hover.part, Qt.CursorShape.ArrowCursor))
            self.setToolTip(band.tip(band.hover))
        elif band.held.part == "axis":
            band.begin += band.origin - band.instant_at(x)
        else:
            band.to = band.instant_at(x)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        band = self.band
        moved = abs(band.x_of(band.to) - band.x_of(band.origin)) >= MOVED
        held, band.held = band.held, Held()
        if held.part == "name":
            self.open_machine(held.machine)
        elif held.part not in ("axis", "none") and moved:
            band.drop(held)
        self.update()

    def open_machine(self, machine: int) -> MachinePage:
        """Open the page of a machine at its lane."""
        page = MachinePage(self._session, machine, self)
        page.adjustSize()
        corner = self.mapToGlobal(QPoint(12, round(self.band.lane_top(machine))))
        page.move(corner - QPoint(0, page.height()))
        page.show()
        page.fields["name"].setFocus()
        return page

    def wheelEvent(self, event: QWheelEvent) -> None:
        self.band.zoom(event.position().x(), 0.8 if event.angleDelta().y() > 0 else 1.25)
        self.update()
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, band = event.key(), self.band
        if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            band.lane = (band.lane + (1 if key == Qt.Key.Key_Down else -1)) % band.lanes
        elif key == Qt.Key.Key_Return:
            self.open_machine(band.lane)
        elif key == Qt.Key.Key_PageDown:
            band.begin += band.span / 3
        elif key == Qt.Key.Key_PageUp:
            band.begin -= band.span / 3
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and band.chosen is not None:
            band.take_out()
        else:
            super().keyPressEvent(event)
            return
        self.update()
