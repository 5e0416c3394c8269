"""Over every stage while settings are only tried: how they look, what they come to, and whether they are kept or dropped."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, Switch
from hasty_reel.desk.follow import follow
from hasty_reel.desk.picture import as_image, draw_fitted
from hasty_reel.reel.durations import spoken
from hasty_reel.studio.session import Session

LOW, TALL = 38, 120
"""Heights without a picture and with one."""


class LivePicture(QWidget):
    """The frame as it looks with what is tried, and how many samples it has so far."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = session.live_try
        self._image: QImage | None = None
        self.setFixedSize(164, 108)
        self.setAccessibleName("The frame with what is tried")
        follow(self, self._model.changed, self._refresh)

    def _refresh(self) -> None:
        first = self._model.first_seconds
        self.setToolTip("" if first is None else f"First picture {spoken(first)} after the change")
        self._image = None if self._model.codes is None else as_image(self._model.codes)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        box = QRectF(0, 0, self.width(), self.height() - 16)
        painter.fillRect(box, theme.MAT)
        if self._image is not None:
            draw_fitted(painter, box, self._image)
        painter.setFont(theme.words(11))
        painter.setPen(theme.INK2)
        painter.drawText(QRectF(0, self.height() - 15, self.width(), 15), Qt.AlignmentFlag.AlignLeft, self._model.words)


class TrialBanner(QWidget):
    """A small picture, a sentence with the figures of the plan as it stands and as it is tried, and two buttons."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setAccessibleName("Settings are being tried")
        self.words = QLabel("")
        self.words.setFont(theme.words(13, 600))
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.picture = LivePicture(session, self)
        self.live = Switch("Picture", session.live_try.switch, self)
        self.live.setToolTip("Renders this frame small, again at once with each change, and better from pass to pass.")
        self.keep = PlainButton("Keep", session.keep_trial, main=True, parent=self)
        self.keep.setToolTip("Make what was tried part of the reel, as one edit that can be undone.")
        self.drop = PlainButton("Drop", session.drop_trial, parent=self)
        self.drop.setToolTip("Let go of what was tried; everything is as it was before.")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 4)
        row.setSpacing(8)
        row.addWidget(self.picture)
        row.addWidget(self.words, 1)
        row.addWidget(self.live)
        row.addWidget(self.drop)
        row.addWidget(self.keep)
        for signal in (
            session.live_try.changed,
            session.trial.changed,
            session.reel_changed,
            session.playhead.shot_changed,
            session.planner.planning,
        ):
            follow(self, signal, self._refresh)
        self._refresh()

    def _refresh(self) -> None:
        trial = self._session.trial
        self.words.setText(trial.words)
        self.words.setToolTip(trial.words)
        ink = theme.OFF if self._session.planner.stale else theme.INK
        self.words.setStyleSheet(f"color: {ink.name()}")
        live = self._session.live_try
        self.live.setChecked(live.on)
        self.picture.setVisible(live.on)
        self.setFixedHeight(TALL if live.on else LOW)
        self.words.setWordWrap(live.on)  # there is room for it then
        self.setVisible(trial.trying)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.RAISED)
        painter.setPen(theme.STRONG_RULE)
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
