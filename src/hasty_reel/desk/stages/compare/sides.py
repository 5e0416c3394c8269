"""The bar of a comparison: which two sides, how they are told apart, and how they are shown."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QFileDialog, QHBoxLayout, QMenu, QSizePolicy, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.clip import Frames, clip_menu
from hasty_reel.desk.fields import Choice, PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import caption
from hasty_reel.desk.stages.compare.paint import CHIP, paint_chip
from hasty_reel.desk.stages.compare.view import SURROUND_COLOURS
from hasty_reel.errors import WrongInput
from hasty_reel.pictures.colour import PLAIN, views
from hasty_reel.pictures.foreign import ENDINGS
from hasty_reel.studio.compare.comparison import Comparison
from hasty_reel.studio.compare.presentation import DIFFERENCES, GAINS, MODE_WORDS, MODES, OVERLAYS
from hasty_reel.studio.look import CHANNELS
from hasty_reel.studio.session import Session


class Chip(QWidget):
    """The letter of a side."""

    def __init__(self, letter: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._letter = letter
        self.setFixedSize(CHIP + 2, CHIP + 2)

    def paintEvent(self, event: QPaintEvent) -> None:
        paint_chip(QPainter(self), 1, 1, self._letter, self._letter == "B")


class Swatch(QAbstractButton):
    """A grey that can stand around the picture."""

    def __init__(self, name: str, colour: QColor, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._colour = colour
        self.setCheckable(True)
        self.setFixedSize(24, 18)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(f"{name} grey around the picture")
        self.setAccessibleName(f"Surround {name}")

    def sizeHint(self) -> QSize:
        return QSize(24, 18)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect().adjusted(3, 3, -3, -3), self._colour)
        painter.setPen(QPen(theme.MAT_INK if self.isChecked() or self.hasFocus() else theme.NEUTRAL_STRONG, 2 if self.isChecked() else 1))
        painter.drawRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5))


class SidesBar(QWidget):
    """Two rows of choices: which sides, and how they are shown."""

    snapshot_wanted = Signal()

    def __init__(self, session: Session, comparison: Comparison, clip_frames: Frames, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._sides, self._how = session, comparison.sides, comparison.presentation
        how = self._how
        self.picks = [PickButton(partial(self._side_menu, k), self) for k in (0, 1)]
        for k, pick in enumerate(self.picks):
            pick.setAccessibleName(f"Side {'AB'[k]}")
            pick.setMaximumWidth(226)
            pick.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.swap_button = PlainButton("Swap", self._sides.swap)
        self.snap_button = PlainButton("Snapshot", self.snapshot_wanted.emit)
        self.snap_button.setToolTip("Keep this comparison as a PNG with its settings under it")
        self.clip_button = PickButton(lambda: clip_menu(self, session, f"{session.playhead.shot_id}-comparison", clip_frames), self)
        self.clip_button.show_value("Write clip")
        self.clip_button.setToolTip("The loop as it is shown here, as a small film or as pictures")
        self.modes = {mode: Choice(MODE_WORDS[mode], self) for mode in MODES}
        self.field = ValueField("stops", self)
        self.field.setFixedWidth(78)
        self.field.setAccessibleName("Exposure")
        self.field.setToolTip("Exposure in stops; ↑ ↓ half a stop")
        self.field.committed.connect(self._typed_exposure)
        self.field.stepped.connect(lambda d: how.set_exposure(how.look.exposure + 0.5 * d))
        self.view_pick = self._pick(
            "Display view", lambda: choice_menu(self, [(v, _view_words(v)) for v in views()], how.look.view, how.set_view)
        )
        self.channel_pick = self._pick("Channel", lambda: choice_menu(self, _same(CHANNELS), how.look.channel, how.set_channel))
        self.overlay_pick = self._pick("Overlay", lambda: choice_menu(self, _same(OVERLAYS), how.overlay, how.set_overlay))
        self.overlay_pick.setToolTip("Dots as large as the noise or the seen flicker of each part; ringed where it is over the limit")
        self.kind_pick = self._pick(
            "Kind of difference", lambda: choice_menu(self, _same(DIFFERENCES), how.difference, lambda d: how.show(difference=d))
        )
        self.gain_pick = self._pick(
            "Gain of the difference", lambda: choice_menu(self, [(g, f"×{g}") for g in GAINS], how.gain, lambda g: how.show(gain=g))
        )
        self.lens = Switch("Lens", lambda on: how.show(lens=on), self)
        self.swatches = {name: Swatch(name, colour, self) for name, colour in SURROUND_COLOURS.items()}
        self._lay_out()
        for signal in (self._sides.listed_changed, self._sides.changed, how.mode_changed, how.look_changed, how.overlay_changed):
            follow(self, signal, self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        first = QHBoxLayout()
        first.setSpacing(6)
        for k in (0, 1):
            first.addWidget(Chip("AB"[k], self))
            first.addWidget(self.picks[k])
            first.addSpacing(4)
        first.addWidget(self.swap_button)
        first.addStretch(1)
        for mode, choice in self.modes.items():
            choice.clicked.connect(lambda _=False, m=mode: self._how.set_mode(m))
            first.addWidget(choice)
        second = QHBoxLayout()
        second.setSpacing(6)
        self._difference: list[QWidget] = []
        for words, widget in (("Exposure", self.field), ("View", self.view_pick), ("Channel", self.channel_pick),
                              ("Overlay", self.overlay_pick), ("of", self.kind_pick), ("gain", self.gain_pick)):  # fmt: skip
            label = caption(words)
            second.addWidget(label)
            second.addWidget(widget)
            second.addSpacing(6)
            if widget in (self.kind_pick, self.gain_pick):
                self._difference += [label, widget]
        second.addWidget(self.lens)
        second.addStretch(1)
        for name, swatch in self.swatches.items():
            swatch.clicked.connect(lambda _=False, n=name: self._how.show(surround=n))
            second.addWidget(swatch)
        second.addWidget(self.snap_button)
        second.addWidget(self.clip_button)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 8, 12, 4)
        column.setSpacing(4)
        column.addLayout(first)
        column.addLayout(second)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.MAT)

    def _pick(self, name: str, menu: Callable[[], QMenu]) -> PickButton:
        button = PickButton(menu, self)
        button.setAccessibleName(name)
        button.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        return button

    def _side_menu(self, which: int) -> QMenu:
        sides = self._sides
        chosen = sides.chosen[which]
        entries = [(side, f"{side.name}    {side.words}") for side in sides.listed]
        now = next((s for s in sides.listed if chosen is not None and s.key == chosen.key), None)
        menu = choice_menu(self, entries, now, partial(sides.choose, which))
        if which == 1:
            menu.addSeparator()
            menu.addAction("Nothing: A alone").triggered.connect(lambda _=False: sides.choose(1, None))
        menu.addSeparator()
        menu.addAction("Frames on disk …").triggered.connect(lambda _=False: self._ask_footage(which))
        return menu

    def _ask_footage(self, which: int) -> None:
        kinds = f"Pictures ({' '.join('*' + e for e in ENDINGS)})"
        path, _ = QFileDialog.getOpenFileName(self, "One frame of the sequence", str(self._session.path.parent), kinds)
        if path:
            self._sides.take_footage(which, Path(path))

    def _typed_exposure(self, text: str) -> None:
        try:
            self._how.type_exposure(text)
        except WrongInput as error:
            self._session.said.emit(str(error))

    def refresh(self) -> None:
        """Show what is chosen."""
        how, chosen = self._how, self._sides.chosen
        two = chosen[1] is not None
        for k, pick in enumerate(self.picks):
            side = chosen[k]
            pick.show_value("nothing" if side is None else f"{side.name}, {side.words}")
            pick.setToolTip("" if side is None else f"{side.name}: {side.words}")
        self.swap_button.setEnabled(two)
        for mode, choice in self.modes.items():
            choice.setChecked(mode == how.mode)
            choice.setEnabled(two)
        for widget in self._difference:
            widget.setVisible(how.mode == "difference" and two)
        self.field.show_value(f"{how.look.exposure:+.2g}".replace("-", "−") if how.look.exposure else "0")
        self.view_pick.show_value(_view_words(how.look.view).split(" - ")[0])
        self.channel_pick.show_value(how.look.channel)
        self.overlay_pick.show_value(how.overlay)
        self.kind_pick.show_value(how.difference)
        self.gain_pick.show_value(f"×{how.gain}")
        self.lens.setChecked(how.lens)
        for name, swatch in self.swatches.items():
            swatch.setChecked(name == how.surround)


def _same(names: Sequence[str]) -> list[tuple[str, str]]:
    return [(n, n) for n in names]


def _view_words(name: str) -> str:
    return "Plain" if name == PLAIN else name
