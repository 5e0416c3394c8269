"""The guided tour over the stages: where one is, what to do, and a way on or out at any time."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.studio.tour import STEPS, Tour


class TourBanner(QWidget):
    """Two lines and two buttons under the header; it goes with the stage its step is about."""

    def __init__(self, tour: Tour, show_stage: Callable[[int], object], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._tour, self._show_stage, self._place = tour, show_stage, -1
        self.setAccessibleName("Guided tour")
        self.words, self.asks = QLabel(""), QLabel("")
        for label, weight in ((self.words, 500), (self.asks, 700)):
            label.setFont(theme.words(13, weight))
            label.setWordWrap(True)
            label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.next_button = PlainButton("Next", tour.go_on, parent=self)
        self.leave_button = PlainButton("Leave the tour", tour.leave, parent=self)
        text = QVBoxLayout()
        text.setSpacing(2)
        text.addWidget(self.words)
        text.addWidget(self.asks)
        row = QHBoxLayout(self)
        row.setContentsMargins(44, 8, 16, 8)
        row.addLayout(text, 1)
        row.addWidget(self.next_button)
        row.addWidget(self.leave_button)
        self.hide()
        follow(self, tour.changed, self.refresh)

    def refresh(self) -> None:
        """Show the step as it stands."""
        tour = self._tour
        self.setVisible(not tour.over)
        if tour.over:
            self._place = -1
            return
        last = tour.place == len(STEPS) - 1
        self.words.setText(f"{tour.place + 1} of {len(STEPS)}. {tour.step.words}")
        self.asks.setText("Done." if tour.done else tour.step.asks)
        self.next_button.setText("That was it" if last else "Next" if tour.done else "Skip this")
        self.next_button.set_main(tour.done)
        self.next_button.updateGeometry()
        self.leave_button.setVisible(not last)
        if self._place != tour.place:
            self._place = tour.place
            self._show_stage(tour.step.stage)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAGE)
        painter.fillRect(QRectF(0, self.height() - 1, self.width(), 1), theme.RULE)
        ink = theme.LAGOON if self._tour.done else theme.INK2
        marks.ring(painter, 26, self.height() / 2, ink, "tick" if self._tour.done else "dot")
