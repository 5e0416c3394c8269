"""Marks drawn by hand: the shape says it before the colour does."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from hasty_reel.desk import theme


def ring(painter: QPainter, x: float, y: float, colour: QColor, fill: str = "tick", radius: float = 7.0) -> None:
    """A ring around (x, y): with a tick (fine), a dot (chosen) or empty (to come)."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour, 1.5))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(QPointF(x, y), radius, radius)
    k = radius / 7.0
    if fill == "tick":
        path = QPainterPath(QPointF(x - 3 * k, y + 0.2 * k))
        path.lineTo(x - 0.8 * k, y + 2.6 * k)
        path.lineTo(x + 3.2 * k, y - 2.4 * k)
        painter.drawPath(path)
    elif fill == "dot":
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        painter.drawEllipse(QPointF(x, y), radius * 0.5, radius * 0.5)
    painter.restore()


def triangle(painter: QPainter, x: float, y: float, colour: QColor = theme.AMBER, radius: float = 8.0) -> None:
    """A triangle with an exclamation mark: look here."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour, 1.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    painter.setBrush(colour)
    r = radius
    painter.drawPolygon(QPolygonF([QPointF(x, y - r * 0.85), QPointF(x + r, y + r * 0.75), QPointF(x - r, y + r * 0.75)]))
    painter.setPen(QPen(QColor("#1C1A14"), 1.7, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawLine(QPointF(x, y - r * 0.3), QPointF(x, y + r * 0.2))
    painter.drawPoint(QPointF(x, y + r * 0.5))
    painter.restore()


def diamond(painter: QPainter, x: float, y: float, colour: QColor = theme.CORAL, radius: float = 6.5) -> None:
    """A diamond with a bar: over the limit."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour)
    r = radius
    painter.drawPolygon(QPolygonF([QPointF(x, y - r), QPointF(x + r, y), QPointF(x, y + r), QPointF(x - r, y)]))
    painter.setPen(QPen(theme.CORAL_HATCH, 1.6))
    painter.drawLine(QPointF(x - r * 0.42, y), QPointF(x + r * 0.42, y))
    painter.restore()


def trace(painter: QPainter, box: QRectF, effect: str) -> None:
    """What a setting does to flicker: 'calmer' dies out, 'same' is a dash, 'more' grows, 'unproven' is an open question."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    y, left, width = box.center().y(), box.left(), box.width()
    if effect == "same":
        painter.setPen(QPen(theme.INK3, 1.5))
        painter.drawLine(QPointF(box.center().x() - 4, y), QPointF(box.center().x() + 4, y))
    elif effect == "unproven":
        painter.setPen(theme.INK3)
        painter.setFont(theme.words(12))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "?")
    else:
        calm = effect == "calmer"
        painter.setPen(QPen(theme.LAGOON if calm else theme.AMBER, 1.5))
        path = QPainterPath()
        steps = 8
        for k in range(steps + 1):
            swing = (1 - k / steps) if calm else (0.25 + 0.75 * k / steps)
            dy = (0 if k in (0, steps) and calm else (-1 if k % 2 else 1)) * swing * box.height() * 0.42
            point = QPointF(left + width * k / steps, y + dy)
            path.moveTo(point) if k == 0 else path.lineTo(point)
        painter.drawPath(path)
    painter.restore()


def tag(painter: QPainter, box: QRectF, text: str, kind: str, share: float, off: bool = False) -> None:
    """A price: pointed at the left. `kind` 'costs' is filled, 'saves' outlined, 'none' plain; `share` of the dearest."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    point = 6.0
    path = QPainterPath(QPointF(box.left(), box.center().y()))
    for x, y in (
        (box.left() + point, box.top()),
        (box.right(), box.top()),
        (box.right(), box.bottom()),
        (box.left() + point, box.bottom()),
    ):
        path.lineTo(x, y)
    path.closeSubpath()
    saves = kind == "saves"
    painter.fillPath(path, QColor("#1A2A2B") if saves else QColor("#35312D"))
    if share > 0 and kind != "none":
        painter.save()
        painter.setClipPath(path)
        painter.fillRect(
            QRectF(box.left(), box.top(), point + (box.width() - point) * min(1.0, share), box.height()),
            QColor("#2C5F61") if saves else QColor("#5E564E"),
        )
        painter.restore()
    if saves:
        painter.setPen(QPen(QColor("#468F90"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
    painter.setPen(theme.OFF if off else QColor("#92DEDB") if saves else theme.INK if kind == "costs" else theme.INK2)
    painter.setFont(theme.figures(12))
    painter.drawText(box.adjusted(8, 0, -5, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
    painter.restore()
