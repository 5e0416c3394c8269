"""What to render: frames, samples, size, time cap, stop at noise, a sweep; with which renderer."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField, read_number
from hasty_reel.desk.rows import caption
from hasty_reel.desk.session import Session
from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.farm.proofs import Order
from hasty_reel.farm.sweeps import USUAL, sweep_orders
from hasty_reel.predict.sweep import OF_ORDER, Value
from hasty_reel.reel.frames import proof_frames_text, read_proof_frames
from hasty_reel.reel.recipe import LINE, LINES

RUN_LENGTH = 9
SPREAD = 9
EVERY = 12
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
        self._frames_text = ""
        self._samples, self._scale, self._floor, self._seeds = 16, 25.0, 4, 2
        self._cap: float | None = None
        self._stop: float | None = None
        self._sweep = ""
        self._values = ""
        self.parent_proof = ""
        self.frames = self._field(
            "",
            170,
            "Frames to render",
            TIPS["frames"],
        )
        self.frames.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.frames.committed.connect(self._typed_frames)
        self.samples = self._field("", 46, "Samples of the proof", TIPS["samples"])
        self.scale = self._field("%", 54, "Size of the proof", TIPS["scale"])
        self.cap = self._field(
            "s",
            54,
            "Time cap",
            TIPS["cap"],
        )
        self.stop = self._field("", 54, "Stop at noise", TIPS["stop"])
        self.floor = self._field(
            "",
            36,
            "Samples floor of the proof",
            TIPS["floor"],
        )
        for name in ("samples", "scale", "cap", "stop", "floor"):
            getattr(self, name).committed.connect(lambda text, n=name: self._typed_number(text, n))
        self.cap_pick = PickButton(self._cap_menu, self)
        self.cap_pick.setAccessibleName("Usual time caps")
        self.two_seeds = Switch("Two seeds", self._set_seeds, self)
        self.two_seeds.setToolTip(TIPS["seeds"])
        self.sweep_pick = PickButton(self._sweep_menu, self)
        self.sweep_pick.setAccessibleName("Sweep over")
        self.sweep_pick.setToolTip("Render the same frames with several values of one setting, from the least up")
        self.values = self._field("", 190, "Values of the sweep", "Values of the setting, the least is rendered first: 0, 1, 2, 4, none")
        self.values.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.values.committed.connect(self._typed_values)
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
        for text, tip, act in (
            ("This frame", "The frame under the playhead", lambda: self.choose((self._session.frame,))),
            (
                f"Run of {RUN_LENGTH}",
                TIPS["run"],
                self.choose_run,
            ),
            ("First, middle, last", "Three frames", self.choose_ends),
            (f"Every {EVERY}th", "Every so many frames of the shot", self.choose_every),
            (f"{SPREAD} over the shot", "Frames spread evenly from the first to the last", self.choose_spread),
        ):
            button = PlainButton(text, act, parent=self)
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

    # -- the order

    def order(self) -> Order:
        """What would be rendered now, the sweep left out.

        Raises
        ------
        WrongInput
            When the frames or numbers make no sense.
        """
        order = Order(
            self._session.shot, self._session.recipe, read_proof_frames(self._frames_text), self._samples, self._scale,
            self._seeds, floor=min(self._floor, self._samples), stop_noise=self._stop, cap=self._cap, parent=self.parent_proof,
        ).checked()  # fmt: skip
        return order.under(self._session.cuts.current).checked() if self._session.draft_on else order

    def orders(self) -> list[Order]:
        """What would be rendered now: one order, or one for each value of the sweep.

        Raises
        ------
        WrongInput
            When something makes no sense.
        """
        order = self.order()
        if not self._sweep:
            return [order]
        taken = {p.sweep for p in self._session.shot_evidence.proofs} | {e.order.sweep for e in self._session.queue.entries}
        label = next(n for k in range(1, len(taken) + 2) if (n := f"{self._sweep} {k}") not in taken)
        return sweep_orders(order, self._sweep, self.sweep_values(), label)

    def order_now(self) -> None:
        """Put it into the queue."""
        try:
            orders = self.orders()
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self.ordered.emit(orders)

    def sweep_values(self) -> list[Value]:
        """The values typed for the sweep.

        Raises
        ------
        WrongInput
            Names the one that is wrong.
        """
        out: list[Value] = []
        for text in self._values.replace(";", ",").split(","):
            plain = text.strip()
            if self._sweep in LINE:
                named, value = LINE[self._sweep].named(plain)
                if named:
                    out.append(value)
                    continue
            try:
                number = read_number(plain)
            except ValueError as error:
                raise WrongInput(f"Sweep: '{plain[:40]}' is no number; expected values such as 0, 1, 2, 4.") from error
            out.append(int(number) if number is not None and number == int(number) else number)
        return out

    # -- frames

    def choose(self, frames: tuple[int | float, ...]) -> None:
        """Take these frames."""
        self._frames_text = proof_frames_text(frames)
        self.refresh()

    def choose_run(self) -> None:
        """A run around the playhead."""
        shot = self._session.shot
        first = min(max(self._session.frame - RUN_LENGTH // 2, shot.begin), max(shot.begin, shot.past - RUN_LENGTH))
        self.choose(tuple(range(first, min(shot.past, first + RUN_LENGTH))))

    def choose_ends(self) -> None:
        """First, middle and last frame."""
        shot = self._session.shot
        self.choose(tuple(sorted({shot.begin, (shot.begin + shot.past - 1) // 2, shot.past - 1})))

    def choose_every(self) -> None:
        """Every so many frames."""
        shot = self._session.shot
        self.choose(tuple(range(shot.begin, shot.past, EVERY)))

    def choose_spread(self) -> None:
        """Frames spread evenly."""
        shot = self._session.shot
        self.choose(tuple(sorted({round(f) for f in np.linspace(shot.begin, shot.past - 1, SPREAD)})))

    def follow(self, frame: int) -> None:
        """A single frame follows the playhead."""
        if self._frames_text.isdigit() or not self._frames_text:
            self._frames_text = str(frame)
        self.refresh()

    def other_shot(self) -> None:
        """Begin with the frame under the playhead."""
        self._frames_text = str(self._session.frame)
        self.parent_proof = ""
        self.refresh()

    # -- typed

    def _typed_frames(self, text: str) -> None:
        try:
            read_proof_frames(text)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self._frames_text = text
        self.refresh()

    def _typed_number(self, text: str, name: str) -> None:
        before = self._samples, self._scale, self._cap, self._stop, self._floor
        try:
            value = read_number(text)
        except ValueError:
            self._session.said.emit(
                f"Proof: {name} '{text[:40]}' is no number; expected a number{', or none' if name in ('cap', 'stop') else ''}."
            )
            self.refresh()
            return
        if value is None and name not in ("cap", "stop"):
            self._session.said.emit(f"Proof: {name} is missing; expected a number.")
            self.refresh()
            return
        if name == "samples":
            self._samples = int(value or 0)
        elif name == "scale":
            self._scale = float(value or 0)
        elif name == "floor":
            self._floor = int(value or 0)
        elif name == "cap":
            self._cap = value
        else:
            self._stop = value
        try:
            self.order()
        except HastyReelError as error:
            self._session.said.emit(str(error))
            self._samples, self._scale, self._cap, self._stop, self._floor = before
        self.refresh()

    def _typed_values(self, text: str) -> None:
        before, self._values = self._values, text
        try:
            self.orders()
        except HastyReelError as error:
            self._session.said.emit(str(error))
            self._values = before
        self.refresh()

    # -- menus

    def _set_seeds(self, two: bool) -> None:
        self._seeds = 2 if two else 1
        self.refresh()

    def _cap_menu(self) -> QMenu:
        menu = QMenu(self)
        for text, value in (("no cap", None), (f"{FIRST_LOOK:g} s, a first look", FIRST_LOOK), (f"{PREVIEW:g} s, a preview", PREVIEW)):
            menu.addAction(text).triggered.connect(lambda _=False, v=value: self.set_cap(v))
        return menu

    def set_cap(self, seconds: float | None) -> None:
        """Cap the seconds of a picture, with many samples as the most; or none."""
        self._cap = seconds
        if seconds is not None:
            self._samples = max(self._samples, CAPPED_SAMPLES)
        self.refresh()

    def _sweep_menu(self) -> QMenu:
        menu = QMenu(self)
        for name in ("", *OF_ORDER, *(line.field for line in LINES if line.field not in NOT_IN_A_PICTURE)):
            entry = menu.addAction(self._sweep_words(name))
            entry.setCheckable(True)
            entry.setChecked(name == self._sweep)
            entry.triggered.connect(lambda _=False, n=name: self.set_sweep(n))
        return menu

    def _sweep_words(self, name: str) -> str:
        return NO_SWEEP if not name else LINE[name].words if name in LINE else {"samples": "samples", "scale": "size"}[name]

    def set_sweep(self, name: str) -> None:
        """Sweep over a setting, with its usual values."""
        self._sweep = name
        if name:
            now = getattr(self._session.recipe, name) if name in LINE else None
            values = USUAL.get(name)
            if values is None:
                line = LINE[name]
                values = tuple(v for v in (line.neutral, now, line.low, line.high) if v is not None or line.optional)
            self._values = ", ".join("none" if v is None else f"{v:g}" for v in dict.fromkeys(values))
        self.refresh()

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
        """Show what is ordered, and what it takes."""
        self.frames.show_value(self._frames_text)
        self.samples.show_value(str(self._samples))
        self.scale.show_value(f"{self._scale:g}")
        self.cap.show_value("none" if self._cap is None else f"{self._cap:g}")
        self.stop.show_value("none" if self._stop is None else f"{self._stop:g}")
        self.cap_pick.show_value("")
        self.two_seeds.setChecked(self._seeds == 2)
        self.floor.show_value(str(self._floor))
        self.floor.setEnabled(self._cap is not None or self._stop is not None)
        self.sweep_pick.show_value(self._sweep_words(self._sweep))
        self.values.setVisible(bool(self._sweep))
        self.values.show_value(self._values)
        self.renderer.show_value(self._session.links.current.name)
        busy = self._session.queue.rendering is not None or self._session.queue.waiting
        self.button.setText("Add to queue" if busy else "Render sweep" if self._sweep else "Render proof")
        try:
            orders = self.orders()
        except HastyReelError:
            self.note.setText("")
            return
        self.note.setText(self._words(orders))

    def _words(self, orders: list[Order]) -> str:
        order = orders[0]
        words = f"{len(order.frames)} frame" + ("s" if len(order.frames) > 1 else "")
        words += ", two seeds each: noise is measured" if order.seeds == 2 else ", one seed: noise is not measured"
        if len(orders) > 1:
            words = f"{len(orders)} values of {len(order.frames)} frame" + ("s" if len(order.frames) > 1 else "")
        if order.draft:
            words += f", under '{order.draft}': {order.samples} samples, {order.scale:g} %"
        plan = self._session.plan
        if plan is None:
            return words
        seconds = 0.0
        for o in orders:
            pixels = float(np.prod(self._session.reel.picture_size)) * (o.scale / 100) ** 2
            k = np.array([plan.index(int(f)) for f in o.frames])
            cost = plan.sample[k] / plan.samples[k] / (plan.width * plan.height)
            each = plan.load[k] + cost * pixels * o.samples
            seconds += float(o.seeds * np.sum(each if o.cap is None else np.minimum(each, o.cap)))
        return words + (f", about {seconds:.0f} s" if seconds >= 1.5 else ", a second or two")
