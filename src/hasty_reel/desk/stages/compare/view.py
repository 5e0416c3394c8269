"""The picture of a comparison: both sides under one zoom, told apart by a wipe line, a flip, a place or their difference."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.stages.compare.paint import paint_chip, paint_dots, paint_grip, paint_lens, paint_region
from hasty_reel.studio.compare.geometry import Placed, Sight, SliceLine, Wipe, panned, placed, zoomed
from hasty_reel.studio.compare.maps import TileMap
from hasty_reel.studio.compare.presentation import Presentation

REACH = 7
KNOB = 56
LENS = 112
LENS_ZOOM = 4
SURROUND_COLOURS = {"dark": QColor("#1E1E1E"), "middle": theme.MAT, "light": QColor("#767676")}


class ComparisonView(QWidget):
    """Two sides; dragged on, wheeled at, hovered over.

    line_changed : the line of the time slice was moved; pointed(u, v) : a place of the picture, shares; sight_changed
    painted(str): it is painted, and what it shows in words
    wanted(side, width, height) is asked for an image at a size through `images`
    """

    line_changed = Signal()
    pointed = Signal(float, float)
    sight_changed = Signal()
    flipped_changed = Signal()
    painted = Signal(str)

    def __init__(self, how: Presentation, images, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._how = how
        self._images = images  # (which side, width, height) -> QImage or None
        self.size_of_picture: tuple[int, int] | None = None
        self.two = False
        self.words = ""
        self.flipped = False
        self.sight = Sight()
        self.wipe = Wipe()
        self.line = SliceLine()
        self.with_line = True
        self.lens_at = (0.5, 0.5)
        self.difference: QImage | None = None
        self.difference_words = ""
        self.frame_words = ""
        self.maps: list[TileMap | None] = []
        self.region: tuple[float, float, float, float] | None = None
        self._drag: tuple[str, float, float] | None = None
        self.setMouseTracking(True)
        self.setMinimumHeight(140)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Comparison")

    # -- where things are

    def areas(self) -> list[tuple[float, float, float, float]]:
        """The area of each picture: one, or two beside each other."""
        w, h = float(self.width()), float(self.height())
        if self._how.mode == "beside" and self.two:
            return [(0.0, 0.0, w / 2, h), (w / 2, 0.0, w / 2, h)]
        return [(0.0, 0.0, w, h)]

    def place(self, which: int = 0) -> Placed:
        """Where the picture lies; `which` of two beside each other."""
        areas = self.areas()
        return placed(self.sight, self.size_of_picture or (16, 9), areas[min(which, len(areas) - 1)])

    def _area_at(self, x: float) -> int:
        return 1 if len(self.areas()) == 2 and x >= self.width() / 2 else 0

    def flip(self) -> None:
        """The other side."""
        self.flipped = not self.flipped
        self.flipped_changed.emit()
        self.update()

    def zoom_to(self, scale: float) -> None:
        """A scale, 0 for all of it."""
        at = self.sight
        self.sight = Sight(scale, at.x, at.y) if scale else Sight()
        self.sight_changed.emit()
        self.update()

    def show_maps(self, maps: list[TileMap | None]) -> None:
        """Draw maps over the sides."""
        self.maps = maps
        self.update()

    def show_region(self, region: tuple[float, float, float, float] | None) -> None:
        """Mark a part of the picture: left, top, right, bottom as shares of it."""
        self.region = region
        self.update()

    # -- dragging and keys

    def _hit(self, x: float, y: float) -> str:
        if self.size_of_picture is None:
            return ""
        place = self.place(self._area_at(x))
        if self._how.mode == "wipe" and self.two:
            gx, gy = self._grip(place)
            kx, ky = self._knob(place)
            if math.hypot(x - kx, y - ky) < REACH + 2:
                return "turn"
            if abs(x - gx) < 9 and abs(y - gy) < 18:
                return "wipe"
        if self.with_line:
            ends = [place.to_widget(self.line.x0, self.line.y0), place.to_widget(self.line.x1, self.line.y1)]
            for k, (ex, ey) in enumerate(ends):
                if math.hypot(x - ex, y - ey) < REACH + 4:
                    return f"end{k}"
            if self._off_line(ends, x, y) < 4:
                return "line"
        if self._how.mode == "wipe" and self.two and self._off_wipe(place, x, y) < REACH:
            return "wipe"
        return "pan"

    @staticmethod
    def _off_line(ends: list[tuple[float, float]], x: float, y: float) -> float:
        (x0, y0), (x1, y1) = ends
        dx, dy = x1 - x0, y1 - y0
        length = math.hypot(dx, dy)
        if length < 1:
            return 1e9
        along = ((x - x0) * dx + (y - y0) * dy) / length
        return abs((x - x0) * dy - (y - y0) * dx) / length if -4 <= along <= length + 4 else 1e9

    def _off_wipe(self, place: Placed, x: float, y: float) -> float:
        cx, cy = place.to_widget(self.wipe.x, self.wipe.y)
        a = math.radians(self.wipe.angle)
        return abs((x - cx) * math.cos(a) + (y - cy) * math.sin(a))

    def _grip(self, place: Placed) -> tuple[float, float]:
        x, y = place.to_widget(self.wipe.x, self.wipe.y)
        return min(max(x, 12.0), self.width() - 12.0), min(max(y, 20.0), self.height() - 20.0)

    def _knob(self, place: Placed) -> tuple[float, float]:
        x, y = self._grip(place)
        a = math.radians(self.wipe.angle)
        return x - KNOB * math.sin(a), y + KNOB * math.cos(a)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        x, y = event.position().x(), event.position().y()
        hit = self._hit(x, y)
        if hit and event.button() in (Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton):
            self._drag = ("pan" if event.button() == Qt.MouseButton.MiddleButton else hit, x, y)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        x, y = event.position().x(), event.position().y()
        if self._drag is None:
            self._hover(x, y)
            return
        what, x0, y0 = self._drag
        place = self.place(self._area_at(x0))
        u, v = place.to_picture(x, y)
        if what == "wipe":
            self.wipe = self.wipe.moved(u, v)
        elif what == "turn":
            gx, gy = self._grip(place)
            self.wipe = self.wipe.turned(math.degrees(math.atan2(-(x - gx), y - gy)))
        elif what == "line":
            self.line = self.line.moved((x - x0) / place.width, (y - y0) / place.height)
            self.line_changed.emit()
        elif what.startswith("end"):
            self.line = self.line.with_end(int(what[3]), u, v)
            self.line_changed.emit()
        else:
            self.sight = panned(self.sight, place, x - x0, y - y0)
            self.sight_changed.emit()
        self._drag = (what, x, y)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag = None
        self._hover(event.position().x(), event.position().y())

    def _hover(self, x: float, y: float) -> None:
        if self.size_of_picture is None:
            return
        hit = self._hit(x, y)
        shapes = {"wipe": Qt.CursorShape.SizeAllCursor, "turn": Qt.CursorShape.PointingHandCursor, "line": Qt.CursorShape.SizeAllCursor}
        self.setCursor(Qt.CursorShape.PointingHandCursor if hit.startswith("end") else shapes.get(hit, Qt.CursorShape.ArrowCursor))
        u, v = self.place(self._area_at(x)).to_picture(x, y)
        self.pointed.emit(u, v)
        if self._how.lens and 0 <= u <= 1 and 0 <= v <= 1:
            self.lens_at = (u, v)
            self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if self.size_of_picture is None or not event.angleDelta().y():
            return
        x, y = event.position().x(), event.position().y()
        which = self._area_at(x)
        factor = 2.0 ** (event.angleDelta().y() / 240.0)
        self.sight = zoomed(self.sight, self.place(which), factor, x, y, self.areas()[which])
        self.sight_changed.emit()
        self.update()
        event.accept()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        text = event.text().lower()
        scales = {"0": 0.0, "1": 1.0, "2": 2.0, "4": 4.0, "8": 8.0}
        if text in scales:
            self.zoom_to(scales[text])
        elif text in ("+", "-"):
            area = self.areas()[0]
            self.sight = zoomed(self.sight, self.place(), 2.0 if text == "+" else 0.5, self.width() / 2, self.height() / 2, area)
            self.sight_changed.emit()
        elif text == "f":
            self.flip()
        elif text in ("[", "]"):
            self.wipe = self.wipe.turned(self.wipe.angle + (-5.0 if text == "[" else 5.0))
        elif text in (",", "."):
            self.wipe = self.wipe.moved(self.wipe.x + (-0.02 if text == "," else 0.02), self.wipe.y)
        else:
            super().keyPressEvent(event)
            return
        self.update()

    # -- painting

    def paintEvent(self, event: QPaintEvent) -> None:
        self.painted.emit(self.foot_words())
        painter = QPainter(self)
        painter.fillRect(self.rect(), SURROUND_COLOURS[self._how.surround])
        if self.size_of_picture is None:
            painter.setFont(theme.words(13))
            painter.setPen(theme.MAT_INK2)
            box = QRectF(self.rect()).adjusted(40, 0, -40, 0)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self.words)
            return
        place = self.place()
        if self._how.mode == "beside" and self.two:
            self._paint_beside(painter)
        elif self._how.mode == "difference" and self.two:
            if self.difference is not None:
                self._draw(painter, self.difference, place)
        else:
            self._paint_one(painter, place)
        if self.region is not None:
            for which in range(len(self.areas())):
                paint_region(painter, self.place(which), self.region)
        if self.with_line:
            self._paint_line(painter)
        if self._how.lens:
            self._paint_lens(painter)
        if self.hasFocus():
            painter.setPen(QPen(theme.MAT_INK2, 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5))

    def _paint_one(self, painter: QPainter, place: Placed) -> None:
        first = 1 if self._how.mode == "flip" and self.flipped and self.two else 0
        self._draw_side(painter, first, place)
        if self._how.mode == "wipe" and self.two:
            path = QPainterPath()
            path.addPolygon(QPolygonF([QPointF(x, y) for x, y in self.wipe.side_of_b(place)]))
            painter.save()
            painter.setClipPath(path)
            self._draw_side(painter, 1, place)
            painter.restore()
            (x0, y0), (x1, y1) = self.wipe.ends(place)
            inside = QRectF(place.left, place.top, place.width, place.height).intersected(QRectF(self.rect()))
            painter.save()
            painter.setClipRect(inside.adjusted(0, -8, 0, 8))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, self.wipe.angle % 90 != 0)
            painter.setPen(QPen(theme.MAT_INK, 2))
            painter.drawLine(QPointF(x0, y0), QPointF(x1, y1))
            painter.restore()
            gx, gy = self._grip(place)
            paint_grip(painter, gx, gy, self.wipe.angle)
            kx, ky = self._knob(place)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(theme.MAT_INK, 1.5))
            painter.setBrush(QColor("#262626"))
            painter.drawEllipse(QPointF(kx, ky), 4, 4)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        if self._how.mode == "flip" and self.two:
            paint_chip(painter, place.left + 8, place.top + 8, "B" if self.flipped else "A", solid=self.flipped)

    def _paint_beside(self, painter: QPainter) -> None:
        for which, area in enumerate(self.areas()):
            place = self.place(which)
            painter.save()
            painter.setClipRect(QRectF(*area).adjusted(2, 0, -2, 0))
            self._draw_side(painter, which, place)
            x, y = max(place.left, area[0] + 2) + 8, max(place.top, area[1]) + 8
            paint_chip(painter, x, y, "AB"[which], solid=which == 1)
            painter.restore()

    def _draw_side(self, painter: QPainter, which: int, place: Placed) -> None:
        image = self._images(which, round(place.width), round(place.height))
        if image is not None:
            self._draw(painter, image, place)
        over = self.maps[which] if which < len(self.maps) else None
        if over is not None and self.size_of_picture is not None:
            paint_dots(painter, place, over.values, over.tile, (over.shape[1], over.shape[0]))

    def _draw(self, painter: QPainter, image: QImage, place: Placed) -> None:
        """Only what is in sight is drawn: a picture at 8:1 is far larger than the window."""
        target = QRectF(place.left, place.top, place.width, place.height)
        if image.width() == round(place.width) and image.height() == round(place.height):
            painter.drawImage(QPointF(place.left, place.top), image)
            return
        sx, sy = place.width / image.width(), place.height / image.height()
        part = target.intersected(QRectF(self.rect()))
        if part.isEmpty():
            return
        x0, y0 = math.floor((part.left() - target.left()) / sx), math.floor((part.top() - target.top()) / sy)
        x1, y1 = math.ceil((part.right() - target.left()) / sx), math.ceil((part.bottom() - target.top()) / sy)
        source = QRectF(x0, y0, min(x1, image.width()) - x0, min(y1, image.height()) - y0)
        painter.drawImage(QRectF(target.left() + x0 * sx, target.top() + y0 * sy, source.width() * sx, source.height() * sy), image, source)

    def _paint_line(self, painter: QPainter) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for which in range(len(self.areas())):
            place = self.place(which)
            a, b = place.to_widget(self.line.x0, self.line.y0), place.to_widget(self.line.x1, self.line.y1)
            angle = math.atan2(b[1] - a[1], b[0] - a[0])
            pen = QPen(QColor(240, 240, 240, 120), 1)
            pen.setDashPattern([1, 5])
            painter.setPen(pen)
            painter.drawLine(QPointF(*a), QPointF(*b))
            painter.setPen(QPen(QColor("#1E1E1E"), 1))
            painter.setBrush(theme.MAT_INK)
            for (x, y), sign in ((a, 1), (b, -1)):
                dx, dy = math.cos(angle) * sign, math.sin(angle) * sign
                points = [
                    QPointF(x, y),
                    QPointF(x - 9 * dx - 5 * dy, y - 9 * dy + 5 * dx),
                    QPointF(x - 9 * dx + 5 * dy, y - 9 * dy - 5 * dx),
                ]
                painter.drawPolygon(QPolygonF(points))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)

    def _paint_lens(self, painter: QPainter) -> None:
        assert self.size_of_picture is not None
        w, h = self.size_of_picture
        images = [self._images(k, w, h) for k in range(2 if self.two else 1)]
        place = self.place()
        paint_lens(painter, QRectF(self.rect()), place, images, self.lens_at, LENS, LENS_ZOOM, self.size_of_picture)

    def foot_words(self) -> str:
        """What is shown, and how large."""
        if self.size_of_picture is None:
            return ""
        scale = self.place().scale
        words = [self.frame_words] if self.frame_words else []
        if self._how.mode == "difference" and self.two and self.difference_words:
            words.append(self.difference_words)
        words.append(f"shown {scale:g}:1" if scale >= 1 else f"shown 1:{1 / scale:.2g}")
        if self._how.lens:
            words.append(f"lens {LENS_ZOOM}×")
        return ", ".join(words)
