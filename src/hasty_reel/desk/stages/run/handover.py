"""Hand-over of finished frames: as a film, which can be played, and as PNG pictures."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.stages.run.film import FilmPlayer
from hasty_reel.studio.run.final import FinalFrames
from hasty_reel.studio.run.handover import HandOverModel
from hasty_reel.studio.session import Session


class HandOver(QWidget):
    """Buttons and a line of words under the wall. stopped: the film was stopped, another picture can be shown."""

    stopped = Signal()

    def __init__(self, session: Session, final: FinalFrames, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = HandOverModel(session, final)
        self.player = FilmPlayer(self)
        self.player.failed.connect(session.said.emit)
        self.film_button = PlainButton("Make film", self._make_film)
        self.film_button.setToolTip("Hand the finished frames over as H.264 in an MP4 file, through the sRGB view")
        self.play_button = PlainButton("Play film", self.toggle_film)
        self.play_button.setToolTip("Play the film in a loop (Space)")
        self.png_button = PlainButton("PNG 16 bit", self._make_png)
        self.png_button.setToolTip("Hand the finished frames over as PNG pictures of 16 bit, through the sRGB view")
        self.words = QLabel("")
        self.words.setFont(theme.words(12))
        self.words.setStyleSheet(f"color: {theme.INK2.name()}")
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 6, 16, 6)
        for button in (self.play_button, self.film_button, self.png_button):
            row.addWidget(button)
        row.addSpacing(8)
        row.addWidget(self.words, 1)
        follow(self, self.model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what there is to hand over."""
        model = self.model
        there = model.film_path.is_file()
        self.film_button.setEnabled(model.ready)
        self.png_button.setEnabled(model.ready)
        self.play_button.setEnabled(there)
        # what is there already is replaced only by a button that says so
        self.film_button.setText("Make film again" if there else "Make film")
        self.png_button.setText("PNG 16 bit again" if any(model.png_folder.glob("*.png")) else "PNG 16 bit")
        self.play_button.setText("Stop film" if self.player.playing else "Play film")
        self.film_button.set_main(model.complete and not there)
        self.words.setText(model.words)

    def _make_film(self) -> None:
        self.player.stop()
        self.model.make_film()

    def _make_png(self) -> None:
        self.player.stop()
        self.model.make_png()

    def toggle_film(self) -> None:
        """Play the film, or stop it."""
        if self.player.playing:
            self.player.stop()
            self.stopped.emit()
        elif self.model.film_path.is_file():
            self.player.play(self.model.film_path)
        self.refresh()
