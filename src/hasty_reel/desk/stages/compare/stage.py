"""Compare: see the unrest in motion, measure it, learn its cause."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QImage, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.asking import ask_target
from hasty_reel.desk.follow import follow
from hasty_reel.desk.picture import image_of
from hasty_reel.desk.stages.compare.causes import CausesPage
from hasty_reel.desk.stages.compare.eyetest import EyeTestPage
from hasty_reel.desk.stages.compare.measured import MeasuredPage
from hasty_reel.desk.stages.compare.patch import PatchView
from hasty_reel.desk.stages.compare.sides import SidesBar
from hasty_reel.desk.stages.compare.slice import TimeSlice
from hasty_reel.desk.stages.compare.snapshot import save_snapshot, snapshot
from hasty_reel.desk.stages.compare.transport import Transport
from hasty_reel.desk.stages.compare.view import ComparisonView
from hasty_reel.desk.standing import StageSentence
from hasty_reel.desk.tabs import TabbedPages
from hasty_reel.errors import HastyReelError
from hasty_reel.studio.compare.comparison import Comparison
from hasty_reel.studio.session import Session
from hasty_reel.studio.standing import compare_words

SIDE = 304
MEASURES, CAUSES = range(2)
PAGES = ("Measures", "Causes", "Eye test")


class CompareStage(QWidget):
    """Sides, picture, loop, time slice; measures, causes, eye test."""

    def __init__(self, session: Session, comparison: Comparison, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self.comparison = session, comparison
        self.bar = SidesBar(session, comparison, self.clip_frames, self)
        self.view = ComparisonView(comparison.presentation, self._image, self)
        self.slice = TimeSlice(self)
        self.transport = Transport(comparison, self)
        self.measured = MeasuredPage(comparison.measures, comparison.sides, self)
        self.causes = CausesPage(comparison.causes, comparison.sides, session, self)
        self.patch = PatchView(comparison.eye_test, self)
        self.eye_test = EyeTestPage(session, comparison.eye_test, self)
        # several changes in one turn of the event loop make one slice
        self._slice_timer = QTimer(self)
        self._slice_timer.setSingleShot(True)
        self._slice_timer.timeout.connect(self._show_slice)
        self._lay_out()
        self._follow()
        self.show_page(MEASURES)

    def _lay_out(self) -> None:
        looking = QWidget(self)
        left = QVBoxLayout(looking)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(0)
        left.addWidget(self.view, 1)
        left.addWidget(self.slice)
        left.addWidget(self.transport)
        self.front = QStackedWidget(self)
        self.front.addWidget(looking)
        self.front.addWidget(self.patch)
        measures = QScrollArea()
        measures.setWidgetResizable(True)
        measures.setWidget(self.measured)
        self.beside = TabbedPages(list(zip(PAGES, (measures, self.causes, self.eye_test))), SIDE, self)
        self.show_page = self.beside.show_page
        self.tabs = self.beside.choices
        self.beside.turned.connect(self._watch)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addWidget(self.front, 1)
        body.addWidget(self.beside)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        told = (self.comparison.sides_changed, self.comparison.studied)
        column.addWidget(StageSentence(self._session, compare_words, told, self))
        column.addWidget(self.bar)
        column.addLayout(body, 1)

    def _follow(self) -> None:
        comparison = self.comparison
        follow(self, comparison.sides_changed, self._sides)
        follow(self, comparison.shown_changed, self._shown)
        follow(self, comparison.maps_changed, self._maps)
        follow(self, comparison.loop.filled, self._slice_timer.start)
        follow(self, comparison.presentation.mode_changed, self.view.update)
        follow(self, comparison.presentation.look_changed, self._look)
        follow(self, comparison.difference.changed, self._difference)
        follow(self, comparison.causes.region_changed, lambda: self.view.show_region(comparison.causes.region))
        follow(self, comparison.eye_test.changed, self._test)
        self.bar.snapshot_wanted.connect(self.ask_snapshot)
        self.view.painted.connect(self.slice.show_note)
        self.view.line_changed.connect(self._slice_timer.start)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.MAT)

    def _watch(self) -> None:
        """Tell the models which of their pages is in sight."""
        index = self.beside.index
        self.comparison.measures.watched = self.isVisible() and index == MEASURES
        self.comparison.causes.watch(self.isVisible() and index == CAUSES)
        self.comparison.find_out()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
        else:
            self.comparison.sides.step_pass(way)

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self.comparison.watch(True)
        self._watch()

    def hideEvent(self, event) -> None:
        super().hideEvent(event)
        self.comparison.watch(False)
        self._watch()

    # -- what is shown

    def _image(self, which: int, width: int, height: int) -> QImage | None:
        shown = self.comparison.image(which, width, height)
        return None if shown is None else image_of(shown)

    def _sides(self) -> None:
        sides = self.comparison.sides.sides
        self.view.two = len(sides) == 2
        self.view.words = "" if sides else self.comparison.empty_words
        self._difference()
        self._slice_timer.start()

    def _shown(self) -> None:
        comparison = self.comparison
        self.slice.show_at(comparison.sides.at)
        if comparison.sides.sides:
            self.view.frame_words = comparison.sides.frame_words
        if not comparison.loop.playing or self.view.size_of_picture is None:
            self.view.size_of_picture = comparison.picture_size
            self.transport.length.setToolTip(comparison.lacks)
        self.view.update()

    def _look(self) -> None:
        self.view.update()
        self._slice_timer.start()

    def _difference(self) -> None:
        difference = self.comparison.difference
        self.view.difference = None if difference.shown is None else image_of(difference.shown)
        self.view.difference_words = difference.words
        self.view.update()

    def _show_slice(self) -> None:
        self.slice.show_slices(*self.comparison.time_slices(self.view.line, max(64, self.slice.width() - 32)))

    def _maps(self) -> None:
        self.view.show_maps(self.comparison.maps())

    def _test(self) -> None:
        self.front.setCurrentIndex(1 if self.comparison.eye_test.running else 0)

    # -- snapshot and clip

    def clip_frames(self) -> list[tuple[QImage, list[str]]]:
        """The loop as it is seen, frame by frame, with what stands under a snapshot of each."""
        comparison, at, frames = self.comparison, self.comparison.sides.at, []
        comparison.loop.stop()
        for k in range(len(comparison.sides.run)):
            comparison.show_at(k)
            if any(self._session.pictures.peek(wanted) is None for wanted in comparison.wanted()):
                continue
            frames.append((self.view.grab().toImage(), comparison.snapshot_lines(self.view.place().scale)))
        comparison.show_at(at)
        if len(frames) < (count := len(comparison.sides.run)):
            self._session.said.emit(f"{len(frames)} of {count} frames are in memory and in the clip, no others.")
        return frames

    def ask_snapshot(self) -> None:
        """Ask for a file and keep the comparison there."""
        if not self.comparison.sides.sides:
            return
        folder = Path.home() if self._session.untitled else self._session.path.parent
        path = ask_target(self, "Keep this comparison", folder / self.comparison.snapshot_name, {".png": "PNG"})
        if path is not None:
            self.save_snapshot(path)

    def save_snapshot(self, path: Path) -> None:
        """Keep the comparison as a PNG; a fault is said."""
        try:
            save_snapshot(path, snapshot(self.view, self.comparison.snapshot_lines(self.view.place().scale)))
        except HastyReelError as error:
            self._session.said.emit(str(error))
        else:
            self._session.said.emit(f"Kept as {path.name}.")
