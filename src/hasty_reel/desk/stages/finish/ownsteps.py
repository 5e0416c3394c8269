"""The artist's own steps of finishing: command, time-out, on frames or on the folder."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QPlainTextEdit, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, text_field
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.programs.commands import command_text
from hasty_reel.programs.ownsteps import FOLDER_PLACES, FRAME_PLACES
from hasty_reel.studio.finish.ownsteps import OwnStepsModel
from hasty_reel.studio.session import Session

STARTED = ((False, "on each frame"), (True, "once, on the folder"))


class OwnStepsPage(QDialog):
    """One step at a time, the others in a menu."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model = OwnStepsModel(session)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Own steps of finishing")
        self.resize(620, 330)
        self.about = QLabel("")
        self.about.setWordWrap(True)
        self.about.setFont(theme.words(12))
        self.about.setStyleSheet(f"color: {theme.INK2.name()}")
        self.pick = PickButton(self._steps, self)
        self.pick.setAccessibleName("Own step")
        self.name = text_field(self, 260, "Name", lambda t: model.change(name=t))
        self.command = QPlainTextEdit(self)
        self.command.setFont(theme.figures(12))
        self.command.setTabChangesFocus(True)
        self.command.setFixedHeight(72)
        self.command.setAccessibleName("Command")
        self.command.setStyleSheet(f"QPlainTextEdit {{ background: {theme.WELL.name()}; border: 1px solid {theme.STRONG_RULE.name()}; }}")
        self.started = PickButton(self._started, self)
        self.started.setAccessibleName("Started")
        self.timeout = text_field(self, 90, "Time-out", model.type_timeout, "s")
        self.timeout.setToolTip("After this many seconds a frame, or the folder, is given up")
        self.progress = text_field(self, 300, "Progress", model.type_progress)
        self.progress.setToolTip("Regular expression; its first group is the percentage done")
        rows = [
            ("Step", self.pick), ("Name", self.name), ("Command", self.command), ("Started", self.started), ("Time-out", self.timeout),
            ("Progress", self.progress),
        ]  # fmt: skip
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        for k, (text, widget) in enumerate(rows):
            label = QLabel(text)
            label.setFont(theme.words(13))
            grid.addWidget(label, k, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(widget, k, 1)
        grid.setColumnStretch(1, 1)
        self.answer = QLabel("")
        self.answer.setWordWrap(True)
        self.answer.setFont(theme.words(13))
        self.apply_button = PlainButton("Set command", lambda: model.type_command(self.command.toPlainText()), parent=self)
        self.remove_button = PlainButton("Remove", model.remove, parent=self)
        row = QHBoxLayout()
        for button in (self.apply_button, PlainButton("New step", model.add, parent=self), self.remove_button):
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(PlainButton("Close", self.accept, parent=self))
        column = QVBoxLayout(self)
        column.addWidget(self.about)
        column.addLayout(grid)
        column.addWidget(self.answer)
        column.addStretch(1)
        column.addLayout(row)
        follow(self, model.changed, self.refresh)
        self.refresh()

    def _steps(self):
        now = self.model.current
        return choice_menu(self, [(s.name, s.name) for s in self.model.kept.items], now.name if now else None, self.model.choose)

    def _started(self):
        now = self.model.current
        return choice_menu(self, STARTED, now.folder if now else None, lambda folder: self.model.change(folder=folder))

    def refresh(self) -> None:
        """Show the step that is looked at."""
        step = self.model.current
        places = FOLDER_PLACES if step is not None and step.folder else FRAME_PLACES
        where = "Input and output are folders with files of the same names. " if step is not None and step.folder else ""
        self.about.setText(
            "A program of yours that takes OpenEXR pictures and writes others. Placeholders are filled in: "
            + ", ".join("{" + p + "}" for p in places)
            + f". {where}No shell is used. Steps are kept on this machine; a reel holds their names alone."
        )
        self.pick.show_value(step.name if step else "none yet: 'New step' begins one")
        self.name.show_value(step.name if step else "")
        self.command.setPlainText(command_text(step.command) if step else "")
        self.started.show_value(dict(STARTED)[step.folder] if step else "on each frame")
        self.timeout.show_value(f"{step.timeout:g}" if step else "")
        self.progress.show_value((step.progress or "none") if step else "")
        fields = (self.pick, self.name, self.command, self.started, self.timeout, self.progress, self.apply_button, self.remove_button)
        for widget in fields:
            widget.setEnabled(step is not None)
        self.answer.setText(self.model.answer)
