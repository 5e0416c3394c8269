"""The finishing chain as steps in their order, each switched, set and moved where it stands."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import discard, field_row
from hasty_reel.desk.stages.finish.step import Step
from hasty_reel.programs.commands import command_text
from hasty_reel.settings.finishorder import USUAL
from hasty_reel.settings.recipe import DENOISE_WINDOWS, SETTING
from hasty_reel.studio.finish.chain import ORDERS, FinishChain
from hasty_reel.studio.finish.tries import FinishTries
from hasty_reel.studio.ledger import LedgerModel
from hasty_reel.studio.session import Session

WINDOWS = tuple((str(n), f"over {n} frames") for n in DENOISE_WINDOWS)
CARE = (("0", "quick"), ("1", "thorough"))
USUAL_WINDOW, USUAL_SHARPEN = 5, 0.1


class ChainCards(QWidget):
    """Despike, denoise, resize, sharpen and the artist's own steps, in the order of the recipe."""

    def __init__(self, session: Session, chain: FinishChain, tries: FinishTries, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._lines, self.chain, self._tries = session, LedgerModel(session), chain, tries
        self.despike = Switch("", lambda on: session.set_line("despike", int(on)), self)
        self.despike.setAccessibleName("Despike")
        self.denoise = Switch("", self._switch_denoise, self)
        self.denoise.setAccessibleName("Denoise")
        self.window_pick = PickButton(self._windows, self)
        self.care_pick = PickButton(self._care, self)
        self.strength = self._field("denoise_strength", "%", 62)
        self.enough = PlainButton("Just enough", tries.enough, parent=self)
        self.enough.setToolTip("The least strength with which the shot is calm enough at its samples")
        self.sharpen_switch = Switch("", self._switch_sharpen, self)
        self.sharpen_switch.setAccessibleName("Sharpen")
        self.sharpen = self._field("sharpen", "", 52)
        self.order_pick = PickButton(self._orders, self)
        self.order_pick.setAccessibleName("Order of steps")
        self.add_button = PlainButton("Add a step …", lambda: self._more().popup(self._below()), parent=self)
        self.add_button.setToolTip("A program of yours in the chain: enlarging, denoising, grading")
        self.try_button = PlainButton("Try this chain", chain.try_it, parent=self)
        self.try_button.setToolTip("Finish the proof runs with it: seconds, noise, seen flicker, edges kept")
        self.stop_button = PlainButton("Stop", chain.stop, parent=self)
        self.words = QLabel("")
        self.words.setWordWrap(True)
        self.words.setFont(theme.words(12))
        self.steps = {
            "despike": Step("Despike", SETTING["despike"].meaning, [self.despike], partial(chain.move, "despike")),
            "denoise": Step("Denoise", SETTING["denoise_window"].meaning, [self.denoise], partial(chain.move, "denoise")),
            "resize": Step("Resize", "", [], partial(chain.move, "resize")),
            "sharpen": Step("Sharpen", SETTING["sharpen"].meaning, [self.sharpen, self.sharpen_switch], partial(chain.move, "sharpen")),
        }
        layout = self.steps["denoise"].layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addLayout(field_row(self.window_pick, self.care_pick, None))
        layout.addLayout(field_row("Strength", self.strength, self.enough, None))
        self._order: tuple[str, ...] = ()
        self._column = QVBoxLayout()
        self._column.setSpacing(0)
        foot = QVBoxLayout()
        foot.setContentsMargins(14, 8, 14, 4)
        foot.setSpacing(4)
        foot.addLayout(field_row("Order", self.order_pick, None, self.add_button))
        foot.addWidget(self.words)
        foot.addLayout(field_row(self.try_button, self.stop_button, None))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(self._column)
        column.addLayout(foot)
        for signal in (session.reel_changed, session.playhead.shot_changed, chain.changed):
            follow(self, signal, self.refresh)
        self.refresh()

    def _field(self, line: str, unit: str, width: int) -> ValueField:
        field = ValueField(unit, self)
        field.setFixedWidth(width)
        field.setAccessibleName(SETTING[line].words)
        field.setToolTip(SETTING[line].meaning)
        field.committed.connect(partial(self._lines.type_value, SETTING[line]))
        field.stepped.connect(partial(self._lines.step, SETTING[line]))
        return field

    def _arrange(self) -> None:
        """Put the steps in the order of the recipe; those of the artist's own come and go."""
        order = self.chain.order
        for name in [n for n in self.steps if n not in order]:
            discard(self.steps.pop(name))
        for name in order:
            if name not in self.steps:
                switch = PlainButton("Take out", partial(self.chain.remove, name))
                self.steps[name] = Step(name, "", [switch], partial(self.chain.move, name))
        if order != self._order:
            self._order = order
            while self._column.count():
                self._column.takeAt(0)
            for name in order:
                self._column.addWidget(self.steps[name])
        for k, name in enumerate(order):
            self.steps[name].place(k + 1, len(order))

    def refresh(self) -> None:
        """Show what the recipe says."""
        self._arrange()
        recipe, chain = self._session.recipe, self.chain
        on = recipe.denoise_window > 1
        self.despike.setChecked(bool(recipe.despike))
        self.denoise.setChecked(on)
        self.window_pick.show_value(dict(WINDOWS).get(str(recipe.denoise_window), "off"))
        self.care_pick.show_value(dict(CARE)[str(recipe.denoise_thorough)])
        self.strength.show_value(SETTING["denoise_strength"].text(recipe.denoise_strength))
        self.sharpen.show_value(SETTING["sharpen"].text(recipe.sharpen))
        self.sharpen_switch.setChecked(recipe.sharpen > 0)
        for widget in (self.window_pick, self.care_pick, self.strength):
            widget.setEnabled(on)
        self.enough.setEnabled(on and not chain.chain_words)
        width, height = self._session.reel.picture_size
        scale = recipe.render_scale
        size = f"Rendered at {scale:g} %, {'shrunk' if scale > 100 else 'enlarged'} to {width} × {height} with a windowed sinc"
        self.steps["resize"].about.setText(f"Rendered at {width} × {height}, as delivered: nothing to do" if scale == 100 else size)
        for name in [n for n in chain.order if n not in USUAL]:
            own = chain.own(name)
            where = "" if own is None else "On the folder, once: " if own.folder else "On each frame: "
            text = "Not kept on this machine: 'Own steps …' adds it" if own is None else where + command_text(own.command)
            self.steps[name].about.setText(text if len(text) < 120 else text[:119] + "…")
        seconds = self._tries.step_seconds
        for name, step in self.steps.items():
            step.price.setText(f"+{seconds[name]:.2g} s a frame" if name in seconds else "")
        words, why = chain.order_words
        self.order_pick.show_value(words)
        self.order_pick.setToolTip(why)
        self.words.setText(chain.words)
        self.words.setVisible(bool(chain.words))
        self.try_button.setVisible(chain.unproven and not chain.trying)
        self.stop_button.setVisible(chain.trying)

    def _switch_denoise(self, on: bool) -> None:
        self._session.set_line("denoise_window", USUAL_WINDOW if on else 1)

    def _switch_sharpen(self, on: bool) -> None:
        self._session.set_line("sharpen", USUAL_SHARPEN if on else 0.0)

    def _windows(self):
        now = str(self._session.recipe.denoise_window)
        return choice_menu(self, list(WINDOWS), now, lambda value: self._session.set_line("denoise_window", int(value)))

    def _care(self):
        now = str(self._session.recipe.denoise_thorough)
        return choice_menu(self, list(CARE), now, lambda value: self._session.set_line("denoise_thorough", int(value)))

    def _orders(self) -> QMenu:
        now = tuple(name for name in self.chain.order if name in USUAL)
        menu = choice_menu(self, [(order, words) for order, words, _ in ORDERS], now, self.chain.arrange)
        menu.setToolTipsVisible(True)
        for entry, (_, _, why) in zip(menu.actions(), ORDERS):
            entry.setToolTip(why)
        return menu

    def _below(self):
        return self.add_button.mapToGlobal(self.add_button.rect().bottomLeft())

    def _more(self) -> QMenu:
        menu = choice_menu(self, [(name, name) for name in self.chain.free], None, self.chain.add)
        if self.chain.free:
            menu.addSeparator()
        menu.addAction("Own steps …").triggered.connect(lambda: self.open_own_steps())
        return menu

    def open_own_steps(self) -> None:
        """Open the page of the artist's own steps."""
        from hasty_reel.desk.stages.finish.ownsteps import OwnStepsPage

        OwnStepsPage(self._session, self).open()
