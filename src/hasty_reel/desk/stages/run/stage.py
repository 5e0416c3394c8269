"""Run: the final frames by the plan, as a wall by state; then the film."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.caption import Caption, thin_bar
from hasty_reel.desk.fields import PlainButton, ValueField
from hasty_reel.desk.follow import follow, follow_shown
from hasty_reel.desk.picture import PictureView, as_image, image_of
from hasty_reel.desk.stages.run.account import AccountPage
from hasty_reel.desk.stages.run.awake import Awake
from hasty_reel.desk.stages.run.controls import RunControls
from hasty_reel.desk.stages.run.fan import FanChart
from hasty_reel.desk.stages.run.handover import HandOver
from hasty_reel.desk.stages.run.lanes import LaneView
from hasty_reel.desk.stages.run.messages import MessageList
from hasty_reel.desk.stages.run.wall import FrameWall
from hasty_reel.desk.tabs import TabbedPages
from hasty_reel.studio.pictures import Wanted, of_file
from hasty_reel.studio.run.final import FinalFrames
from hasty_reel.studio.session import Session

LONGEST_FOLDER = 46
"""Characters of a folder that are shown."""


class RunStage(QWidget):
    """Folder, frames, wall, picture, film."""

    def __init__(self, session: Session, final: FinalFrames, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self.final = session, final
        self._film_words = ""
        self.hand = HandOver(session, final, self)
        self._build()
        follow_shown(self, (final.changed,), self._refresh)
        follow(self, final.grown, self._grown)
        follow(self, session.playhead.shot_changed, self.hand.player.stop)
        follow(self, session.playhead.frame_changed, self._look)
        follow(self, session.pictures.came, self._came)
        self.hand.stopped.connect(self._look)
        self.hand.player.showed.connect(self._film_frame)
        self.hand.player.rate.connect(lambda r: self.caption.say(self._film_words, f"{r:.1f} of {float(session.reel.fps):g} fps"))
        self.awake = Awake(session, final, self)
        self._refresh()

    def _build(self) -> None:
        self.folder_label = QLabel()
        self.folder_label.setFont(theme.words(13, 600))
        self.folder_label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.choose_button = PlainButton("Choose folder", self._choose_folder)
        self.frames = ValueField("", self)
        self.frames.setFixedWidth(150)
        self.frames.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.frames.setAccessibleName("Frames to run")
        self.frames.setToolTip("Frames to render; all of the shot unless you say otherwise. Shift-drag on the reel strip selects too.")
        self.frames.committed.connect(self.final.type_frames)
        self.go_button = PlainButton("Render frames", self.go, main=True)
        self.stop_button = PlainButton("Stop", self.final.stop)
        first = QHBoxLayout()
        first.setContentsMargins(16, 12, 16, 4)
        first.setSpacing(8)
        for text, widget in (("Frames", self.frames), ("into", self.folder_label)):
            label = QLabel(text)
            label.setFont(theme.words(13))
            first.addWidget(label)
            first.addWidget(widget)
        first.addWidget(self.choose_button)
        first.addStretch(1)
        first.addWidget(self.stop_button)
        first.addWidget(self.go_button)
        self.note = QLabel("")
        self.note.setFont(theme.words(14, 700))
        self.note.setWordWrap(True)
        second = QHBoxLayout()
        second.setContentsMargins(16, 2, 16, 8)
        second.addWidget(self.note, 1)
        self.again_button = PlainButton("Render them again", self._confirm)
        second.addWidget(self.again_button)
        self.bar = thin_bar()
        self.wall = FrameWall(self)
        self.wall.clicked.connect(self._session.playhead.show_frame)
        self.view = PictureView(self)
        self.caption = Caption(self)
        self.controls = RunControls(self._session, self.final, self)
        self.lanes, self.fan, self.messages = LaneView(self), FanChart(self), MessageList(self)
        self.messages.chosen.connect(self._session.playhead.show_frame)
        self.account = AccountPage(self._session, self.final, self)
        picture, night = QWidget(self), QWidget(self)
        pictures = QVBoxLayout(picture)
        nights = QVBoxLayout(night)
        for box in (pictures, nights):
            box.setContentsMargins(0, 0, 0, 0)
            box.setSpacing(0)
        pictures.addWidget(self.view, 1)
        pictures.addWidget(self.caption)
        pictures.addWidget(self.hand)
        nights.addWidget(self.lanes, 3)
        nights.addWidget(self.fan, 4)
        nights.addWidget(self.messages, 2)
        self.pages = TabbedPages([("Pictures", picture), ("The night", night), ("Account", self.account)], None, self)
        self.pages.turned.connect(lambda k: self._refresh())
        self.pages.show_page(0)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(first)
        column.addLayout(second)
        column.addWidget(self.controls)
        column.addWidget(self.bar)
        column.addWidget(self.wall)
        column.addWidget(self.pages, 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)

    def _choose_folder(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, "Folder of the frames", str(self.final.folder.parent))
        if chosen:
            self.final.set_folder(Path(chosen))

    def go(self) -> None:
        """Render what is not finished yet."""
        self.hand.player.stop()
        self.final.go()

    def _confirm(self) -> None:
        self.hand.player.stop()
        self.final.confirm()

    def _refresh(self) -> None:
        final, run = self.final, self.final.shown
        self.frames.show_value(final.frames_text)
        self.folder_label.setText(f"…/{final.folder.parent.name}/{final.folder.name}"[-LONGEST_FOLDER:])
        self.folder_label.setToolTip(str(final.folder))
        self.wall.show_states(*(({}, {}) if run is None else (run.states, run.faults)))
        self.stop_button.setVisible(final.busy)
        self.go_button.setVisible(not final.busy)
        self.go_button.setText(final.button)
        self.go_button.setEnabled(final.may_go)
        self.go_button.set_main(run is None or final.busy or final.finished < len(run.frames))
        self.choose_button.setEnabled(not final.busy)
        self.frames.setEnabled(not final.busy)
        self.again_button.setVisible(final.asks)
        self.bar.setVisible(final.busy)
        self.bar.setValue(round(1000 * final.share))
        self.note.setText(final.note)
        if self.pages.index == 1:
            self.lanes.show_record(final.work.record, final.busy)
            self.fan.show_record(final.work.record)
            self.messages.show_record(final.work.record)
        self._look()

    # -- looking

    def _grown(self, frame: int, state: str, codes: np.ndarray) -> None:
        self.view.show_image(as_image(codes))
        self.caption.say(f"Frame {frame}", state)

    def _came(self, wanted: Wanted) -> None:
        path, _ = self.final.picture_of(self._session.playhead.frame)
        if path is not None and wanted == of_file(path):
            self._look()

    def _look(self) -> None:
        if self.final.run is None or self.final.busy or self.hand.player.playing or not self.isVisible():
            return
        frame = self._session.playhead.frame
        path, state = self.final.picture_of(frame)
        if path is None:
            self.view.show_image(None, f"Frame {frame} is not rendered yet.")
            self.caption.say("", "")
            return
        shown = self._session.pictures.get(of_file(path))
        if shown is not None:
            self.view.show_image(image_of(shown))
            self.caption.say(f"Frame {frame}", state)

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self.final.look()

    # -- the film

    def _film_frame(self, image: QImage, number: int) -> None:
        self.view.show_image(image)
        self._film_words = f"{self.hand.model.film_path.name}, frame {number + 1} of the film"
        if number == 0:
            self.caption.say(self._film_words, "")

    def hideEvent(self, event) -> None:
        self.hand.player.stop()
        super().hideEvent(event)
