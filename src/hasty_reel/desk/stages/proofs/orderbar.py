"""What to render: frames, samples, size, time cap, stop at noise, a sweep; with which renderer."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import field_row
from hasty_reel.evidence.sweep import OF_ORDER
from hasty_reel.studio.proofs.request import FIRST_LOOK, PREVIEW, sweep_words
from hasty_reel.studio.session import Session

NUMBERS = ("samples", "scale", "cap", "stop", "floor")
CAPS = ((None, "no cap"), (FIRST_LOOK, f"{FIRST_LOOK:g} s, a first look"), (PREVIEW, f"{PREVIEW:g} s, a preview"))
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
}


class OrderBar(QWidget):
    """Three lines of values and the button that puts them into the queue."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._model = session, session.request
        model = self._model
        self.frames = self._field("", 170, "Frames to render", TIPS["frames"])
        self.frames.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.frames.committed.connect(lambda text: model.change(frames=text))
        self.samples = self._field("", 46, "Samples of the proof", TIPS["samples"])
        self.scale = self._field("%", 54, "Size of the proof", TIPS["scale"])
        self.cap = self._field("s", 54, "Time cap", TIPS["cap"])
        self.stop = self._field("", 54, "Stop at noise", TIPS["stop"])
        self.floor = self._field("", 36, "Samples floor of the proof", TIPS["floor"])
        for name in NUMBERS:
            getattr(self, name).committed.connect(partial(model.type_number, name))
        self.cap_pick = PickButton(lambda: choice_menu(self, CAPS, model.asked.cap, model.set_cap), self)
        self.cap_pick.setAccessibleName("Usual time caps")
        self.two_seeds = Switch("Two seeds", model.set_seeds, self)
        self.two_seeds.setToolTip(TIPS["seeds"])
        self.sweep_pick = PickButton(self._sweep_menu, self)
        self.sweep_pick.setAccessibleName("Sweep over")
        self.sweep_pick.setToolTip("Render the same frames with several values of one setting, from the least up")
        self.values = self._field("", 190, "Values of the sweep", "Values of the setting, the least is rendered first: 0, 1, 2, 4, none")
        self.values.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.values.committed.connect(lambda text: model.change(values=text))
        self.renderer = PickButton(self._renderer_menu, self)
        self.renderer.setAccessibleName("Renderer")
        self.button = PlainButton("Render proof", model.order_now, main=True, parent=self)
        self.note = QLabel("")
        self.note.setFont(theme.words(11))
        self.note.setWordWrap(True)
        self.note.setStyleSheet(f"color: {theme.INK2.name()}")
        self._lay_out()
        follow(self, model.changed, self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        first = field_row("Frames", self.frames, 6, "Samples", self.samples, 6, "Size", self.scale, self.two_seeds, None, self.button)
        second = field_row(
            "Cap", self.cap, self.cap_pick, 6, "Stop at noise", self.stop, 6, "Floor", self.floor, 6, "Sweep", self.sweep_pick,
            self.values, None, "Renderer", self.renderer,
        )  # fmt: skip
        picks = QHBoxLayout()
        picks.setContentsMargins(0, 0, 0, 0)
        picks.setSpacing(0)
        self.picks: dict[str, PlainButton] = {}
        for text, (tip, _) in self._model.picks.items():
            button = PlainButton(text, partial(self._model.pick, text), parent=self)
            button.setToolTip(tip)
            picks.addWidget(button)
            self.picks[text] = button
        for text, (tip, _) in self._model.usual.items():
            button = PlainButton(text, partial(self._model.take_usual, text), parent=self)
            button.setToolTip(tip)
            picks.addWidget(button)
            self.picks[text] = button
        picks.addSpacing(10)
        picks.addWidget(self.note, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 9, 13, 5)
        column.setSpacing(4)
        for row in (first, second, picks):
            column.addLayout(row)

    def _field(self, unit: str, width: int, name: str, tip: str) -> ValueField:
        field = ValueField(unit, self)
        field.setFixedWidth(width)
        field.setAccessibleName(name)
        field.setToolTip(tip)
        return field

    def _sweep_menu(self) -> QMenu:
        recipe = self._session.recipe
        names = ("", *OF_ORDER, *(setting.field for setting in recipe.settings if setting.proofs))
        return choice_menu(self, [(n, sweep_words(n, recipe)) for n in names], self._model.asked.sweep, self._model.set_sweep)

    def _renderer_menu(self) -> QMenu:
        own = self._session.own
        menu = choice_menu(
            self, [(x.name, x.name) for x in own.links.items], own.links.current.name, lambda n: own.set_links(own.links.choosing(n))
        )
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
        asked = self._model.asked
        self.frames.show_value(asked.frames)
        self.samples.show_value(str(asked.samples))
        self.scale.show_value(f"{asked.scale:g}")
        self.cap.show_value("none" if asked.cap is None else f"{asked.cap:g}")
        self.stop.show_value("none" if asked.stop is None else f"{asked.stop:g}")
        self.cap_pick.show_value("")
        self.two_seeds.setChecked(asked.seeds == 2)
        self.floor.show_value(str(asked.floor))
        self.floor.setEnabled(asked.cap is not None or asked.stop is not None)
        self.sweep_pick.show_value(sweep_words(asked.sweep, self._session.recipe))
        self.values.setVisible(bool(asked.sweep))
        self.values.show_value(asked.values)
        self.renderer.show_value(self._session.own.links.current.name)
        self.button.setText(self._model.button)
        self.button.set_main(not self._session.prove_it.wanted)
        self.note.setText(self._model.note)
