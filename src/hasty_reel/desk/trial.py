"""Over every stage while settings are only tried: what they come to, and whether they are kept or dropped."""

from __future__ import annotations

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.studio.session import Session


class TrialBanner(QWidget):
    """A sentence with the figures of the plan as it stands and as it is tried, and two buttons."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setFixedHeight(38)
        self.setAccessibleName("Settings are being tried")
        self.words = QLabel("")
        self.words.setFont(theme.words(13, 600))
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.keep = PlainButton("Keep", session.keep_trial, main=True, parent=self)
        self.keep.setToolTip("Make what was tried part of the reel, as one edit that can be undone.")
        self.drop = PlainButton("Drop", session.drop_trial, parent=self)
        self.drop.setToolTip("Let go of what was tried; everything is as it was before.")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 4)
        row.setSpacing(8)
        row.addWidget(self.words, 1)
        row.addWidget(self.drop)
        row.addWidget(self.keep)
        for signal in (session.trial.changed, session.reel_changed, session.playhead.shot_changed, session.planner.planning):
            follow(self, signal, self._refresh)
        self._refresh()

    def _refresh(self) -> None:
        trial = self._session.trial
        self.words.setText(trial.words)
        self.words.setToolTip(trial.words)
        ink = theme.OFF if self._session.planner.stale else theme.INK
        self.words.setStyleSheet(f"color: {ink.name()}")
        self.setVisible(trial.trying)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.RAISED)
        painter.setPen(theme.STRONG_RULE)
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
