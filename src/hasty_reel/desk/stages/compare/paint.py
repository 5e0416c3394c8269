"""Marks on and beside pictures: chips, grip, dots of a map, the magnifier. Neutral grey alone."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from hasty_reel.desk import theme
from hasty_reel.studio.compare.geometry import Placed

CHIP = 20


def paint_chip(painter: QPainter, x: float, y: float, letter: str, solid: bool) -> None:
    """A hollow, B solid."""
    box = QRectF(x, y, CHIP, CHIP)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(theme.MAT_INK, 1.5))
    painter.setBrush(theme.MAT_INK if solid else QColor("#262626"))
    painter.drawRoundedRect(box.adjusted(0.75, 0.75, -0.75, -0.75), 2, 2)
    painter.setPen(QColor("#1B1B1B") if solid else theme.MAT_INK)
    painter.setFont(theme.words(13, 700))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, letter)
    painter.restore()


def paint_grip(painter: QPainter, x: float, y: float, angle: float) -> None:
    """A capsule lying across its way."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(x, y)
    painter.rotate(angle)
    painter.setPen(QPen(QColor("#1E1E1E"), 1))
    painter.setBrush(theme.MAT_INK)
    painter.drawRoundedRect(QRectF(-5, -13, 10, 26), 5, 5)
    painter.setPen(QPen(QColor("#3A3A3A"), 1.2))
    painter.drawLine(QPointF(0, -7), QPointF(0, 7))
    painter.restore()


def paint_region(painter: QPainter, place: Placed, region: tuple[float, float, float, float]) -> None:
    """The corners of a part of the picture: left, top, right, bottom as shares of it."""
    left, top = place.to_widget(region[0], region[1])
    right, bottom = place.to_widget(region[2], region[3])
    reach = min(14.0, (right - left) / 3, (bottom - top) / 3)
    painter.save()
    for colour, width in ((QColor("#1E1E1E"), 4), (theme.MAT_INK, 2)):
        painter.setPen(QPen(colour, width))
        for cx, sx in ((left, 1), (right, -1)):
            for cy, sy in ((top, 1), (bottom, -1)):
                painter.drawLine(QPointF(cx, cy), QPointF(cx + sx * reach, cy))
                painter.drawLine(QPointF(cx, cy), QPointF(cx, cy + sy * reach))
    painter.restore()


def paint_dots(painter: QPainter, place: Placed, values: np.ndarray, tile: int, size: tuple[int, int]) -> None:
    """A map as dots, one a tile: as large as its value, ringed where it is above the limit.

    values : (down, across), 1 at the limit; nan where nothing was measured
    """
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    step = tile * place.scale * (place.width / place.scale / size[0])
    top = max(1.0, float(np.nanmax(values, initial=0.0)))
    for j in range(values.shape[0]):
        for i in range(values.shape[1]):
            value = values[j, i]
            if not np.isfinite(value) or value <= 0:
                continue
            x, y = place.to_widget(min((i + 0.5) * tile, size[0] - tile / 4) / size[0], min((j + 0.5) * tile, size[1] - tile / 4) / size[1])
            radius = max(1.0, 0.46 * step * float(np.sqrt(min(1.0, value / top))))
            # the picture stays to be seen: rings, a second one inside where it is over the limit
            painter.setBrush(QColor(240, 240, 240, 36))
            for inside in (1.0, 0.6) if value >= 1 and radius > 3 else (1.0,):
                for colour, width in ((QColor(20, 20, 20, 190), 3.0), (QColor(240, 240, 240, 230), 1.4)):
                    painter.setPen(QPen(colour, width))
                    painter.drawEllipse(QPointF(x, y), radius * inside, radius * inside)
                painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.restore()


def paint_lens(
    painter: QPainter, area: QRectF, place: Placed, images: list[QImage | None], at: tuple[float, float], side: int, zoom: int,
    size: tuple[int, int],
) -> None:  # fmt: skip
    """The pixels around a place, enlarged, of one side or both, in the corner away from it."""
    span = side / zoom
    x, y = place.to_widget(*at)
    scale = place.width / size[0]
    painter.save()
    frame = QRectF(x - span * scale / 2, y - span * scale / 2, span * scale, span * scale)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for colour, width in ((QColor("#1E1E1E"), 3), (theme.MAT_INK, 1)):
        painter.setPen(QPen(colour, width))
        painter.drawRect(frame)
    wide = side * len(images)
    left = area.right() - wide - 12 if x < area.center().x() else area.left() + 12
    top = area.bottom() - side - 30 if y < area.center().y() else area.top() + 12
    for k, image in enumerate(images):
        box = QRectF(left + k * side, top, side, side)
        painter.fillRect(box, QColor("#1B1B1B"))
        if image is not None:
            fx, fy = image.width() / size[0], image.height() / size[1]
            source = QRectF((at[0] * size[0] - span / 2) * fx, (at[1] * size[1] - span / 2) * fy, span * fx, span * fy)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
            painter.drawImage(box, image, source)
        painter.setPen(QPen(theme.MAT_INK, 2))
        painter.drawRect(box)
        if len(images) > 1:
            paint_chip(painter, box.left() + 4, box.top() + 4, "AB"[k], solid=k == 1)
    painter.restore()
