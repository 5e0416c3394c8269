"""The renderer link: its command with places, time-out, patterns, and the test of it."""

from __future__ import annotations

import shlex

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QMenu, QPlainTextEdit, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, ValueField
from hasty_reel.desk.jobs import Job
from hasty_reel.desk.session import Session
from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.evidence.proof import RENDER_PARTS
from hasty_reel.farm.door import try_link
from hasty_reel.farm.links import PLACES, Link
from hasty_reel.reel.numbers import read_number


def command_text(link: Link) -> str:
    """A command as it is written; each argument stays one."""
    return "" if link.command is None else shlex.join(link.command)


def read_command(text: str) -> tuple[str, ...]:
    """A command as it is written; quotes hold an argument together, nothing else is special.

    Raises
    ------
    WrongInput
        When a quote is not closed.
    """
    try:
        return tuple(shlex.split(text))
    except ValueError as error:
        raise WrongInput(f"Command: {str(error).lower()}; expected arguments, those with spaces in quotes.") from error


class RendererPage(QDialog):
    """One link at a time, the others in a menu."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._job: Job | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Renderer links")
        self.resize(640, 440)
        words = QLabel(
            "How your renderer is started for one frame. Places in braces are filled in: " + ", ".join("{" + p + "}" for p in PLACES)
            + ". No shell is used. Links are kept on this machine, never in a reel."
        )  # fmt: skip
        words.setWordWrap(True)
        words.setFont(theme.words(12))
        words.setStyleSheet(f"color: {theme.INK2.name()}")
        self.pick = PickButton(self._menu, self)
        self.pick.setAccessibleName("Renderer link")
        self.name = self._field(260, "Name", lambda t: self._change(name=t))
        self.command = QPlainTextEdit(self)
        self.command.setFont(theme.figures(12))
        self.command.setTabChangesFocus(True)
        self.command.setFixedHeight(92)
        self.command.setAccessibleName("Command")
        self.command.setStyleSheet(f"QPlainTextEdit {{ background: {theme.WELL.name()}; border: 1px solid {theme.STRONG_RULE.name()}; }}")
        self.timeout = self._field(90, "Time-out", self._set_timeout, "s")
        self.timeout.setToolTip("After this many seconds a frame is given up")
        self.progress = self._field(300, "Progress", lambda t: self._change(progress="" if t in ("none", "") else t))
        self.progress.setToolTip("Regular expression; its first group is the percentage done")
        self.parts = {}
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        rows: list[tuple[str, QWidget]] = [("Link", self.pick), ("Name", self.name), ("Command", self.command), ("Time-out", self.timeout)]
        for part in RENDER_PARTS:
            field = self._field(300, f"Seconds of {part}", lambda t, p=part: self._set_part(p, t))
            field.setToolTip(f"Regular expression; its first group is the seconds of {part} in what the renderer prints")
            self.parts[part] = field
            rows.append((f"Seconds of {part}", field))
        rows.append(("Progress", self.progress))
        for k, (text, widget) in enumerate(rows):
            label = QLabel(text)
            label.setFont(theme.words(13))
            grid.addWidget(label, k, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(widget, k, 1)
        grid.setColumnStretch(1, 1)
        self.answer = QLabel("")
        self.answer.setWordWrap(True)
        self.answer.setFont(theme.words(13))
        self.apply_button = PlainButton("Set command", self._set_command, parent=self)
        self.test_button = PlainButton("Test the link", self.test, parent=self)
        self.test_button.setToolTip("Render one tiny frame of this shot through it")
        row = QHBoxLayout()
        for button in (
            self.apply_button,
            self.test_button,
            PlainButton("Duplicate", self.duplicate, parent=self),
            PlainButton("Remove", self.remove, parent=self),
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
        session.renderer_changed.connect(self.refresh)
        self.refresh()

    def _field(self, width: int, name: str, act, unit: str = "") -> ValueField:
        field = ValueField(unit, self)
        field.setFixedWidth(width)
        field.setAlignment(Qt.AlignmentFlag.AlignLeft)
        field.setAccessibleName(name)
        field.committed.connect(act)
        return field

    @property
    def link(self) -> Link:
        """The link that is shown."""
        return self._session.links.current

    def refresh(self) -> None:
        """Show the chosen link."""
        link = self.link
        inside = link.command is None
        self.pick.show_value(link.name)
        self.name.show_value(link.name)
        self.command.setPlainText("inside this program, no command" if inside else command_text(link))
        self.timeout.show_value(f"{link.timeout:g}")
        self.progress.show_value(link.progress or "none")
        for part, field in self.parts.items():
            field.show_value(link.seconds.get(part, "none"))
        for widget in (self.command, self.timeout, self.progress, self.apply_button, *self.parts.values()):
            widget.setEnabled(not inside)

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        for link in self._session.links.links:
            entry = menu.addAction(link.name)
            entry.setCheckable(True)
            entry.setChecked(link.name == self.link.name)
            entry.triggered.connect(lambda _=False, n=link.name: self._session.choose_link(n))
        return menu

    def _change(self, **changes) -> None:
        links, old = self._session.links, self.link
        new = msgspec.structs.replace(old, **changes)
        found = tuple(new if x is old else x for x in links.links)
        self._keep(msgspec.structs.replace(links, links=found, chosen=new.name))

    def _keep(self, links) -> None:
        fault = self._session.set_links(links)
        self.answer.setText(fault)
        self.refresh()

    def _set_command(self) -> None:
        try:
            self._change(command=read_command(self.command.toPlainText()))
        except HastyReelError as error:
            self.answer.setText(str(error))

    def _set_timeout(self, text: str) -> None:
        try:
            value = read_number(text)
        except ValueError:
            value = None
        if value is None:
            self.answer.setText(f"Time-out: '{text[:40]}' is no number; expected seconds.")
            self.refresh()
            return
        self._change(timeout=float(value))

    def _set_part(self, part: str, text: str) -> None:
        seconds = {k: v for k, v in self.link.seconds.items() if k != part}
        self._change(seconds=seconds if text in ("", "none") else {**seconds, part: text})

    def duplicate(self) -> None:
        """A copy, to be changed; a copy of the one inside begins with our own command."""
        from hasty_reel.farm.links import BY_COMMAND

        links = self._session.links
        taken = {x.name for x in links.links}
        name = next(n for k in range(2, len(taken) + 3) if (n := f"{self.link.name[:190]} {k}") not in taken)
        base = self.link if self.link.command is not None else BY_COMMAND
        copy = msgspec.structs.replace(base, name=name)
        self._keep(msgspec.structs.replace(links, links=(*links.links, copy), chosen=name))

    def remove(self) -> None:
        """Take a link out; one stays."""
        links = self._session.links
        left = tuple(x for x in links.links if x is not self.link)
        if not left:
            self.answer.setText("This link is the only one; expected at least one.")
            return
        self._keep(msgspec.structs.replace(links, links=left, chosen=left[0].name))

    def test(self) -> None:
        """Render one tiny frame through it, beside the window's thread."""
        if self._job is not None:
            return
        link, shot = self.link, self._session.shot
        frame = shot.scene_frame(self._session.frame)
        self.answer.setText("Rendering one tiny frame …")
        self.test_button.setEnabled(False)
        self._job = job = self._session.jobs.start(lambda job: try_link(link, shot.scene, frame, job.cancel))
        job.done.connect(self.answer.setText)
        job.failed.connect(self.answer.setText)
        job.ended.connect(self._tested)

    def _tested(self) -> None:
        self._job = None
        self.test_button.setEnabled(True)

    def reject(self) -> None:
        if self._job is not None:
            self._job.cancel.cancel()
        super().reject()
