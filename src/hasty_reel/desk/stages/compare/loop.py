"""The loop of the sides: filled into memory, played at its true rate, stopped at a frame."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.compare.chosen import Chosen
from hasty_reel.desk.stages.compare.frames import Frames
from hasty_reel.desk.stages.compare.transport import LoopPlayer, Transport

FILL_AFTER = 250
"""Milliseconds of rest before a loop is read."""


class Loop(QObject):
    """Plays what is chosen.

    due(int) : this place in the run is to be shown; filled : more of the loop is in memory
    """

    due = Signal(int)
    filled = Signal()

    def __init__(self, session: Session, chosen: Chosen, frames: Frames, transport: Transport, stage: QWidget) -> None:
        super().__init__(stage)
        self._session, self._chosen, self._frames, self._transport, self._stage = session, chosen, frames, transport, stage
        self.player = LoopPlayer(self)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(FILL_AFTER)
        self._timer.timeout.connect(self._fill)
        self.player.due.connect(self.due)
        self.player.rate.connect(lambda rate: transport.say_rate(rate, self._fps))
        transport.button.clicked.connect(self.toggle)
        transport.bar.chosen.connect(self._scrubbed)
        transport.bound_changed.connect(self._bound)
        frames.filled.connect(self._filled)
        frames.came.connect(lambda key, frame: self.show_memory())

    @property
    def _fps(self) -> float:
        return float(self._session.reel.fps)

    @property
    def playing(self) -> bool:
        """Whether it plays."""
        return self.player.playing

    def ready(self) -> None:
        """Other frames: say how long they last, and read them after a rest."""
        count = len(self._chosen.run)
        self._transport.say_length(count, self._fps)
        self._transport.say_rate(None, self._fps)
        self._transport.button.setEnabled(count > 1)
        self.show_memory()
        self.fill_soon()

    def fill_soon(self) -> None:
        """Read what is missing after a rest."""
        self._timer.start()

    def toggle(self) -> None:
        """Play or stop."""
        count = len(self._chosen.run)
        if self.player.playing:
            self.stop()
        elif count > 1:
            self.player.play(count, self._fps, self._chosen.at)
            self._transport.button.show_playing(True)

    def stop(self) -> None:
        """Stop where it is; the playhead of the reel goes there."""
        if self.player.playing:
            self.player.stop()
            self._transport.button.show_playing(False)
            self._transport.say_rate(None, self._fps)
            self._go(self._chosen.at)

    def show_memory(self) -> None:
        """Show which frames are in memory, and what they take."""
        chosen, frames = self._chosen, self._frames
        held = [all(frames.has(s, f) for s in chosen.sides) for f in chosen.run]
        self._transport.bar.show_loop(chosen.run, held)
        self._transport.say_memory(frames.megabytes, frames.bound_mb)

    def _fill(self) -> None:
        chosen = self._chosen
        if self._stage.isVisible() and len(chosen.run) > 1:
            self._frames.fill([(s, f) for f in chosen.run for s in chosen.sides])
        self.show_memory()

    def _filled(self, count: int, of: int) -> None:
        self.show_memory()
        if count % 8 == 0 or count == of:
            self.filled.emit()

    def _bound(self, megabytes: int) -> None:
        self._frames.bound_mb = megabytes
        self.fill_soon()

    def _scrubbed(self, at: int) -> None:
        self.stop()
        self._go(at)

    def _go(self, at: int) -> None:
        if self._chosen.run:
            self._session.show_frame(self._chosen.run[at])
        self.due.emit(at)
