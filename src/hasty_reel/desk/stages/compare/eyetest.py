"""The eye test in the window: whose eyes, which screen, and two loops of which one is restless."""

from __future__ import annotations

from datetime import date
from functools import partial

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import Choice, PickButton, PlainButton, ValueField
from hasty_reel.desk.rows import caption, field_row
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.compare.patch import PatchView, StairsCurve
from hasty_reel.measure.eyesight import Watcher, Watchers
from hasty_reel.measure.eyetest import FRAMES, Loops, Staircase, Stimulus, grey_patch, picture_patch
from hasty_reel.measure.seen import Eyes, heights_of
from hasty_reel.reel.numbers import read_number

KINDS = (("fine grain", 1.0), ("blotches", 4.0))


class EyeTestPage(QWidget):
    """Whose eyes, which screen, the test, and what came out. testing(bool): the patch is to be shown, or not."""

    testing = Signal(bool)

    def __init__(self, session: Session, patch: PatchView, picture_frames, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self.patch, self._picture_frames = session, patch, picture_frames
        self.stairs: Staircase | None = None
        self.kind, self.on_picture = KINDS[0], False
        self._stimulus: Stimulus | None = None
        self._restless = 0
        self._rng = np.random.default_rng()
        self.pick = PickButton(self._menu, self)
        self.pick.setAccessibleName("Whose eyes count")
        self.person, self.screen_name = ValueField("", self), ValueField("", self)
        self.distance, self.tall = ValueField("cm", self), ValueField("cm", self)
        for field, name, width in ((self.person, "Person", 150), (self.screen_name, "Screen", 150),
                                   (self.distance, "Distance of the eyes", 74), (self.tall, "Height of the picture", 74)):  # fmt: skip
            field.setFixedWidth(width)
            field.setAccessibleName(name)
            field.setToolTip(name)
            if width == 150:
                field.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self._draft = Watcher(person="Me", screen="This screen")
        self.person.committed.connect(lambda t: self._named(person=t))
        self.screen_name.committed.connect(lambda t: self._named(screen=t))
        self.distance.committed.connect(lambda t: self._sized("distance_cm", t))
        self.tall.committed.connect(lambda t: self._sized("screen_cm", t))
        self.kinds = [Choice(name, self) for name, _ in KINDS]
        self.grounds = [Choice(name, self) for name in ("on even grey", "on the frames of A")]
        for k, choice in enumerate(self.kinds):
            choice.clicked.connect(lambda _=False, k=k: self._choose(kind=k))
        for k, choice in enumerate(self.grounds):
            choice.clicked.connect(lambda _=False, k=k: self._choose(ground=k))
        self.start_button = PlainButton("Begin", self.begin, main=True)
        self.stop_button = PlainButton("Stop", self.stop)
        self.keep_button = PlainButton("Let it count", self.keep, main=True)
        self.answers = [PlainButton(f"The {word}", partial(self._answer, k)) for k, word in enumerate(("first", "second"))]
        self.curve = StairsCurve(self)
        self.verdict, self.about = QLabel(""), QLabel("")
        self.verdict.setFont(theme.words(15, 700))
        self.about.setFont(theme.words(12))
        for label, colour in ((self.verdict, theme.MAT_INK), (self.about, theme.MAT_INK2)):
            label.setWordWrap(True)
            label.setStyleSheet(f"color: {colour.name()}")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 8)
        column.setSpacing(4)
        column.addLayout(field_row("Eyes that count", self.pick, None))
        column.addSpacing(6)
        column.addWidget(self.verdict)
        column.addWidget(self.about)
        column.addSpacing(4)
        for name, field in (
            ("Person", self.person),
            ("Screen", self.screen_name),
            ("Eyes away", self.distance),
            ("Picture high", self.tall),
        ):
            label = caption(name)
            label.setFixedWidth(84)
            column.addLayout(field_row(label, field, None))
        for row in ((*self.kinds, None), (*self.grounds, None),
                    (self.start_button, self.stop_button, self.keep_button, None), (*self.answers, None)):  # fmt: skip
            column.addLayout(field_row(*row))
        column.addSpacing(6)
        column.addWidget(self.curve)
        column.addStretch(1)
        patch.answered.connect(self._answer)
        patch.played.connect(self.refresh)
        session.eyes_changed.connect(self.refresh)
        self._from_current()
        self.refresh()

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.MAT)

    # -- whose eyes

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        own = self._session.watchers
        names = ["The standard observer at 3 picture heights", *(f"{w.words}: {self._limit_words(w)}" for w in own.watchers)]
        for k, name in enumerate(names):
            entry = menu.addAction(name)
            entry.setCheckable(True)
            entry.setChecked(own.chosen == k)
            entry.triggered.connect(lambda _=False, k=k: self._let_count(k))
        if own.chosen:
            menu.addSeparator()
            menu.addAction(f"Forget {own.watchers[own.chosen - 1].words}").triggered.connect(lambda _=False: self._forget())
        return menu

    @staticmethod
    def _limit_words(watcher: Watcher) -> str:
        return "not tested" if watcher.limit is None else f"from {watcher.limit:.2g} JND on"

    def _let_count(self, which: int) -> None:
        own = self._session.watchers
        self._session.set_watchers(Watchers(watchers=own.watchers, chosen=which))
        self._from_current()
        self.refresh()

    def _forget(self) -> None:
        own = self._session.watchers
        left = own.watchers[: own.chosen - 1] + own.watchers[own.chosen :]
        self._session.set_watchers(Watchers(watchers=left, chosen=0))
        self.refresh()

    def _from_current(self) -> None:
        if self._session.watchers.current is not None:
            self._draft = self._session.watchers.current

    def _named(self, **names: str) -> None:
        text = next(iter(names.values())).strip()
        if not text or len(text) > 120 or not text.isprintable():
            self._session.said.emit("A person or a screen without a name; expected up to 120 characters.")
        else:
            self._change(**names)

    def _sized(self, name: str, text: str) -> None:
        low, high = (10, 5000) if name == "distance_cm" else (3, 2000)
        words = "Distance of the eyes" if name == "distance_cm" else "Height of the picture"
        try:
            value = read_number(text.replace("cm", ""))
        except ValueError:
            value = None
        if value is None or not low <= value <= high:
            self._session.said.emit(f"{words} '{text[:40]}'; expected {low} to {high} cm.")
            self.refresh()
            return
        self._change(**{name: value})

    def _change(self, **changes: object) -> None:
        draft = {f: getattr(self._draft, f) for f in self._draft.__struct_fields__} | changes
        # another distance or screen: what was found does not hold there
        draft |= {"limit": None, "factor": None, "made": ""}
        self._draft = Watcher(**draft)
        self.refresh()

    def _choose(self, kind: int | None = None, ground: int | None = None) -> None:
        if self.stairs is None:
            self.kind = self.kind if kind is None else KINDS[kind]
            self.on_picture = self.on_picture if ground is None else bool(ground)
        self.refresh()

    # -- the test

    @property
    def eyes(self) -> Eyes:
        """Where they sit."""
        return Eyes(heights_of(self._draft.distance_cm, self._draft.screen_cm))

    def begin(self) -> None:
        """Begin anew."""
        frames = self._picture_frames() if self.on_picture else []
        if self.on_picture and not frames:
            self._session.said.emit("The frames of A are not in memory yet; play the loop once, or take even grey.")
            return
        base = picture_patch(frames[:FRAMES]) if frames else grey_patch()
        self._stimulus = Stimulus(base, self.kind[1])
        self.stairs = Staircase()
        self.testing.emit(True)
        self._show_next()
        self.refresh()

    def _show_next(self) -> None:
        assert self.stairs is not None and self._stimulus is not None
        screen = self.screen()
        rows = round(screen.size().height() * screen.devicePixelRatio()) if screen is not None else 1080
        fps, amount = float(self._session.reel.fps), self.stairs.amount
        seed = int(self._rng.integers(1 << 31))
        self._restless = int(self._rng.integers(2))
        loops: Loops = self._stimulus.loops(amount, self.eyes, rows, fps, seed)
        both = [loops.calm, loops.calm]
        both[self._restless] = loops.restless
        self.patch.play(both, fps)

    def _answer(self, which: int) -> None:
        if self.stairs is None or self.stairs.ended:
            return
        self.patch.asking = False
        self.stairs = self.stairs.answered(which == self._restless)
        if self.stairs.ended:
            self.patch.stop()
            self.testing.emit(False)
        else:
            self._show_next()
        self.refresh()

    def stop(self) -> None:
        """Leave it; what was not finished counts for nothing."""
        self.stairs = None
        self.patch.stop()
        self.testing.emit(False)
        self.refresh()

    def keep(self) -> None:
        """Keep the limit that was found; it counts from now on."""
        if self.stairs is None or self.stairs.limit is None:
            return
        draft = {f: getattr(self._draft, f) for f in self._draft.__struct_fields__}
        found = {"limit": round(self.stairs.limit, 3), "factor": round(self.stairs.spread or 1.0, 3), "made": date.today().isoformat()}
        watcher = Watcher(**(draft | found))
        if self._session.set_watchers(self._session.watchers.with_watcher(watcher)):
            self.stairs, self._draft = None, watcher
            self.refresh()

    def refresh(self) -> None:
        """Show where the test stands."""
        own, stairs = self._session.watchers, self.stairs
        self.pick.show_value("the standard observer" if own.current is None else own.current.words)
        for field, text in ((self.person, self._draft.person), (self.screen_name, self._draft.screen),
                            (self.distance, f"{self._draft.distance_cm:g}"), (self.tall, f"{self._draft.screen_cm:g}")):  # fmt: skip
            field.show_value(text)
            field.setEnabled(stairs is None)
        for k, choice in enumerate(self.kinds):
            choice.setChecked(KINDS[k] == self.kind)
            choice.setEnabled(stairs is None)
        for k, choice in enumerate(self.grounds):
            choice.setChecked(bool(k) == self.on_picture)
            choice.setEnabled(stairs is None)
        running = stairs is not None and not stairs.ended
        self.start_button.setVisible(not running)
        self.start_button.setText("Begin" if stairs is None else "Begin again")
        self.start_button.set_main(stairs is None)
        self.stop_button.setVisible(running)
        self.keep_button.setVisible(stairs is not None and stairs.limit is not None)
        for button in self.answers:
            button.setVisible(running)
            button.setEnabled(self.patch.asking)
        self.curve.show_stairs(stairs)
        head, body = self._words(stairs)
        self.verdict.setText(head)
        self.about.setText(body)

    def _words(self, stairs: Staircase | None) -> tuple[str, str]:
        heights = self.eyes.heights
        if stairs is None:
            limit = self._session.eyes.limit
            body = (
                "Two loops, one of them restless: you say which. What you find seven times in ten is your limit. It takes about three "
                f"minutes, counts in every stage, and holds for this screen at {heights:.2g} picture heights."
            )
            return f"Flicker counts as seen from {limit:.2g} JND on.", body
        if stairs.ended:
            if stairs.limit is None:
                return (
                    "No limit was found.",
                    f"After {len(stairs.trials)} answers the amounts did not come to rest. Begin again, a little slower.",
                )
            return (
                f"You see flicker from {stairs.limit:.2g} JND on.",
                f"{len(stairs.trials)} answers; right to a factor of {stairs.spread:.2g}. The standard observer sees it from 1 JND on.",
            )
        return f"Trial {len(stairs.trials) + 1}", f"{len(stairs.reversals)} of 8 turns. Keys 1 and 2 answer."
