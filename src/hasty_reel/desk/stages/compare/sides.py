"""The bar of a comparison: which two sides, how they are told apart, and how they are shown."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QFileDialog, QHBoxLayout, QMenu, QSizePolicy, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import Choice, PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.rows import caption
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.compare.frames import CHANNELS
from hasty_reel.desk.stages.compare.paint import CHIP, paint_chip
from hasty_reel.desk.stages.compare.view import DIFFERENCE, MODES, SURROUNDS
from hasty_reel.evidence.sides import Side
from hasty_reel.pictures.colour import PLAIN, views
from hasty_reel.reel.numbers import read_number

DIFFERENCES = ("Light", "L*", "FLIP")
GAINS = (1, 2, 4, 8, 16, 32, 64)
OVERLAYS = ("nothing", "noise", "flicker")


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
    """Two rows of choices. `sides_changed` : other sides; `looks_changed` : shown otherwise.

    by_hand : the sides were chosen by the person, and are not chosen anew when there are others
    """

    sides_changed = Signal()
    mode_changed = Signal(int)
    looks_changed = Signal()
    overlay_changed = Signal()
    snapshot_wanted = Signal()
    footage_wanted = Signal(int, Path)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.listed: list[Side] = []
        self.chosen: list[Side | None] = [None, None]
        self.by_hand = False
        self.view_name, self.channel, self.overlay = PLAIN, CHANNELS[0], OVERLAYS[0]
        self.exposure, self.gain, self.kind = 0.0, 4, DIFFERENCES[1]
        self.surround = "middle"
        self.mode = 0
        self.picks = [PickButton(partial(self._side_menu, k), self) for k in (0, 1)]
        for k, pick in enumerate(self.picks):
            pick.setAccessibleName(f"Side {'AB'[k]}")
            pick.setMaximumWidth(226)
            pick.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.swap_button = PlainButton("Swap", self.swap)
        self.snap_button = PlainButton("Snapshot", self.snapshot_wanted.emit)
        self.snap_button.setToolTip("Keep this comparison as a PNG with its settings under it")
        self.modes = [Choice(name, self) for name in MODES]
        first = QHBoxLayout()
        first.setSpacing(6)
        for k in (0, 1):
            first.addWidget(Chip("AB"[k], self))
            first.addWidget(self.picks[k])
            first.addSpacing(4)
        first.addWidget(self.swap_button)
        first.addStretch(1)
        for k, choice in enumerate(self.modes):
            choice.clicked.connect(lambda _=False, k=k: self.set_mode(k))
            first.addWidget(choice)
        self.field = ValueField("stops", self)
        self.field.setFixedWidth(78)
        self.field.setAccessibleName("Exposure")
        self.field.setToolTip("Exposure in stops; ↑ ↓ half a stop")
        self.field.committed.connect(self._typed_exposure)
        self.field.stepped.connect(lambda d: self._set_exposure(self.exposure + 0.5 * d))
        self.view_pick = self._pick(
            lambda: self._menu([(self._view_words(v), v) for v in views()], self._set_view, self.view_name), "Display view"
        )
        self.channel_pick = self._pick(lambda: self._menu([(c, c) for c in CHANNELS], self._set_channel, self.channel), "Channel")
        self.overlay_pick = self._pick(lambda: self._menu([(o, o) for o in OVERLAYS], self._set_overlay, self.overlay), "Drawn over it")
        self.overlay_pick.setToolTip("Dots as large as the noise or the seen flicker of each part; ringed where it is over the limit")
        self.kind_pick = self._pick(lambda: self._menu([(d, d) for d in DIFFERENCES], self._set_kind, self.kind), "Kind of difference")
        self.gain_pick = self._pick(lambda: self._menu([(f"×{g}", g) for g in GAINS], self._set_gain, self.gain), "Gain of the difference")
        self.lens = Switch("Lens", lambda on: self.looks_changed.emit(), self)
        self.swatches = {name: Swatch(name, colour, self) for name, colour in SURROUNDS.items()}
        second = QHBoxLayout()
        second.setSpacing(6)
        self._difference: list[QWidget] = []
        for words, widget in (("Exposure", self.field), ("View", self.view_pick), ("Channel", self.channel_pick),
                              ("Over it", self.overlay_pick), ("of", self.kind_pick), ("gain", self.gain_pick)):  # fmt: skip
            label = caption(words)
            second.addWidget(label)
            second.addWidget(widget)
            second.addSpacing(6)
            if widget in (self.kind_pick, self.gain_pick):
                self._difference += [label, widget]
        second.addWidget(self.lens)
        second.addStretch(1)
        for name, swatch in self.swatches.items():
            swatch.clicked.connect(lambda _=False, n=name: self._set_surround(n))
            second.addWidget(swatch)
        second.addWidget(self.snap_button)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 8, 12, 4)
        column.setSpacing(4)
        column.addLayout(first)
        column.addLayout(second)
        self.refresh()

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.MAT)

    def _pick(self, menu: Callable[[], QMenu], name: str) -> PickButton:
        button = PickButton(menu, self)
        button.setAccessibleName(name)
        button.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        return button

    def _menu(self, entries: list[tuple[str, object]], act: Callable, now: object) -> QMenu:
        menu = QMenu(self)
        for words, value in entries:
            entry = menu.addAction(words)
            entry.setCheckable(True)
            entry.setChecked(value == now)
            entry.triggered.connect(lambda _=False, v=value: act(v))
        return menu

    @staticmethod
    def _view_words(name: str) -> str:
        return "Plain" if name == PLAIN else name

    # -- sides

    def _side_menu(self, which: int) -> QMenu:
        menu = QMenu(self)
        chosen = self.chosen[which]
        for side in self.listed:
            entry = menu.addAction(f"{side.name}    {side.words}")
            entry.setCheckable(True)
            entry.setChecked(chosen is not None and side.key == chosen.key)
            entry.triggered.connect(lambda _=False, s=side: self.choose(which, s))
        if which == 1:
            menu.addSeparator()
            menu.addAction("Nothing: A alone").triggered.connect(lambda _=False: self.choose(1, None))
        menu.addSeparator()
        menu.addAction("Frames on disk …").triggered.connect(lambda _=False: self._ask_footage(which))
        return menu

    def _ask_footage(self, which: int) -> None:
        words = "Pictures (*.exr *.png *.tif *.tiff *.jpg *.jpeg *.dpx)"
        path, _ = QFileDialog.getOpenFileName(self, "One frame of the sequence", str(self._session.path.parent), words)
        if path:
            self.footage_wanted.emit(which, Path(path))

    def choose(self, which: int, side: Side | None) -> None:
        """Another side for A (0) or B (1)."""
        self.chosen[which] = side
        self.by_hand = True
        self.refresh()
        self.sides_changed.emit()

    def swap(self) -> None:
        """A becomes B."""
        if self.chosen[1] is not None:
            self.chosen = self.chosen[::-1]
            self.by_hand = True
            self.refresh()
            self.sides_changed.emit()

    # -- ways of showing

    def set_mode(self, mode: int) -> None:
        """Wipe, flip, beside, difference."""
        self.mode = mode
        self.refresh()
        self.mode_changed.emit(mode)

    def _typed_exposure(self, text: str) -> None:
        try:
            value = read_number(text.replace("stops", "").replace("+", "").strip())
        except ValueError:
            self._session.said.emit(f"Exposure '{text[:40]}' is no number; expected −10 to 10 stops.")
            return
        if value is None or not -10 <= value <= 10:
            self._session.said.emit(f"Exposure {text[:40]}; expected −10 to 10 stops.")
            return
        self._set_exposure(value)

    def _set_exposure(self, value: float) -> None:
        self.exposure = min(max(value, -10.0), 10.0)
        self._changed()

    def _set_view(self, name: str) -> None:
        self.view_name = name
        self._changed()

    def _set_channel(self, name: str) -> None:
        self.channel = name
        self._changed()

    def _set_kind(self, name: str) -> None:
        self.kind = name
        self._changed()

    def _set_gain(self, gain: int) -> None:
        self.gain = gain
        self._changed()

    def _set_surround(self, name: str) -> None:
        self.surround = name
        self._changed()

    def _set_overlay(self, name: str) -> None:
        self.overlay = name
        self.refresh()
        self.overlay_changed.emit()

    def _changed(self) -> None:
        self.refresh()
        self.looks_changed.emit()

    def refresh(self) -> None:
        """Show what is chosen."""
        for k, pick in enumerate(self.picks):
            side = self.chosen[k]
            pick.show_value("nothing" if side is None else f"{side.name}, {side.words}")
            pick.setToolTip("" if side is None else f"{side.name}: {side.words}")
        two = self.chosen[1] is not None
        self.swap_button.setEnabled(two)
        for k, choice in enumerate(self.modes):
            choice.setChecked(k == self.mode)
            choice.setEnabled(two)
        for widget in self._difference:
            widget.setVisible(self.mode == DIFFERENCE and two)
        self.field.show_value(f"{self.exposure:+.2g}".replace("-", "−") if self.exposure else "0")
        self.view_pick.show_value(self._view_words(self.view_name).split(" - ")[0])
        self.channel_pick.show_value(self.channel)
        self.overlay_pick.show_value(self.overlay)
        self.kind_pick.show_value(self.kind)
        self.gain_pick.show_value(f"×{self.gain}")
        for name, swatch in self.swatches.items():
            swatch.setChecked(name == self.surround)
