"""The renderer link: its command with placeholders, time-out, patterns, and the trial of it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QPlainTextEdit, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, text_field
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.stages.proofs.learnlog import LearnPage
from hasty_reel.desk.stages.proofs.trialview import TrialView
from hasty_reel.farm.renderers.links import OF_JOB, PLACEHOLDERS, TOLD_PARTS, TOTAL, Link
from hasty_reel.programs.commands import command_text
from hasty_reel.studio.rendererlinks import BY_NAME, RendererLinksModel
from hasty_reel.studio.session import Session


def _how(link: Link) -> str:
    """How the command of a link is meant."""
    kept = "No shell is used. Links are kept on this machine, never in a reel."
    if link.stays:
        can = "" if link.can is None else f" It says that it can: {', '.join(link.can) or 'nothing of its own'}."
        return f"How your renderer is started; it stays open and is told of frames by messages, a line each.{can} {kept}"
    places = ", ".join("{" + p + "}" for p in OF_JOB)
    more = ", ".join("{" + p + "}" for p in PLACEHOLDERS if p not in OF_JOB)
    return (
        f"How your renderer is started for one frame. Placeholders are filled in: {places}; of the recipe {more}; "
        f"and {{own.NAME}} of a setting of your own. {kept}"
    )


class RendererPage(QDialog):
    """One link at a time, the others in a menu."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model = RendererLinksModel(session)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Renderer links")
        self.resize(760, 690)
        self.words = words = QLabel("")
        words.setWordWrap(True)
        words.setFont(theme.words(12))
        words.setStyleSheet(f"color: {theme.INK2.name()}")
        self.pick = PickButton(lambda: choice_menu(self, [(x.name, x.name) for x in model.kept.items], model.link.name, model.choose), self)
        self.pick.setAccessibleName("Renderer link")
        self.name = text_field(self, 260, "Name", lambda t: model.change(name=t))
        self.command = QPlainTextEdit(self)
        self.command.setFont(theme.figures(12))
        self.command.setTabChangesFocus(True)
        self.command.setFixedHeight(76)
        self.command.setAccessibleName("Command")
        self.command.setStyleSheet(f"QPlainTextEdit {{ background: {theme.WELL.name()}; border: 1px solid {theme.STRONG_RULE.name()}; }}")
        self.stays = Switch("Stays open, told of frames by messages", model.switch_stays, self)
        self.stays.setToolTip("The program is started once for each worker and keeps what it loaded; see docs/renderers.md")
        self.timeout = text_field(self, 90, "Time-out", model.type_timeout, "s")
        self.timeout.setToolTip("After this many seconds a frame is given up")
        self.channels = text_field(self, 210, "Channels", model.type_channels)
        self.channels.setToolTip("Which channels are what, where their names do not tell: normal=P.x,P.y,P.z; depth=d; motion=none")
        self.frames = text_field(self, 90, "Frames of a start", model.type_frames)
        self.frames.setToolTip("More than one where it renders a range: {first} and {last}, or {frames}, and {folder} stand in its command")
        self.progress = text_field(self, 210, "Progress", model.type_progress)
        self.progress.setToolTip("Regular expression; its first group is the percentage done")
        self.parts = {}
        whole: list[tuple[str, QWidget]] = [("Link", self.pick), ("Name", self.name), ("Command", self.command), ("", self.stays)]
        left = [("Time-out", self.timeout), ("Frames of a start", self.frames), ("Channels", self.channels), ("Progress", self.progress)]
        right: list[tuple[str, QWidget]] = []
        for part in TOLD_PARTS:
            field = text_field(self, 210, f"Seconds of {part}", partial(model.type_seconds, part))
            what = "all it took, where it tells one number" if part == TOTAL else part
            field.setToolTip(f"Regular expression; its first group is the seconds of {what} in what the renderer prints")
            self.parts[part] = field
            right.append(("Seconds in one number" if part == TOTAL else f"Seconds of {part}", field))
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.setHorizontalSpacing(10)
        self._told: list[QWidget] = []
        places = [(k, 0, 3, row) for k, row in enumerate(whole)]
        places += [(len(whole) + k, 0, 1, row) for k, row in enumerate(left)] + [(len(whole) + k, 2, 1, row) for k, row in enumerate(right)]
        for k, at, span, (text, widget) in places:
            label = QLabel(text)
            label.setFont(theme.words(13))
            grid.addWidget(label, k, at, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(widget, k, at + 1, 1, span)
            if widget in (self.progress, self.frames, *self.parts.values()):
                self._told += [label, widget]
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        self.answer = QLabel("")
        self.answer.setWordWrap(True)
        self.answer.setFont(theme.words(13))
        self.apply_button = PlainButton("Set command", lambda: model.type_command(self.command.toPlainText()), parent=self)
        self.test_button = PlainButton("Test the link", model.try_it, parent=self)
        self.test_button.setToolTip("Render tiny frames of this shot through it, and look at what comes back")
        self.learn_button = PlainButton("Learn from a log …", self.learn, parent=self)
        self.learn_button.setToolTip("Paste what your renderer prints, and say which time is which")
        row = QHBoxLayout()
        for button in (
            self.apply_button,
            self.test_button,
            self.learn_button,
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
        self.trial = TrialView(model, self)
        column.addWidget(self.trial, 1)
        column.addStretch(0)
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
        self.channels.show_value(self.model.channels_text or BY_NAME)
        self.frames.show_value(f"{link.frames}")
        self.progress.show_value(link.progress or "none")
        for part, field in self.parts.items():
            field.show_value(link.seconds.get(part, "none"))
        for widget in (
            self.command,
            self.timeout,
            self.frames,
            self.channels,
            self.progress,
            self.apply_button,
            self.stays,
            *self.parts.values(),
        ):
            widget.setEnabled(not inside)
        self.stays.setChecked(link.stays)
        self.words.setText(_how(link))
        for widget in self._told:  # what stays open tells these by messages
            widget.setVisible(not link.stays)
        self.answer.setText(self.model.answer)
        self.test_button.setEnabled(not self.model.trying)
        self.learn_button.setEnabled(not inside and not link.stays)

    def learn(self) -> LearnPage:
        """Learn the patterns of seconds and progress from an example."""
        page = LearnPage(self.model, self)
        page.open()
        return page

    def reject(self) -> None:
        self.model.stop()
        super().reject()
