"""What to render: frames, samples, size, time cap, stop at noise, a sweep; with which renderer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.rows import caption
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.proofs.asked import Asked, order_words
from hasty_reel.desk.stages.proofs.queue import queue_words
from hasty_reel.errors import HastyReelError
from hasty_reel.evidence.sweep import OF_ORDER
from hasty_reel.farm.picks import EVERY, RUN_LENGTH, SPREAD, ends, every, run_around, spread
from hasty_reel.farm.sweeps import usual_values
from hasty_reel.reel.frames import proof_frames_text
from hasty_reel.reel.numbers import read_number
from hasty_reel.reel.recipe import LINE, LINES
from hasty_reel.reel.shot import Shot

NUMBERS = ("samples", "scale", "cap", "stop", "floor")
WHOLE, OPTIONAL = ("samples", "floor"), ("cap", "stop")
FIRST_LOOK, PREVIEW = 3.0, 10.0
"""Seconds a frame may take for a first look, and for a preview (common practice, no source)."""
NOT_IN_A_PICTURE = ("samples_floor", "samples_ceiling", "render_scale", "denoise_window")
"""Lines that a proof picture does not show: the budget's, and what comes after rendering."""
CAPPED_SAMPLES = 4096
"""The most samples of a capped picture: the cap is to end it."""
NO_SWEEP = "no sweep"
TIPS = {
    "frames": "1001, 1010-1016, 1001-1096x12, 1048.5 between two frames.\nShift-drag on the reel strip selects too.",
    "samples": "Samples per pixel of each picture; with a cap or a noise to stop at, the most of them.",
    "scale": "Size of the proof in percent of the delivered width.",
    "cap": "Seconds a picture may take; it stops at its floor or above. none: no cap.\n"
    f"{FIRST_LOOK:g} s for a first look, {PREVIEW:g} s for a preview.",
    "stop": "A pixel gets no more samples once its noise is below this, from 0 to 1 linear. none: all get alike.",
    "floor": "The fewest samples a pixel gets, with a cap or a noise to stop at. The floor wins over the cap.",
    "seeds": "Each picture twice, with another noise pattern: so noise is measured, and the budget rests on it.\n"
    "It costs twice the time of a proof, little against a night.",
    "run": "Consecutive frames around the playhead: they also show what denoising over time does",
}


class OrderBar(QWidget):
    """Three lines of values and the button that puts them into the queue."""

    ordered = Signal(list)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.asked = Asked()
        self.frames = self._field("", 170, "Frames to render", TIPS["frames"])
        self.frames.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.frames.committed.connect(lambda text: self.change(frames=text))
        self.samples = self._field("", 46, "Samples of the proof", TIPS["samples"])
        self.scale = self._field("%", 54, "Size of the proof", TIPS["scale"])
        self.cap = self._field("s", 54, "Time cap", TIPS["cap"])
        self.stop = self._field("", 54, "Stop at noise", TIPS["stop"])
        self.floor = self._field("", 36, "Samples floor of the proof", TIPS["floor"])
        for name in NUMBERS:
            getattr(self, name).committed.connect(lambda text, n=name: self._typed_number(text, n))
        self.cap_pick = PickButton(self._cap_menu, self)
        self.cap_pick.setAccessibleName("Usual time caps")
        self.two_seeds = Switch("Two seeds", lambda two: self._take(seeds=2 if two else 1), self)
        self.two_seeds.setToolTip(TIPS["seeds"])
        self.sweep_pick = PickButton(self._sweep_menu, self)
        self.sweep_pick.setAccessibleName("Sweep over")
        self.sweep_pick.setToolTip("Render the same frames with several values of one setting, from the least up")
        self.values = self._field("", 190, "Values of the sweep", "Values of the setting, the least is rendered first: 0, 1, 2, 4, none")
        self.values.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.values.committed.connect(lambda text: self.change(values=text))
        self.renderer = PickButton(self._renderer_menu, self)
        self.renderer.setAccessibleName("Renderer")
        self.button = PlainButton("Render proof", self.order_now, main=True, parent=self)
        self.note = QLabel("")
        self.note.setFont(theme.words(12))
        self.note.setStyleSheet(f"color: {theme.INK2.name()}")
        first = self._row("Frames", self.frames, "Samples", self.samples, "Size", self.scale, self.two_seeds, None, self.button)
        second = self._row(
            "Cap", self.cap, self.cap_pick, "Stop at noise", self.stop, "Floor", self.floor, "Sweep", self.sweep_pick, self.values, None,
            "with", self.renderer,
        )  # fmt: skip
        picks = QHBoxLayout()
        picks.setContentsMargins(0, 0, 0, 0)
        picks.setSpacing(0)
        self.picks: dict[str, PlainButton] = {}
        choices: tuple[tuple[str, str, Callable[[Shot], tuple[int, ...]]], ...] = (
            ("This frame", "The frame under the playhead", lambda shot: (self._session.frame,)),
            (f"Run of {RUN_LENGTH}", TIPS["run"], lambda shot: run_around(shot, self._session.frame)),
            ("First, middle, last", "Three frames", ends),
            (f"Every {EVERY}th", "Every so many frames of the shot", every),
            (f"{SPREAD} over the shot", "Frames spread evenly from the first to the last", spread),
        )
        for text, tip, pick in choices:
            button = PlainButton(text, partial(self._pick, pick), parent=self)
            button.setToolTip(tip)
            picks.addWidget(button)
            self.picks[text] = button
        picks.addSpacing(10)
        picks.addWidget(self.note, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 9, 13, 5)
        column.setSpacing(4)
        column.addLayout(first)
        column.addLayout(second)
        column.addLayout(picks)
        for signal in (session.plan_changed, session.draft_changed, session.reel_changed, session.renderer_changed):
            signal.connect(self.refresh)
        self.refresh()

    def _field(self, unit: str, width: int, name: str, tip: str) -> ValueField:
        field = ValueField(unit, self)
        field.setFixedWidth(width)
        field.setAccessibleName(name)
        field.setToolTip(tip)
        return field

    def _row(self, *things: object) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        for k, thing in enumerate(things):
            if thing is None:
                row.addStretch(1)
            elif isinstance(thing, str):
                if k:
                    row.addSpacing(6)
                row.addWidget(caption(thing))
            elif isinstance(thing, QWidget):
                row.addWidget(thing)
        return row

    # -- what is asked

    def change(self, **changed: object) -> None:
        """Ask for something else; what makes no sense is said, and nothing changes."""
        new = replace(self.asked, **changed)  # type: ignore[arg-type]
        try:
            new.orders(self._session)
        except HastyReelError as error:
            self._session.said.emit(str(error))
        else:
            self.asked = new
        self.refresh()

    def order_now(self) -> None:
        """Put it into the queue."""
        try:
            orders = self.asked.orders(self._session)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self.ordered.emit(orders)

    def choose(self, frames: tuple[int | float, ...]) -> None:
        """Take these frames."""
        self._take(frames=proof_frames_text(frames))

    def _pick(self, pick: Callable[[Shot], tuple[int, ...]]) -> None:
        self.choose(pick(self._session.shot))

    def follow(self, frame: int) -> None:
        """A single frame follows the playhead."""
        if self.asked.frames.isdigit() or not self.asked.frames:
            self._take(frames=str(frame))

    def vary(self, proof: str) -> None:
        """The next proof varies this one; '' for none."""
        self._take(parent=proof)

    def other_shot(self) -> None:
        """Begin with the frame under the playhead."""
        self._take(frames=str(self._session.frame), parent="")

    def _take(self, **changed: object) -> None:
        self.asked = replace(self.asked, **changed)  # type: ignore[arg-type]
        self.refresh()

    # -- typed

    def _typed_number(self, text: str, name: str) -> None:
        try:
            value = read_number(text)
        except ValueError:
            wanted = "a number, or none" if name in OPTIONAL else "a number"
            self._session.said.emit(f"Proof: {name} '{text[:40]}' is no number; expected {wanted}.")
            self.refresh()
            return
        if value is None and name not in OPTIONAL:
            self._session.said.emit(f"Proof: {name} is missing; expected a number.")
            self.refresh()
            return
        self.change(**{name: int(value) if value is not None and name in WHOLE else value})

    # -- menus

    def _cap_menu(self) -> QMenu:
        menu = QMenu(self)
        for text, value in (("no cap", None), (f"{FIRST_LOOK:g} s, a first look", FIRST_LOOK), (f"{PREVIEW:g} s, a preview", PREVIEW)):
            menu.addAction(text).triggered.connect(lambda _=False, v=value: self.set_cap(v))
        return menu

    def set_cap(self, seconds: float | None) -> None:
        """Cap the seconds of a picture, with many samples as the most; or none."""
        most = self.asked.samples if seconds is None else max(self.asked.samples, CAPPED_SAMPLES)
        self._take(cap=seconds, samples=most)

    def _sweep_menu(self) -> QMenu:
        menu = QMenu(self)
        for name in ("", *OF_ORDER, *(line.field for line in LINES if line.field not in NOT_IN_A_PICTURE)):
            entry = menu.addAction(self._sweep_words(name))
            entry.setCheckable(True)
            entry.setChecked(name == self.asked.sweep)
            entry.triggered.connect(lambda _=False, n=name: self.set_sweep(n))
        return menu

    def _sweep_words(self, name: str) -> str:
        return NO_SWEEP if not name else LINE[name].words if name in LINE else {"samples": "samples", "scale": "size"}[name]

    def set_sweep(self, name: str) -> None:
        """Sweep over a setting, with its usual values."""
        values = ", ".join("none" if v is None else f"{v:g}" for v in usual_values(name, self._session.recipe)) if name else ""
        self._take(sweep=name, values=values or self.asked.values)

    def _renderer_menu(self) -> QMenu:
        menu = QMenu(self)
        links = self._session.links
        for link in links.links:
            entry = menu.addAction(link.name)
            entry.setCheckable(True)
            entry.setChecked(link.name == links.current.name)
            entry.triggered.connect(lambda _=False, n=link.name: self._session.choose_link(n))
        menu.addSeparator()
        menu.addAction("Renderer links …").triggered.connect(lambda: self.open_links())
        return menu

    def open_links(self):
        """Change the renderer links."""
        from hasty_reel.desk.stages.proofs.renderer import RendererPage

        page = RendererPage(self._session, self)
        page.open()
        return page

    def refresh(self) -> None:
        """Show what is asked for, and what it takes."""
        asked = self.asked
        self.frames.show_value(asked.frames)
        self.samples.show_value(str(asked.samples))
        self.scale.show_value(f"{asked.scale:g}")
        self.cap.show_value("none" if asked.cap is None else f"{asked.cap:g}")
        self.stop.show_value("none" if asked.stop is None else f"{asked.stop:g}")
        self.cap_pick.show_value("")
        self.two_seeds.setChecked(asked.seeds == 2)
        self.floor.show_value(str(asked.floor))
        self.floor.setEnabled(asked.cap is not None or asked.stop is not None)
        self.sweep_pick.show_value(self._sweep_words(asked.sweep))
        self.values.setVisible(bool(asked.sweep))
        self.values.show_value(asked.values)
        self.renderer.show_value(self._session.links.current.name)
        busy = self._session.queue.rendering is not None or self._session.queue.waiting
        self.button.setText("Add to queue" if busy else "Render sweep" if asked.sweep else "Render proof")
        try:
            words = order_words(asked.orders(self._session), self._session)
        except HastyReelError:
            words = ""
        before = self._session.prepared_words or queue_words(self._session.queue)
        self.note.setText(" · ".join(w for w in (before.capitalize() if before.startswith("about") else before, words) if w))
