"""Compare: see the unrest in motion, measure it, learn its cause."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import QTimer, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import Choice
from hasty_reel.desk.jobs import Job
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.compare.apart import Apart
from hasty_reel.desk.stages.compare.causes import CausesPage
from hasty_reel.desk.stages.compare.eyetest import EyeTestPage, light_of
from hasty_reel.desk.stages.compare.frames import Frames, Look
from hasty_reel.desk.stages.compare.maps import tile_map
from hasty_reel.desk.stages.compare.measured import MeasuredPage
from hasty_reel.desk.stages.compare.patch import PatchView
from hasty_reel.desk.stages.compare.sides import SidesBar
from hasty_reel.desk.stages.compare.slice import TimeSlice, along
from hasty_reel.desk.stages.compare.snapshot import lines_of, save_snapshot, snapshot
from hasty_reel.desk.stages.compare.study import Study
from hasty_reel.desk.stages.compare.transport import LoopPlayer, Transport
from hasty_reel.desk.stages.compare.view import DIFFERENCE, MODES, SURROUNDS, ComparisonView
from hasty_reel.errors import HastyReelError
from hasty_reel.farm.bringin import pattern_of
from hasty_reel.farm.folder import RunFolder
from hasty_reel.measure.causes import Cause
from hasty_reel.pictures.footage import Footage
from hasty_reel.plan.levers import Lever, levers
from hasty_reel.predict.model import ShotModel
from hasty_reel.predict.sides import Side, loop_of, side_of_footage, sides_of, two_runs

SIDE = 304
PAGES = ("Measures", "Causes", "Eye test")
FINALS = "finals"


class CompareStage(QWidget):
    """Sides, picture, loop, time slice; measures, causes, eye test. studied_more: something more was found out."""

    studied_more = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._own: list[Side] = []
        self._run: list[int] = []
        self.finals: Path | None = None
        self.at = 0
        self._waiting = True
        self.bar = SidesBar(session, self)
        self.frames = Frames(session, self)
        self.study = Study(session, self)
        self.apart = Apart(session, self.frames, self)
        self.view = ComparisonView(self._image, self)
        self.slice = TimeSlice(self)
        self.player = LoopPlayer(self)
        self.transport = Transport(self)
        self.patch = PatchView(self)
        self.measured = MeasuredPage(self)
        self.causes = CausesPage(self)
        self.eye_test = EyeTestPage(session, self.patch, self._light_of_a, self)
        self._apart_timer = self._later(self._tell_apart, 400)
        self._slice_timer, self._fill_timer = self._later(self._slice), self._later(self._fill, 250)
        self._lay_out()
        self._connect()
        self.show_page(0)
        self._sides()

    def _later(self, act, milliseconds: int = 0) -> QTimer:
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
        measures.setWidget(self.measured)
        for page in (measures, self.causes, self.eye_test):
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
            signal.connect(self._sides)
        session.shot_changed.connect(self._shot)
        session.frame_changed.connect(self._frame)
        session.eyes_changed.connect(self._eyes)
        session.plan_changed.connect(self._plan)
        bar.sides_changed.connect(self._chosen)
        bar.mode_changed.connect(self._mode)
        bar.looks_changed.connect(self._looks)
        bar.overlay_changed.connect(self._overlay)
        bar.snapshot_wanted.connect(self.ask_snapshot)
        bar.footage_wanted.connect(self.take_footage)
        self.frames.came.connect(self._came)
        self.frames.filled.connect(self._filled)
        self.frames.failed.connect(session.said)
        self.study.found.connect(self._found_more)
        self.study.failed.connect(session.said)
        self.apart.came.connect(self._differed)
        self.view.painted.connect(self.slice.show_note)
        self.view.line_changed.connect(self._slice_timer.start)
        self.player.due.connect(self.show_at)
        self.player.rate.connect(lambda r: self.transport.say_rate(r, self._fps))
        self.transport.button.clicked.connect(self.toggle)
        self.transport.bar.chosen.connect(self._scrubbed)
        self.transport.bound_changed.connect(self._bound)
        self.measured.keep.connect(self._keep)
        self.causes.which_changed.connect(lambda _: self._study())
        self.causes.picked.connect(self._cause)
        self.causes.levers_wanted.connect(self._levers)
        self.causes.lever_wanted.connect(self._use)
        self.eye_test.testing.connect(lambda on: self.front.setCurrentIndex(1 if on else 0))

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.MAT)

    @property
    def _fps(self) -> float:
        return float(self._session.reel.fps)

    @property
    def sides(self) -> list[Side]:
        """A, or A and B."""
        return [s for s in self.bar.chosen if s is not None]

    def show_page(self, index: int) -> None:
        """Measures, causes, eye test."""
        self.pages.setCurrentIndex(index)
        for k, tab in enumerate(self.tabs):
            tab.setChecked(k == index)
        self._study()

    # -- which sides

    def _shot(self) -> None:
        self.stop()
        self._own = []
        self.bar.chosen, self.bar.by_hand = [None, None], False
        self._sides()

    def _sides(self) -> None:
        """List the sides there are; keep those that are chosen, else choose two runs of the same frames.

        Nobody looks at a hidden stage: it waits until it is shown.
        """
        self._waiting = not self.isVisible()
        if self._waiting:
            return
        session = self._session
        found = sides_of(session.shot_evidence, session.shot)
        if self.finals is not None:
            folder = RunFolder(self.finals, session.shot_id, True)
            if folder.final.frames():
                found.insert(0, Side(**{**vars(side_of_footage(Footage(folder.final), "Finished frames")), "key": FINALS}))
        self.bar.listed = [*found, *self._own]
        by_key = {s.key: s for s in self.bar.listed}
        kept = [None if s is None else by_key.get(s.key) for s in self.bar.chosen]
        if kept[0] is None or not self.bar.by_hand:
            kept = list(two_runs(self.bar.listed))
        same = [s.key for s in self.sides] == [s.key for s in kept if s is not None]
        self.bar.chosen = kept
        self.bar.refresh()
        if not same or self.view.size_of_picture is None or loop_of(self.sides, self._session.frame) != self._run:
            self._chosen()

    def show_finals(self, folder: Path) -> None:
        """Finished frames of a run are in this folder."""
        self.finals = folder
        self.study.forget(FINALS)
        self.frames.forget(FINALS)
        self._sides()

    @property
    def heard(self) -> tuple[Cause, ...]:
        """Causes that are worth a word, of the side that was looked through."""
        return () if self.causes.found is None else self.causes.found.heard

    @property
    def heard_in(self) -> str:
        """The side they were found in."""
        sides = self.sides
        return sides[min(self.causes.which, len(sides) - 1)].name if sides else ""

    @property
    def studied(self) -> bool:
        """Whether a run of this shot was looked through for causes."""
        return any(self.study.seen_through(s) for s in self.sides)

    def compare(self, a: str, b: str | None) -> None:
        """Compare two sides by their keys."""
        by_key = {s.key: s for s in self.bar.listed}
        self.bar.chosen, self.bar.by_hand = [by_key.get(a), by_key.get(b) if b is not None else None], True
        self.bar.refresh()
        self._chosen()

    def take_footage(self, which: int, path: Path) -> None:
        """Frames on disk as a side."""
        try:
            pattern = pattern_of(path)
            side = side_of_footage(Footage(pattern), pattern.before.rstrip("._-") or pattern.folder.name)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self._own = [s for s in self._own if s.key != side.key] + [side]
        self.bar.listed.append(side)
        self.bar.choose(which, side)

    def _chosen(self) -> None:
        self.stop()
        sides = self.sides
        self.view.two = self.causes.two = len(sides) == 2
        self.causes.which = min(self.causes.which, max(0, len(sides) - 1))
        if not sides:
            self.view.size_of_picture = None
            reading = not self._session.evidence
            self.view.words = (
                "Reading the proofs …" if reading else "No proof of this shot yet. Render one in Proofs, or choose frames on disk for A."
            )
            self._run = []
        else:
            self._run = loop_of(sides, self._session.frame)
        self.view.difference = None
        self.view.show_region(None)
        self._frame(self._session.frame)
        self._ready_loop()
        self._study()

    # -- the picture

    def _frame(self, frame: int) -> None:
        if self.player.playing or not self.sides or not self.isVisible():
            self.view.update()
            return
        if frame in self._run:
            self.at = self._run.index(frame)
        elif self._run:
            self.at = min(range(len(self._run)), key=lambda k: abs(self._run[k] - frame))
        self.show_at(self.at)

    def show_at(self, at: int) -> None:
        """Show a frame of the loop."""
        self.at = at
        self.transport.bar.show_at(at)
        self.slice.show_at(at)
        self.view.frame_words = self._frame_words()
        if self.view.size_of_picture is None or not self.player.playing:
            self._measure_size()
        if self.bar.mode == DIFFERENCE and len(self.sides) == 2:
            self._differ()
        self.view.update()

    def _measure_size(self) -> None:
        """The picture is as large as the larger of both sides."""
        shown = [self.frames.get(s, self._shown_frame(k)) for k, s in enumerate(self.sides)]
        sizes = [(c.codes.shape[1], c.codes.shape[0]) for c in shown if c is not None]
        if sizes:
            self.view.size_of_picture = max(sizes)
            bad = [f"{'AB'[k]}: {c.bad} pixels are not finite numbers" for k, c in enumerate(shown) if c is not None and c.bad]
            lacks = [f"{s.name} {c.words}" for s, c in zip(self.sides, shown) if c is not None and c.words]
            words = ", ".join([*bad, *lacks])
            self.transport.length.setToolTip(words)
            self.slice.setToolTip(words or self.slice.toolTip())

    def _shown_frame(self, which: int) -> int:
        """The frame a side shows: that of the loop, or its nearest where both have none in common."""
        if self._run:
            return self._run[min(self.at, len(self._run) - 1)]
        return self.sides[which].nearest(self._session.frame) or 0

    def _frame_words(self) -> str:
        shown = [self._shown_frame(k) for k in range(len(self.sides))]
        return f"frame {shown[0]}" if len(set(shown)) == 1 else f"frames {' and '.join(map(str, shown))}"

    def _image(self, which: int, width: int, height: int) -> QImage | None:
        sides = self.sides
        if which >= len(sides):
            return None
        return self.frames.image(sides[which], self._shown_frame(which), width, height)

    def _came(self, key: str, frame: int) -> None:
        self._measure_size()
        if any(s.key == key and self._shown_frame(k) == frame for k, s in enumerate(self.sides)):
            if self.bar.mode == DIFFERENCE:
                self._differ()
            self._apart_timer.start()
            self.view.update()
        self._memory()

    def _mode(self, mode: int) -> None:
        self.view.set_mode(mode)
        if mode == DIFFERENCE:
            self.apart.forget()
            self._differ()

    def _looks(self) -> None:
        self.frames.set_look(Look(self.bar.exposure, self.bar.view_name, self.bar.channel))
        self.view.lens = self.bar.lens.isChecked()
        self.view.surround = SURROUNDS[self.bar.surround]
        self.apart.forget()
        self.show_at(self.at)
        self._fill_timer.start()
        self._slice_timer.start()

    def _differ(self) -> None:
        if len(self.sides) == 2:
            shown = self._shown_frame(0), self._shown_frame(1)
            density = self.study.density(self.sides[0])
            self.apart.show(self.sides, shown, self.bar.kind, self.bar.gain, density, self.player.playing)

    def _differed(self, image: QImage, words: str) -> None:
        self.view.difference = None if image.isNull() else image
        self.view.difference_words = words
        self.view.update()

    # -- the loop

    def _ready_loop(self) -> None:
        self.transport.say_length(len(self._run), self._fps)
        self.transport.say_rate(None, self._fps)
        self.transport.button.setEnabled(len(self._run) > 1)
        self._fill_timer.start()
        self._slice_timer.start()
        self._memory()

    def _fill(self) -> None:
        if self.isVisible() and len(self._run) > 1:
            self.frames.fill([(s, f) for f in self._run for s in self.sides])
        self._memory()

    def showEvent(self, event) -> None:
        super().showEvent(event)
        if self._waiting:
            self._sides()
        else:
            self._frame(self._session.frame)
        self._fill_timer.start()
        self._study()

    def hideEvent(self, event) -> None:
        super().hideEvent(event)
        self.stop()

    def _filled(self, count: int, of: int) -> None:
        self._memory()
        if count % 8 == 0 or count == of:
            self._slice_timer.start()

    def _memory(self) -> None:
        held = [all(self.frames.has(s, f) for s in self.sides) for f in self._run]
        self.transport.bar.show_loop(self._run, held)
        self.transport.say_memory(self.frames.megabytes, self.frames.bound_mb)

    def _bound(self, megabytes: int) -> None:
        self.frames.bound_mb = megabytes
        self._fill_timer.start()

    def toggle(self) -> None:
        """Play or stop."""
        if self.player.playing:
            self.stop()
        elif len(self._run) > 1:
            self.player.play(len(self._run), self._fps, self.at)
            self.transport.button.show_playing(True)

    def stop(self) -> None:
        """Stop the loop where it is."""
        if self.player.playing:
            self.player.stop()
            self.transport.button.show_playing(False)
            self.transport.say_rate(None, self._fps)
            if self._run:
                self._session.show_frame(self._run[self.at])
            self.show_at(self.at)

    def _scrubbed(self, at: int) -> None:
        self.stop()
        self._session.show_frame(self._run[at])
        self.show_at(at)

    def _slice(self) -> None:
        if len(self._run) < 2:
            self.slice.show_slices([], "", "A time slice takes a run of frames; render one in Proofs, or choose frames on disk.")
            return
        line = self.view.line
        width = max(64, self.slice.width() - 32)
        slices: list[np.ndarray | None] = []
        for side in self.sides:
            codes = [self.frames.peek(side, f) for f in self._run]
            there = [c.codes for c in codes if c is not None]
            slices.append(along(there, (line.x0, line.y0, line.x1, line.y1), width) if len(there) == len(codes) else None)
        title = f"the marked line over frames {self._run[0]}–{self._run[-1]}"
        self.slice.show_slices(slices, title, "Reading the frames of the loop …")

    def _light_of_a(self) -> list[np.ndarray]:
        if not self.sides:
            return []
        codes = [self.frames.peek(self.sides[0], f) for f in self._run]
        return light_of([c.codes for c in codes if c is not None])

    # -- measures and causes

    def _study(self) -> None:
        """Find out what is looked at and not known yet."""
        sides = self.sides
        if self._run and self.isVisible():
            for side in sides:
                self.study.measure(side, self._run)
            if self.pages.currentIndex() == 1 and sides:
                self.study.look_through(sides[min(self.causes.which, len(sides) - 1)], self._run)
            self._tell_apart()
        self._show_known()

    def _tell_apart(self) -> None:
        if self.isVisible() and len(self.sides) == 2 and not self.player.playing and self.pages.currentIndex() == 0:
            shown = self._shown_frame(0), self._shown_frame(1)
            self.study.tell_apart(self.sides, shown, [self.frames.light(s, f) for s, f in zip(self.sides, shown)])

    def _found_more(self) -> None:
        self._show_known()
        self._overlay()
        self.studied_more.emit()

    def _show_known(self) -> None:
        sides = self.sides
        known = [self.study.of(s, self._run) for s in sides]
        busy = self.study.busy if self.study.busy.startswith("Measuring") else ""
        apart = self.study.apart(sides, [self._shown_frame(k) for k in range(len(sides))])
        self.measured.show_measures(sides, [k.measures for k in known], self._run, self._session.eyes, busy, apart)
        if not sides or not self._run:
            self.causes.show_causes(None, "Nothing to look at yet.")
            return
        one = known[min(self.causes.which, len(sides) - 1)]
        words = one.fault or ("Looking for causes …" if len(self._run) > 1 else "Causes show in motion: a run of frames is needed.")
        if one.causes is not self.causes.found or one.causes is None:
            self.causes.show_causes(one.causes, words)

    def _overlay(self) -> None:
        measured = [self.study.of(s, self._run).measures for s in self.sides]
        maps = [tile_map(self.bar.overlay, m, self._session.eyes) for m in measured]
        self.view.show_maps(maps)

    def _eyes(self) -> None:
        self.apart.forget()
        self._study()

    def _plan(self) -> None:
        if self.causes.cause is not None and self.pages.currentIndex() == 1:
            self._levers(self.causes.cause)

    def _cause(self, cause: Cause | None) -> None:
        found = self.causes.found
        if cause is None or found is None:
            self.view.show_region(None)
            return
        (x, y, w, h), (rows, columns) = cause.region, found.found.shape
        self.view.show_region((x / columns, y / rows, (x + w) / columns, (y + h) / rows))

    def _levers(self, cause: Cause) -> None:
        session = self._session
        plan, shot, reel = session.plan, session.shot, session.reel
        if plan is None:
            lack = session.outlook.lacks.get(session.shot_id, "the plan is not made yet")
            self.causes.show_levers([], 1.0, 0.0, f"Helps: {', '.join(cause.helps)}. No price: {lack}")
            return
        evidence = session.shot_evidence

        def work(job: Job) -> list[Lever]:
            return levers(reel, shot, ShotModel(evidence.without(shot.put_away), shot.frames), plan, cause.helps)

        def done(found: object) -> None:
            if self.causes.cause is not None and self.causes.cause.name == cause.name:
                base = float(np.percentile(plan.seen_flicker, 95))
                self.causes.show_levers(found, reel.frame_speed, base)  # type: ignore[arg-type]

        job = session.jobs.start(work)
        job.done.connect(done)
        job.failed.connect(session.said)

    def _use(self, lever: Lever) -> None:
        if lever.recipe is not None:
            self._session.use_recipe(lever.recipe, f"Use {lever.words}")
        elif lever.hold is not None:
            self._session.set_hold(lever.hold)

    def _keep(self, which: int) -> None:
        proof = self.sides[which].proof if which < len(self.sides) else None
        if proof is not None:
            self._session.use_settings(proof)

    # -- snapshot

    def snapshot_lines(self) -> list[str]:
        """What stands under a snapshot: the sides with their settings, and how they are shown."""
        where = f"{self._session.reel.name}, {self._session.shot.name}"
        shown = [self._shown_frame(k) for k in range(len(self.sides))]
        return lines_of(self.sides, shown, where, MODES[self.bar.mode], self.frames.look, self.view.place().scale)

    def ask_snapshot(self) -> None:
        """Ask for a file and keep the comparison there."""
        if not self.sides:
            return
        name = f"{self._session.shot_id}-{self._shown_frame(0)}-{'-'.join(s.key for s in self.sides if '/' not in s.key)}.png"
        path, _ = QFileDialog.getSaveFileName(self, "Keep this comparison", str(self._session.path.parent / name), "PNG (*.png)")
        if path:
            self.save_snapshot(Path(path).with_suffix(".png"))

    def save_snapshot(self, path: Path) -> None:
        """Keep the comparison as a PNG; a fault is said."""
        try:
            save_snapshot(path, snapshot(self.view, self.snapshot_lines()))
        except HastyReelError as error:
            self._session.said.emit(str(error))
        else:
            self._session.said.emit(f"Kept as {path.name}.")
