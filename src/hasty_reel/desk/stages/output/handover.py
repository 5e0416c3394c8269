"""Format, colour, options, names and room of a delivery, and the button that hands over."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QFileDialog, QLabel, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, text_field
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import field_row
from hasty_reel.desk.stages.output.formats import FormatTable
from hasty_reel.pictures.outputs import PictureFormat
from hasty_reel.studio.output.outputs import OutputsModel

LONGEST_FOLDER = 60
"""Characters of a folder that are shown."""


class HandOverPage(QWidget):
    """The table of formats, and below it what is chosen."""

    def __init__(self, model: OutputsModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model
        self.table = FormatTable(model)
        scroll = QScrollArea(self)
        scroll.setWidgetResizable(True)
        scroll.setWidget(self.table)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.colour = PickButton(self._colours, self)
        self.colour.setAccessibleName("Colour")
        self.compression = PickButton(self._compressions, self)
        self.compression.setAccessibleName("Compression")
        self.quality = text_field(self, 44, "Quality", model.type_quality)
        self.gop = text_field(self, 44, "Frames between key frames", model.type_gop)
        self.layers = Switch("Layers", model.choose_layers, self)
        self.layers.setToolTip("Guides as albedo, normal, depth and motion beside the colour, in one file.")
        self.window_switch = Switch("Data window", model.choose_window, self)
        self.window_switch.setToolTip("Of each picture only the part is written that is not empty; it is shown as large as before.")
        self._parts = [QLabel(words, self) for words in ("Compression", "Quality", "Key frame every")]
        self.pattern = text_field(self, 260, "Name of the files", model.type_pattern)
        self.pattern.setAlignment(Qt.AlignmentFlag.AlignLeft)
        self.pattern.setToolTip(
            "Places: {reel} {shot} {layer} {recipe} {version} {frame}. The version is counted up: what is there is kept."
        )
        self.example, self.room, self.warnings, self.words = (QLabel("", self) for _ in range(4))
        for label, weight in ((self.example, 500), (self.room, 500), (self.warnings, 500), (self.words, 600)):
            label.setFont(theme.words(13, weight))
            label.setWordWrap(True)
        self.warnings.setStyleSheet(f"color: {theme.AMBER.name()}")
        self.folder = QLabel("", self)
        self.folder.setFont(theme.words(13, 600))
        self.choose = PlainButton("Choose folder", self._choose_folder, parent=self)
        self.go = PlainButton("Hand over", model.hand_over, main=True, parent=self)
        self.stop = PlainButton("Stop", model.stop, parent=self)
        self.show_made = PlainButton("Open", self._open, parent=self)
        self.show_made.setToolTip("Open the film, or the folder of the pictures, with what the desktop opens it.")
        chosen = ("Colour", self.colour, 10, self._parts[0], self.compression, self._parts[1], self.quality)
        options = field_row(*chosen, self._parts[2], self.gop, self.layers, self.window_switch, None)
        names = field_row("Name", self.pattern, None)
        names.insertWidget(2, self.example, 1)
        where = field_row("into", self.folder, self.choose, None, self.show_made, self.stop, self.go)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 8)
        column.setSpacing(4)
        column.addWidget(scroll, 1)
        below = QVBoxLayout()
        below.setContentsMargins(16, 6, 16, 0)
        below.setSpacing(6)
        for row in (options, names, where):
            below.addLayout(row)
        for label in (self.room, self.warnings, self.words):
            below.addWidget(label)
        column.addLayout(below)
        follow(self, model.changed, self.refresh)
        self.refresh()

    def _colours(self):
        return choice_menu(self, [(n, n) for n in self.model.colours], self.model.how.colour.name, self.model.choose_colour)

    def _compressions(self):
        form = self.model.how.form
        names = form.compressions if isinstance(form, PictureFormat) else ()
        return choice_menu(self, [(n, n) for n in names], self._compression, self.model.choose_compression)

    @property
    def _compression(self) -> str:
        form = self.model.how.form
        usual = form.compressions[0] if isinstance(form, PictureFormat) and form.compressions else ""
        return self.model.how.picture.compression or usual

    def refresh(self) -> None:
        """Show what is chosen; while nobody looks, nothing is asked of the disk."""
        if not self.isVisible():
            return
        model, how = self.model, self.model.how
        form = how.form
        picture = form if isinstance(form, PictureFormat) else None
        self.colour.show_value(how.colour.name)
        compressed = picture is not None and bool(picture.compressions)
        self.compression.setVisible(compressed)
        self.compression.show_value(self._compression)
        has_quality = picture.quality is not None if picture is not None else bool(form.option)  # type: ignore[union-attr]
        self.quality.setVisible(has_quality)
        usual = (picture.quality or (0, 0, 0))[2] if picture is not None else form.quality[2]  # type: ignore[index]
        chosen = how.picture.quality if picture is not None else how.film.quality
        self.quality.show_value(str(usual if chosen is None else chosen))
        self.gop.setVisible(model.film and has_quality)
        self.gop.show_value(str(how.film.gop))
        for label, field in zip(self._parts, (self.compression, self.quality, self.gop)):
            label.setVisible(field.isVisibleTo(self))
        self.layers.setVisible(picture is not None and picture.layers)
        self.layers.setChecked(how.picture.layers)
        self.window_switch.setVisible(picture is not None and picture.window)
        self.window_switch.setChecked(how.picture.window)
        self.pattern.show_value(model.pattern)
        self.example.setText(model.example)
        self.folder.setText(f"{model.folder}"[-LONGEST_FOLDER:])
        self.folder.setToolTip(str(model.folder))
        self.room.setText(model.room_words)
        self.warnings.setText("  ".join(model.warnings))
        self.warnings.setVisible(bool(model.warnings))
        more = f"  {len(model.waiting)} more wait." if model.waiting else ""
        self.words.setText(model.words + more)
        self.go.setEnabled(model.ready)
        self.go.setText("Hand over next" if model.busy else "Hand over")
        self.stop.setVisible(model.busy)
        self.show_made.setVisible(model.made is not None and not model.busy)

    def _choose_folder(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, "Folder of what is handed over", str(self.model.folder.parent))
        if chosen:
            self.model.set_folder(Path(chosen))

    def _open(self) -> None:
        made = self.model.made
        if made is not None:
            QDesktopServices.openUrl(QUrl.fromLocalFile(str(made if self.model.film and made.is_file() else made.parent)))

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self.model.weighing.watch(True)
        self.refresh()

    def hideEvent(self, event) -> None:
        super().hideEvent(event)
        self.model.weighing.watch(False)
