"""The film from its first frame down to its last, each shot as long as it plays."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.follow import follow
from hasty_reel.reel.document import Reel
from hasty_reel.reel.rate import place_text
from hasty_reel.studio.session import Session

LEFT, RIGHT, TOP = 12.0, 52.0, 6.0


class FilmBand(QWidget):
    """Drag along it to go anywhere in the film; the playhead is that of the reel strip."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._laid: tuple[Reel, list[str], np.ndarray] | None = None
        self.setFixedWidth(62)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Film in true proportion")
        self.setMouseTracking(True)
        for signal in (session.reel_changed, session.playhead.shot_changed, session.playhead.frame_changed):
            follow(self, signal, self._redraw)

    def _redraw(self, *_: object) -> None:
        self.update()

    def y_of(self, place: float) -> float:
        """Where a frame of the film, counted from 0, begins in the widget."""
        return TOP + (self.height() - 2 * TOP) * place / max(1, self._session.reel.length)

    def place_at(self, y: float) -> int:
        """The frame of the film, counted from 0, under a place in the widget."""
        length = self._session.reel.length
        return int(min(max((y - TOP) / max(1.0, self.height() - 2 * TOP) * length, 0), length - 1))

    def _lay(self) -> tuple[list[str], np.ndarray]:
        """Shots of the film and the frames they begin at, laid out once for a reel; one past the last at the end."""
        reel = self._session.reel
        if self._laid is None or self._laid[0] is not reel:
            starts = np.array([*reel.places.values(), reel.length], np.int64)
            self._laid = (reel, list(reel.places), starts)
        return self._laid[1:]

    def _found(self, y: float) -> tuple[str, int] | None:
        reel = self._session.reel
        names, starts = self._lay()
        if not names:
            return None
        place = self.place_at(y)
        k = int(np.searchsorted(starts[:-1], place, side="right")) - 1
        return names[k], reel.shot(names[k]).first + place - int(starts[k])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._go(event.position().y())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        y = event.position().y()
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._go(y)
        found = self._found(y)
        if found is not None:
            reel, (shot_id, frame) = self._session.reel, found
            words = place_text(frame, self.place_at(y), reel.fps, reel.start_frame, reel.drop_frame)
            self.setToolTip(f"{shot_id} {reel.shot(shot_id).name}\n{words}")

    def _go(self, y: float) -> None:
        found = self._found(y)
        if found is None:
            return
        shot_id, frame = found
        if shot_id != self._session.playhead.whole_id:
            self._session.playhead.show_shot(shot_id)
        self._session.playhead.show_frame(frame)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.STAGE)
        session = self._session
        reel = session.reel
        current = session.playhead.whole_id
        names, starts = self._lay()
        edges = TOP + (self.height() - 2 * TOP) * starts / max(1, reel.length)
        # of thousands of shots that would lie within one line of the screen, one is drawn
        _, seen = np.unique(np.round(edges[:-1]), return_index=True)
        chosen = [names.index(current)] if current in reel.places else []
        for k in (*seen.tolist(), *chosen):
            shot_id, y0, y1 = names[k], float(edges[k]), float(edges[k + 1])
            fill = theme.BAND[k % 2] if shot_id != current else theme.LAGOON_DEEP
            gap = 1.0 if y1 - y0 > 3 else 0.0
            box = QRectF(LEFT, y0, RIGHT - LEFT, max(1.0, y1 - y0 - gap))
            painter.fillRect(box, fill)
            if box.height() >= 15:
                painter.setFont(theme.figures(11))
                painter.setPen(theme.INK if shot_id == current else theme.INK2)
                painter.drawText(box.adjusted(0, 0, 0, 0), Qt.AlignmentFlag.AlignCenter, shot_id[-5:])
        playing = reel.film_place(session.shot, session.playhead.frame)
        if playing is None:
            return
        y = self.y_of(min(max(playing + 0.5, 0), reel.length))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.INK, 1))
        painter.drawLine(QPointF(LEFT - 3, y), QPointF(RIGHT + 3, y))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.INK)
        painter.drawPolygon(QPolygonF([QPointF(RIGHT + 2, y), QPointF(RIGHT + 8, y - 4), QPointF(RIGHT + 8, y + 4)]))
