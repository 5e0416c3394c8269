"""A frame before and after finishing, with a line between them that is dragged; or what finishing took out of it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.header import OWN_ARROWS
from hasty_reel.desk.picture import as_image
from hasty_reel.studio.finish.preview import Finished, FinishPreview

MARGIN = 16.0


class FinishPicture(QWidget):
    """Shows the model's frame; Left and Right step through the run, the line follows the mouse while it is pressed."""

    def __init__(self, model: FinishPreview, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self._of: Finished | None = None
        self._images: dict[str, QImage] = {}
        self.split = 0.5
        self.setMinimumHeight(200)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setProperty(OWN_ARROWS, True)
        self.setAccessibleName("Frame before and after finishing")
        self.setToolTip("Drag the line; Left and Right step through the run")

    def refresh(self) -> None:
        """Show the frame as the model has it; the one before stays until it is there."""
        shown = self._model.shown
        if shown is not None and shown is not self._of:
            self._of = shown
            self._images = {"before": as_image(shown.before), "after": as_image(shown.after), "taken": as_image(shown.taken)}
            if shown.changed is not None:
                self._images["changed"] = as_image(shown.changed)
        if self._model.proof is None:
            self._of, self._images = None, {}
        self.update()

    def _box(self, image: QImage) -> QRectF:
        room = QRectF(self.rect()).adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)
        scale = min(room.width() / image.width(), room.height() / image.height())
        scale = max(1.0, float(int(scale))) if scale >= 2.0 else scale
        w, h = image.width() * scale, image.height() * scale
        return QRectF(room.center().x() - w / 2, room.center().y() - h / 2, w, h)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.MAT)
        mode = self._model.mode
        first = self._images.get("before" if mode == "wipe" else mode)
        if first is None:
            painter.setPen(theme.MAT_INK2)
            painter.setFont(theme.words(14))
            box = QRectF(self.rect()).adjusted(60, 0, -60, 0)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._model.words)
            return
        box = self._box(first)
        painter.drawImage(box, first)
        if mode != "wipe":
            return
        x = box.left() + self.split * box.width()
        after = self._images["after"]
        part = QRectF(self.split * after.width(), 0, (1 - self.split) * after.width(), after.height())
        painter.drawImage(QRectF(x, box.top(), box.right() - x, box.height()), after, part)
        painter.setPen(QPen(theme.LAGOON, 1.5))
        painter.drawLine(QPointF(x, box.top() - 6), QPointF(x, box.bottom() + 6))
        painter.setFont(theme.words(12, 600))
        metrics = QFontMetrics(painter.font())
        for text, left in (("rendered", x - metrics.horizontalAdvance("rendered") - 16), ("finished", x + 8)):
            label = QRectF(left, box.top() + 8, metrics.horizontalAdvance(text) + 8, 18)
            painter.fillRect(label, theme.SHELL)
            painter.setPen(theme.INK)
            painter.drawText(label, Qt.AlignmentFlag.AlignCenter, text)

    def _drag(self, x: float) -> None:
        image = self._images.get("before")
        if image is not None and self._model.mode == "wipe":
            box = self._box(image)
            self.split = min(1.0, max(0.0, (x - box.left()) / box.width()))
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        self._drag(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._drag(event.position().x())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
        else:
            self._model.step(way)
