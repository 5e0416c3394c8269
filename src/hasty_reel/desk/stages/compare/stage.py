"""Compare: see the unrest in motion, measure it, learn its cause."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.asking import ask_target
from hasty_reel.desk.fields import Choice
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.compare.apart import Apart
from hasty_reel.desk.stages.compare.chosen import FINALS, Chosen
from hasty_reel.desk.stages.compare.eyetest import EyeTestPage
from hasty_reel.desk.stages.compare.frames import Frames, Look
from hasty_reel.desk.stages.compare.judged import Judged
from hasty_reel.desk.stages.compare.loop import Loop
from hasty_reel.desk.stages.compare.maps import tile_map
from hasty_reel.desk.stages.compare.patch import PatchView
from hasty_reel.desk.stages.compare.sides import SidesBar
from hasty_reel.desk.stages.compare.slice import TimeSlice, along
from hasty_reel.desk.stages.compare.snapshot import lines_of, save_snapshot, snapshot
from hasty_reel.desk.stages.compare.transport import Transport
from hasty_reel.desk.stages.compare.view import DIFFERENCE, MODES, SURROUNDS, ComparisonView
from hasty_reel.errors import HastyReelError
from hasty_reel.image.srgb import light_of_codes8

SIDE = 304
PAGES = ("Measures", "Causes", "Eye test")


class CompareStage(QWidget):
    """Sides, picture, loop, time slice; measures, causes, eye test. studied_more: something more was found out."""

    studied_more = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._waiting = True
        self.bar = SidesBar(session, self)
        self.chosen = Chosen(session, self.bar, self)
        self.frames = Frames(session, self)
        self.apart = Apart(session, self.frames, self)
        self.view = ComparisonView(self._image, self)
        self.slice = TimeSlice(self)
        self.transport = Transport(self)
        self.loop = Loop(session, self.chosen, self.frames, self.transport, self)
        self.judged = Judged(session, self.chosen, self.frames, self.loop, self)
        self.patch = PatchView(self)
        self.eye_test = EyeTestPage(session, self.patch, self._light_of_a, self)
        self._apart_timer = self._later(self.judged.tell_apart, 400)
        self._slice_timer = self._later(self._slice)
        self._lay_out()
        self._connect()
        self.show_page(0)
        self.refresh()

    def _later(self, act: Callable[[], None], milliseconds: int = 0) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.setInterval(milliseconds)
        timer.timeout.connect(act)
        return timer

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
        self.pages = QStackedWidget(self)
        measures = QScrollArea()
        measures.setWidgetResizable(True)
        measures.setWidget(self.judged.measured)
        for page in (measures, self.judged.causes, self.eye_test):
            self.pages.addWidget(page)
        self.tabs = [Choice(name, self) for name in PAGES]
        tabs = QHBoxLayout()
        tabs.setContentsMargins(10, 4, 8, 2)
        tabs.setSpacing(10)
        for k, tab in enumerate(self.tabs):
            tab.clicked.connect(lambda _=False, k=k: self.show_page(k))
            tabs.addWidget(tab)
        tabs.addStretch(1)
        side = QWidget(self)
        side.setFixedWidth(SIDE)
        beside = QVBoxLayout(side)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.setSpacing(0)
        beside.addLayout(tabs)
        beside.addWidget(self.pages, 1)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addWidget(self.front, 1)
        body.addWidget(side)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.bar)
        column.addLayout(body, 1)

    def _connect(self) -> None:
        session, bar = self._session, self.bar
        for signal in (session.evidence_changed, session.cards_changed):
            signal.connect(self.refresh)
        session.shot_changed.connect(self._shot)
        session.frame_changed.connect(self._frame)
        session.eyes_changed.connect(self._eyes)
        bar.mode_changed.connect(self._mode)
        bar.looks_changed.connect(self._looks)
        bar.overlay_changed.connect(self._overlay)
        bar.snapshot_wanted.connect(self.ask_snapshot)
        bar.footage_wanted.connect(self.chosen.take_footage)
        self.chosen.changed.connect(self._chosen)
        self.frames.came.connect(self._came)
        self.frames.failed.connect(session.said)
        self.loop.due.connect(self.show_at)
        self.loop.filled.connect(self._slice_timer.start)
        self.judged.found_more.connect(self._found_more)
        self.judged.region.connect(self.view.show_region)
        self.apart.came.connect(self._differed)
        self.view.painted.connect(self.slice.show_note)
        self.view.line_changed.connect(self._slice_timer.start)
        self.eye_test.testing.connect(lambda on: self.front.setCurrentIndex(1 if on else 0))

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.MAT)

    def show_page(self, index: int) -> None:
        """Measures, causes, eye test."""
        self.pages.setCurrentIndex(index)
        for k, tab in enumerate(self.tabs):
            tab.setChecked(k == index)
        self.judged.find_out()

    def showEvent(self, event) -> None:
        super().showEvent(event)
        if self._waiting:
            self.refresh()
        else:
            self._frame(self._session.frame)
        self.loop.fill_soon()
        self.judged.find_out()

    def hideEvent(self, event) -> None:
        super().hideEvent(event)
        self.loop.stop()

    # -- which sides

    def _shot(self) -> None:
        self.loop.stop()
        self.chosen.forget_shot()
        self.refresh()

    def refresh(self) -> None:
        """List the sides anew. Nobody looks at a hidden stage: it waits until it is shown."""
        self._waiting = not self.isVisible()
        if not self._waiting and (self.chosen.list_sides() or self.view.size_of_picture is None):
            self.chosen.settle()

    def show_finals(self, folder: Path) -> None:
        """Finished frames of a run are in this folder."""
        self.chosen.finals = folder
        self.judged.study.forget(FINALS)
        self.frames.forget(FINALS)
        self.refresh()

    def _chosen(self) -> None:
        self.loop.stop()
        sides = self.chosen.sides
        self.view.two = len(sides) == 2
        if not sides:
            self.view.size_of_picture = None
            self.view.words = (
                "No proof of this shot yet. Render one in Proofs, or choose frames on disk for A."
                if self._session.evidence
                else "Reading the proofs …"
            )
        self.view.difference = None
        self.judged.other_sides()
        self._frame(self._session.frame)
        self.loop.ready()
        self._slice_timer.start()
        self.judged.find_out()

    # -- the picture

    def _frame(self, frame: int) -> None:
        if self.loop.playing or not self.chosen.sides or not self.isVisible():
            self.view.update()
        else:
            self.show_at(self.chosen.go_to(frame))

    def show_at(self, at: int) -> None:
        """Show a frame of the loop."""
        self.chosen.at = at
        self.transport.bar.show_at(at)
        self.slice.show_at(at)
        self.view.frame_words = self.chosen.frame_words
        if self.view.size_of_picture is None or not self.loop.playing:
            self._measure_size()
        self._differ()
        self.view.update()

    def _measure_size(self) -> None:
        """The picture is as large as the larger of both sides."""
        sides = self.chosen.sides
        shown = [self.frames.get(s, f) for s, f in zip(sides, self.chosen.frames)]
        sizes = [(c.codes.shape[1], c.codes.shape[0]) for c in shown if c is not None]
        if sizes:
            self.view.size_of_picture = max(sizes)
            bad = [f"{'AB'[k]}: {c.bad} pixels are not finite numbers" for k, c in enumerate(shown) if c is not None and c.bad]
            lacks = [f"{s.name} {c.words}" for s, c in zip(sides, shown) if c is not None and c.words]
            words = ", ".join([*bad, *lacks])
            self.transport.length.setToolTip(words)
            self.slice.setToolTip(words or self.slice.toolTip())

    def _image(self, which: int, width: int, height: int) -> QImage | None:
        sides = self.chosen.sides
        if which >= len(sides):
            return None
        return self.frames.image(sides[which], self.chosen.frame_of(which), width, height)

    def _came(self, key: str, frame: int) -> None:
        self._measure_size()
        if (key, frame) in [(s.key, f) for s, f in zip(self.chosen.sides, self.chosen.frames)]:
            self._differ()
            self._apart_timer.start()
            self.view.update()

    def _mode(self, mode: int) -> None:
        self.view.set_mode(mode)
        self.apart.forget()
        self._differ()

    def _looks(self) -> None:
        self.frames.set_look(Look(self.bar.exposure, self.bar.view_name, self.bar.channel))
        self.view.lens = self.bar.lens.isChecked()
        self.view.surround = SURROUNDS[self.bar.surround]
        self.apart.forget()
        self.show_at(self.chosen.at)
        self.loop.fill_soon()
        self._slice_timer.start()

    def _differ(self) -> None:
        sides, bar = self.chosen.sides, self.bar
        if bar.mode == DIFFERENCE and len(sides) == 2:
            first, second = self.chosen.frames
            density = self.judged.study.density(sides[0])
            self.apart.show(sides, (first, second), bar.kind, bar.gain, density, self.loop.playing)

    def _differed(self, image: QImage, words: str) -> None:
        self.view.difference = None if image.isNull() else image
        self.view.difference_words = words
        self.view.update()

    # -- over time

    def _slice(self) -> None:
        run = self.chosen.run
        if len(run) < 2:
            self.slice.show_slices([], "", "A time slice takes a run of frames; render one in Proofs, or choose frames on disk.")
            return
        line = self.view.line
        width = max(64, self.slice.width() - 32)
        slices: list[np.ndarray | None] = []
        for side in self.chosen.sides:
            codes = [self.frames.peek(side, f) for f in run]
            there = [c.codes for c in codes if c is not None]
            slices.append(along(there, (line.x0, line.y0, line.x1, line.y1), width) if len(there) == len(codes) else None)
        title = f"the marked line over frames {run[0]}–{run[-1]}"
        self.slice.show_slices(slices, title, "Reading the frames of the loop …")

    def _light_of_a(self) -> list[np.ndarray]:
        sides = self.chosen.sides
        codes = [self.frames.peek(sides[0], f) for f in self.chosen.run] if sides else []
        return [light_of_codes8(c.codes) for c in codes if c is not None]

    # -- what was found out

    def _found_more(self) -> None:
        self._overlay()
        self.studied_more.emit()

    def _overlay(self) -> None:
        known = [self.judged.study.of(s, self.chosen.run).measures for s in self.chosen.sides]
        self.view.show_maps([tile_map(self.bar.overlay, m, self._session.eyes) for m in known])

    def _eyes(self) -> None:
        self.apart.forget()
        self.judged.find_out()

    # -- snapshot

    def snapshot_lines(self) -> list[str]:
        """What stands under a snapshot: the sides with their settings, and how they are shown."""
        where = f"{self._session.reel.name}, {self._session.shot.name}"
        mode, scale = MODES[self.bar.mode], self.view.place().scale
        return lines_of(self.chosen.sides, self.chosen.frames, where, mode, self.frames.look, scale)

    def ask_snapshot(self) -> None:
        """Ask for a file and keep the comparison there."""
        sides = self.chosen.sides
        if not sides:
            return
        name = f"{self._session.shot_id}-{self.chosen.frame_of(0)}-{'-'.join(s.key for s in sides if '/' not in s.key)}.png"
        folder = Path.home() if self._session.untitled else self._session.path.parent
        path = ask_target(self, "Keep this comparison", folder / name, {".png": "PNG"})
        if path is not None:
            self.save_snapshot(path)

    def save_snapshot(self, path: Path) -> None:
        """Keep the comparison as a PNG; a fault is said."""
        try:
            save_snapshot(path, snapshot(self.view, self.snapshot_lines()))
        except HastyReelError as error:
            self._session.said.emit(str(error))
        else:
            self._session.said.emit(f"Kept as {path.name}.")
