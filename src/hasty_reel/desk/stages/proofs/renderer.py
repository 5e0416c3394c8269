"""The renderer link: its command with placeholders, time-out, patterns, and the trial of it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QPlainTextEdit, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, text_field
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.farm.renderers.links import OF_JOB, PLACEHOLDERS, TOLD_PARTS, TOTAL
from hasty_reel.programs.commands import command_text
from hasty_reel.studio.rendererlinks import RendererLinksModel
from hasty_reel.studio.session import Session


class RendererPage(QDialog):
    """One link at a time, the others in a menu."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model = RendererLinksModel(session)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Renderer links")
        self.resize(700, 470)
        words = QLabel(
            "How your renderer is started for one frame. Placeholders are filled in: " + ", ".join("{" + p + "}" for p in OF_JOB)
            + "; of the recipe " + ", ".join("{" + p + "}" for p in PLACEHOLDERS if p not in OF_JOB)
            + "; and {own.NAME} of a setting of your own. No shell is used. Links are kept on this machine, never in a reel."
        )  # fmt: skip
        words.setWordWrap(True)
        words.setFont(theme.words(12))
        words.setStyleSheet(f"color: {theme.INK2.name()}")
        self.pick = PickButton(lambda: choice_menu(self, [(x.name, x.name) for x in model.kept.items], model.link.name, model.choose), self)
        self.pick.setAccessibleName("Renderer link")
        self.name = text_field(self, 260, "Name", lambda t: model.change(name=t))
        self.command = QPlainTextEdit(self)
        self.command.setFont(theme.figures(12))
        self.command.setTabChangesFocus(True)
        self.command.setFixedHeight(92)
        self.command.setAccessibleName("Command")
        self.command.setStyleSheet(f"QPlainTextEdit {{ background: {theme.WELL.name()}; border: 1px solid {theme.STRONG_RULE.name()}; }}")
        self.timeout = text_field(self, 90, "Time-out", model.type_timeout, "s")
        self.timeout.setToolTip("After this many seconds a frame is given up")
        self.progress = text_field(self, 300, "Progress", model.type_progress)
        self.progress.setToolTip("Regular expression; its first group is the percentage done")
        self.parts = {}
        rows: list[tuple[str, QWidget]] = [("Link", self.pick), ("Name", self.name), ("Command", self.command), ("Time-out", self.timeout)]
        for part in TOLD_PARTS:
            field = text_field(self, 300, f"Seconds of {part}", partial(model.type_seconds, part))
            what = "all it took, where it tells one number" if part == TOTAL else part
            field.setToolTip(f"Regular expression; its first group is the seconds of {what} in what the renderer prints")
            self.parts[part] = field
            rows.append(("Seconds in one number" if part == TOTAL else f"Seconds of {part}", field))
        rows.append(("Progress", self.progress))
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
        self.test_button = PlainButton("Test the link", model.try_it, parent=self)
        self.test_button.setToolTip("Render one tiny frame of this shot through it")
        row = QHBoxLayout()
        for button in (
            self.apply_button,
            self.test_button,
            PlainButton("Duplicate", model.duplicate, parent=self),
            PlainButton("Remove", model.remove, parent=self),
        ):
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(PlainButton("Close", self.accept, parent=self))
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addLayout(grid)
        column.addWidget(self.answer)
        column.addStretch(1)
        column.addLayout(row)
        follow(self, model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the chosen link."""
        link = self.model.link
        inside = link.command is None
        self.pick.show_value(link.name)
        self.name.show_value(link.name)
        self.command.setPlainText("inside this program, no command" if link.command is None else command_text(link.command))
        self.timeout.show_value(f"{link.timeout:g}")
        self.progress.show_value(link.progress or "none")
        for part, field in self.parts.items():
            field.show_value(link.seconds.get(part, "none"))
        for widget in (self.command, self.timeout, self.progress, self.apply_button, *self.parts.values()):
            widget.setEnabled(not inside)
        self.answer.setText(self.model.answer)
        self.test_button.setEnabled(not self.model.trying)

    def reject(self) -> None:
        self.model.stop()
        super().reject()
