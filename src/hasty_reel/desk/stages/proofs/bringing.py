"""Frames rendered elsewhere: what they are, where their times are told, brought in as a proof."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QFileDialog, QGridLayout, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.pictures.foreign import ROLES
from hasty_reel.pictures.sequence import FramePattern
from hasty_reel.studio.bringing import BringingModel
from hasty_reel.studio.session import Session


class BringingPage(QDialog):
    """One sequence; guesses are shown and can be corrected."""

    def __init__(self, session: Session, pattern: FramePattern, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model = BringingModel(session, pattern)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Bring in frames as a proof")
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.setHorizontalSpacing(10)
        self._rows = 0
        self._add(grid, "Frames", self._words(model.frames_words))
        self._add(grid, "Other seed", self._words(model.pair_words))
        self.second = PickButton(self._sizes_menu, self)
        self.second.setAccessibleName("The same frames in another size")
        self.second.setToolTip("What grows with the size is told from what does not: brought in with it, as a proof of its own")
        self.second.setEnabled(bool(model.sizes))
        self._add(grid, "Second size", self.second)
        self.layer = PickButton(self._layers_menu, self)
        self.layer.setAccessibleName("Layer that holds the picture")
        if len(model.layers) > 1:
            self._add(grid, "Layer", self.layer)
        else:
            self.layer.hide()
        self.samples = self._field(80, "Samples per pixel", model.type_samples)
        self.samples.setToolTip("How many samples each pixel got")
        self._add(grid, "Samples", self.samples)
        self.coded = Switch("Colour holds display codes", self._set_coded, self)
        self.coded.setToolTip("On for sRGB pictures such as PNG and JPEG: they are decoded to light")
        self._add(grid, "Colour", self.coded)
        self.fields: dict[str, ValueField] = {}
        for role in ROLES:
            field = self._field(330, f"Channels of {role}", partial(model.type_channels, role))
            field.setToolTip("Names of its channels, or none. There are: " + ", ".join(model.names)[:300])
            self.fields[role] = field
            self._add(grid, role.capitalize(), field)
        self.times_words = self._words("")
        times = QHBoxLayout()
        times.addWidget(self.times_words, 1)
        times.addWidget(PlainButton("From CSV", partial(self._choose, "Times", "Tables (*.csv)"), parent=self))
        times.addWidget(PlainButton("From log", partial(self._choose, "Log", "Logs (*.log *.txt);;All files (*)"), parent=self))
        self.dates_button = PlainButton("File dates", model.take_dates, parent=self)
        self.dates_button.setToolTip("A frame took as long as lies between its file and the one written before")
        times.addWidget(self.dates_button)
        self.log_pattern = self._field(330, "Pattern of the log", self._set_log_pattern)
        self.log_pattern.setToolTip("Regular expression with groups named frame and seconds (and minutes, hours)")
        grid.addWidget(self._label("Seconds"), self._rows, 0)
        grid.addLayout(times, self._rows, 1)
        self._rows += 1
        self._add(grid, "Log pattern", self.log_pattern)
        self.fault = QLabel("")
        self.fault.setWordWrap(True)
        self.fault.setFont(theme.words(13))
        self.button = PlainButton("Bring in", model.bring, main=True, parent=self)
        foot = QHBoxLayout()
        foot.addWidget(self.fault, 1)
        foot.addWidget(self.button)
        foot.addWidget(PlainButton("Close", self.reject, parent=self))
        column = QVBoxLayout(self)
        column.addLayout(grid)
        column.addLayout(foot)
        follow(self, model.changed, self.refresh)
        follow(self, model.brought, lambda: self.accept())
        self.refresh()

    def _label(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(theme.words(13))
        return label

    def _words(self, text: str) -> QLabel:
        label = self._label(text)
        label.setStyleSheet(f"color: {theme.INK2.name()}")
        label.setWordWrap(True)
        return label

    def _field(self, width: int, name: str, act: Callable[[str], object]) -> ValueField:
        field = ValueField("", self)
        field.setFixedWidth(width)
        field.setAlignment(Qt.AlignmentFlag.AlignLeft)
        field.setAccessibleName(name)
        field.committed.connect(act)
        return field

    def _add(self, grid: QGridLayout, text: str, widget: QWidget) -> None:
        grid.addWidget(self._label(text), self._rows, 0, Qt.AlignmentFlag.AlignTop)
        grid.addWidget(widget, self._rows, 1)
        self._rows += 1

    def refresh(self) -> None:
        """Show the sequence as it stands."""
        model = self.model
        self.second.show_value(model.second_words)
        layer = model.layer
        self.layer.show_value("channels below" if layer is None else layer or "the unnamed one")
        self.samples.show_value(str(model.samples) if model.samples else "")
        self.coded.setChecked(model.coded)
        for role, field in self.fields.items():
            field.show_value(model.channels_text(role))
        self.times_words.setText(model.times_words)
        self.log_pattern.show_value(model.log_pattern)
        self.fault.setText(model.fault)
        self.button.setEnabled(model.may_bring)

    def _sizes_menu(self) -> QMenu:
        menu = QMenu(self)
        menu.addAction("none", partial(self.model.choose_second, None))
        for place in range(len(self.model.sizes)):
            menu.addAction(self.model.size_words(place), partial(self.model.choose_second, place))
        return menu

    def _layers_menu(self) -> QMenu:
        menu = QMenu(self)
        for name in self.model.layers:
            menu.addAction(name or "the unnamed one", partial(self.model.choose_layer, name))
        return menu

    def _set_coded(self, on: bool) -> None:
        self.model.coded = on

    def _set_log_pattern(self, text: str) -> None:
        self.model.log_pattern = text
        self.refresh()

    def _choose(self, title: str, kinds: str) -> None:
        name, _ = QFileDialog.getOpenFileName(self, title, str(self.model.pattern.folder), kinds)
        if name:
            self.model.take_times(Path(name))
