"""A comparison kept as a PNG: the picture as it is seen, and under it what was compared and how."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QByteArray, QRectF, QSize, Qt
from PySide6.QtGui import QImage, QImageWriter, QPainter
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import theme
from hasty_reel.errors import PictureError
from hasty_reel.wholefile import whole_file

LINE = 20


def snapshot(view: QWidget, lines: list[str]) -> QImage:
    """The view with lines of words under it."""
    shot = view.grab().toImage()
    ratio = shot.devicePixelRatio()
    width, height = view.width(), view.height() + 16 + LINE * len(lines)
    out = QImage(QSize(round(width * ratio), round(height * ratio)), QImage.Format.Format_RGB32)
    out.setDevicePixelRatio(ratio)
    out.fill(theme.MAT)
    painter = QPainter(out)
    painter.drawImage(0, 0, shot)
    painter.setPen(theme.MAT_INK)
    for k, line in enumerate(lines):
        painter.setFont(theme.words(13, 600 if k == 0 else 500))
        text = painter.fontMetrics().elidedText(line, Qt.TextElideMode.ElideRight, width - 32)
        painter.drawText(QRectF(16, view.height() + 8 + LINE * k, width - 32, LINE), Qt.AlignmentFlag.AlignVCenter, text)
    painter.end()
    return out


def save_snapshot(path: Path, image: QImage) -> None:
    """Write it as a PNG, never half.

    Raises
    ------
    PictureError
        When it cannot be written.
    """
    try:
        with whole_file(path) as part:
            if not QImageWriter(str(part), QByteArray(b"PNG")).write(image):
                raise PictureError(f"Cannot write {path}: the folder does not take files.")
    except OSError as error:
        raise PictureError(f"Cannot write {path}: {error.strerror or error}.") from error
