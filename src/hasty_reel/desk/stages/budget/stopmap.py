"""The samples each place takes where a frame stops at noise, as a map."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, text_field
from hasty_reel.desk.follow import follow
from hasty_reel.desk.picture import as_image, draw_fitted
from hasty_reel.desk.rows import field_row
from hasty_reel.desk.stages.budget.watched import WatchedPage, sentences
from hasty_reel.plan.frames.stopmap import StopMap
from hasty_reel.studio.budget.stopmap import StopMapModel
from hasty_reel.studio.session import Session

DARK, LIGHT = 24.0, 236.0
"""Codes of the fewest and of the most samples."""
SCALE = 260.0


class SamplesMap(QWidget):
    """Places by their samples: dark where few do, light where all are taken; neutral grey, as the picture beside it is judged."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._image: QImage | None = None
        self._ends = ("", "")
        self.setMinimumHeight(160)
        self.setAccessibleName("Samples each place takes")

    def show_map(self, found: StopMap | None) -> None:
        """Draw it, by the logarithm of the samples."""
        self._image = None
        if found is not None:
            low, high = np.log(max(1.0, found.low)), np.log(max(2.0, found.high))
            share = np.clip((np.log(np.maximum(found.samples, 1.0)) - low) / max(1e-9, high - low), 0.0, 1.0)
            codes = np.rint(DARK + (LIGHT - DARK) * share).astype(np.uint8)
            self._image = as_image(np.repeat(codes[..., None], 3, axis=2))
            self._ends = f"{found.low:.0f} samples", f"{found.high:.0f}"
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.MAT)
        if self._image is None:
            return
        draw_fitted(painter, QRectF(self.rect()).adjusted(16, 12, -16, -40), self._image)
        painter.setFont(theme.figures(12))
        painter.setPen(theme.MAT_INK)
        y, left = self.height() - 26.0, (self.width() - SCALE) / 2
        for k in range(int(SCALE)):
            code = round(DARK + (LIGHT - DARK) * k / SCALE)
            painter.fillRect(QRectF(left + k, y, 1.5, 12), QColor(code, code, code))
        aside = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(left - 168, y - 4, 160, 20), aside | Qt.AlignmentFlag.AlignRight, self._ends[0])
        painter.drawText(QRectF(left + SCALE + 8, y - 4, 160, 20), aside, self._ends[1])


class StopPage(WatchedPage):
    """The map with its value, and what it comes to."""

    def __init__(self, session: Session) -> None:
        model = StopMapModel(session)
        super().__init__(model)
        self.model, self._session = model, session
        self.words = QLabel("")
        sentences(self.words)
        self.stop = text_field(self, 80, "Noise to stop at", model.type_stop)
        self.stop.setToolTip("A place gets no more samples once its noise is below this: standard deviation of linear light.")
        self.take = PlainButton("", model.take, parent=self)
        self.map = SamplesMap(self)
        row = field_row("Stop at noise", self.stop, None, self.take)
        row.setContentsMargins(16, 0, 16, 0)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 14, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.words)
        column.addLayout(row)
        column.addWidget(self.map, 1)
        for signal in (model.changed, session.reel_changed, session.planner.plan_changed):
            follow(self, signal, self._refresh)
        self._refresh()

    def _show(self) -> None:
        found = self.model.found
        self.words.setText(self.model.words)
        self.map.show_map(found)
        self.stop.show_value("" if found is None else f"{found.stop:.3g}")
        self.take.setVisible(found is not None and found.stop != self._session.recipe.stop_noise)
        self.take.setText("" if found is None else f"Stop at {found.stop:.3g}")
