"""A picture on its neutral mat, in whole multiples of its pixels where there is room."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING
from weakref import WeakKeyDictionary

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from hasty_reel.desk import theme

if TYPE_CHECKING:  # a start page shows pictures, and opens without all that a reel needs
    from hasty_reel.studio.look import Shown
    from hasty_reel.studio.session import Session

MARGIN = 24


_IMAGES: WeakKeyDictionary[Shown, QImage] = WeakKeyDictionary()


def as_image(codes: np.ndarray) -> QImage:
    """Display codes (h, w, 3) uint8 as an image with its own memory."""
    codes = np.ascontiguousarray(codes)
    h, w = codes.shape[:2]
    return QImage(codes.data, w, h, 3 * w, QImage.Format.Format_RGB888).copy()


def image_of(shown: Shown) -> QImage:
    """A picture of the models as an image, made once for as long as the picture is kept."""
    image = _IMAGES.get(shown)
    if image is None:
        image = _IMAGES[shown] = as_image(shown.codes)
    return image


def thumbnail(session: Session, path: Path) -> QImage | None:
    """The small picture of a file; None while it is being read."""
    from hasty_reel.studio.pictures import THUMBNAIL, of_file

    shown = session.pictures.get(of_file(path, THUMBNAIL))
    return None if shown is None else image_of(shown)


def draw_fitted(painter: QPainter, box: QRectF, image: QImage) -> None:
    """Draw an image into the middle of a box, in its proportions."""
    scale = min(box.width() / image.width(), box.height() / image.height())
    w, h = image.width() * scale, image.height() * scale
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawImage(QRectF(box.center().x() - w / 2, box.center().y() - h / 2, w, h), image)


class PictureView(QWidget):
    """Shows one picture; says how large it is shown, and what to do when there is none."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._image: QImage | None = None
        self._words = ""
        self.setMinimumHeight(160)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_image(self, image: QImage | None, words: str = "") -> None:
        """Show a picture, or the words where there is none."""
        self._image, self._words = image, words
        self.update()

    @property
    def scale(self) -> float:
        """How large the picture is shown: 2 means two screen pixels for each of its own."""
        if self._image is None:
            return 1.0
        wide, high = self.width() - 2 * MARGIN, self.height() - 2 * MARGIN
        fit = min(wide / self._image.width(), high / self._image.height())
        return float(max(1, int(fit))) if fit >= 1 else fit

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.MAT)
        if self._image is None:
            painter.setFont(theme.words(13))
            painter.setPen(theme.MAT_INK2)
            box = QRectF(self.rect()).adjusted(40, 0, -40, 0)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._words)
            return
        s = self.scale
        w, h = self._image.width() * s, self._image.height() * s
        box = QRectF(round((self.width() - w) / 2), round((self.height() - h) / 2), w, h)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, s < 1)
        painter.drawImage(box, self._image)
        painter.setFont(theme.figures(11))
        painter.setPen(theme.MAT_INK3)
        text = f"shown {s:g}:1" if s >= 1 else f"shown 1:{1 / s:.2g}"
        foot = QRectF(box.left(), box.bottom() + 4, w, 16)
        if foot.bottom() <= self.height():
            painter.drawText(foot, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)
