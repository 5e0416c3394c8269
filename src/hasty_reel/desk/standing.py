"""The first line of a stage: what stands, and what to do next."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.follow import follow_shown
from hasty_reel.studio.session import Session


class StageSentence(QWidget):
    """One sentence that is read before the figures.

    Parameters
    ----------
    session : the open reel
    words : gives the sentence
    signals : after which it may be another one
    """

    def __init__(
        self, session: Session, words: Callable[[Session], str], signals: Iterable[Any] = (), parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._session, self._words = session, words
        self.label = QLabel("")
        self.label.setFont(theme.words(13, 600))
        self.label.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.label.setAccessibleName("What stands here, and what to do")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 7, 16, 5)
        row.addWidget(self.label)
        planner = session.planner
        usual = (planner.plan_changed, planner.evidence_changed, session.playhead.shot_changed, session.reel_changed)
        follow_shown(self, (*usual, *signals), self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Say it anew; what has no room in the line is told when it is pointed at."""
        text = self._words(self._session)
        self.label.setText(text)
        self.label.setToolTip(text)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)
