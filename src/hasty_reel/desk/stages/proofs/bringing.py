"""Frames rendered elsewhere: what they are, where their times are told, brought in as a proof."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QDialog, QFileDialog, QGridLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, Switch, ValueField
from hasty_reel.desk.jobs import Job
from hasty_reel.desk.session import Session
from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.evidence.proof import Proof
from hasty_reel.farm.bringin import Bringing, Times, bring_in, guess_pair, read_log, read_times
from hasty_reel.pictures.foreign import ROLES, Channels, guess_channels, is_coded, read_channels_text
from hasty_reel.pictures.frame import read_planes
from hasty_reel.pictures.sequence import FramePattern
from hasty_reel.reel.frames import write_frames

LOG_EXAMPLE = r"frame (?P<frame>\d+).*?(?P<seconds>[\d.]+) s"


class BringingPage(QDialog):
    """One sequence; guesses are shown and can be corrected."""

    brought = Signal(str)

    def __init__(self, session: Session, pattern: FramePattern, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self.pattern = session, pattern
        self._job: Job | None = None
        self._times = Times()
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Bring in frames as a proof")
        self.pair = guess_pair(pattern)
        shot = session.shot
        there = pattern.frames()
        inside = [f for f in there if shot.begin <= f < shot.past]
        self.names: list[str] = []
        self.channels: Channels = {}
        coded, samples = False, 0
        first = pattern.path((inside or there)[0]) if there else None
        self.fault = QLabel("")
        try:
            if first is None:
                raise WrongInput(f"{pattern}: no frames there.")
            _, self.names, head = read_planes(first)
            self.channels = guess_channels(self.names)
            coded = is_coded(first, head)
            told = head.get("hr:samples")
            samples = int(told) if isinstance(told, int | float) else 0
        except HastyReelError as error:
            self.fault.setText(str(error))
        frames = (
            f"{write_frames(inside)} of {shot.id}" if inside else f"none of {shot.id} ({shot.begin}–{shot.past - 1}) among {len(there)}"
        )
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.setHorizontalSpacing(10)
        self._rows = 0
        self._add(grid, "Frames", self._words(f"{pattern.folder.name}/{pattern.before}{'#' * pattern.digits}{pattern.after}: {frames}"))
        pair = "none: noise is not measured" if self.pair is None else f"{self.pair.before}{'#' * self.pair.digits}{self.pair.after}"
        self._add(grid, "Other seed", self._words(pair))
        self.samples = self._field(80, "Samples per pixel", lambda t: self._set_samples(t))
        self.samples.show_value(str(samples) if samples else "")
        self.samples.setToolTip("How many samples each pixel got")
        self._add(grid, "Samples", self.samples)
        self.coded = Switch("Colour holds display codes", lambda on: None, self)
        self.coded.setToolTip("On for sRGB pictures such as PNG and JPEG: they are decoded to light")
        self.coded.setChecked(coded)
        self._add(grid, "Colour", self.coded)
        self.fields: dict[str, ValueField] = {}
        for role in ROLES:
            field = self._field(330, f"Channels of {role}", lambda t, r=role: self._set_channels(r, t))
            field.setToolTip("Names of its channels, or none. There are: " + ", ".join(self.names)[:300])
            self.fields[role] = field
            self._add(grid, role.capitalize(), field)
        self.told = self._words("from the heads of the files, where they tell them")
        times = QHBoxLayout()
        times.addWidget(self.told, 1)
        times.addWidget(PlainButton("From CSV", self._choose_csv, parent=self))
        times.addWidget(PlainButton("From log", self._choose_log, parent=self))
        self.log_pattern = self._field(330, "Pattern of the log", self._set_log_pattern)
        self.log_pattern.setToolTip("Regular expression with groups named frame and seconds (and minutes, hours)")
        self.log_pattern.show_value(LOG_EXAMPLE)
        grid.addWidget(self._label("Seconds"), self._rows, 0)
        grid.addLayout(times, self._rows, 1)
        self._rows += 1
        self._add(grid, "Log pattern", self.log_pattern)
        self.fault.setWordWrap(True)
        self.fault.setFont(theme.words(13))
        self.button = PlainButton("Bring in", self.bring, main=True, parent=self)
        self.button.setEnabled(bool(inside) and bool(self.names))
        foot = QHBoxLayout()
        foot.addWidget(self.fault, 1)
        foot.addWidget(self.button)
        foot.addWidget(PlainButton("Close", self.reject, parent=self))
        column = QVBoxLayout(self)
        column.addLayout(grid)
        column.addLayout(foot)
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

    def _field(self, width: int, name: str, act) -> ValueField:
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
        """Show the channels as they stand."""
        for role, field in self.fields.items():
            field.show_value(", ".join(self.channels.get(role, ())) or "none")

    def _set_samples(self, text: str) -> None:
        if not text.isdigit() or not 1 <= int(text) <= 1 << 20:
            self.fault.setText(f"Samples '{text[:20]}'; expected 1 to 1048576.")
            return
        self.fault.setText("")
        self.samples.show_value(text)

    def _set_channels(self, role: str, text: str) -> None:
        try:
            found = read_channels_text(f"{role}={text}")
            missing = [n for n in found[role] if n not in self.names]
            if missing:
                raise WrongInput(f"No channel '{missing[0][:40]}'; there are {', '.join(self.names)[:200]}.")
        except HastyReelError as error:
            self.fault.setText(str(error))
        else:
            self.fault.setText("")
            self.channels = {**self.channels, **found}
        self.refresh()

    def _set_log_pattern(self, text: str) -> None:
        self.log_pattern.show_value(text)

    def _choose_csv(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Times", str(self.pattern.folder), "Tables (*.csv)")
        if name:
            self.take_times(Path(name))

    def _choose_log(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Log", str(self.pattern.folder), "Logs (*.log *.txt);;All files (*)")
        if name:
            self.take_times(Path(name))

    def take_times(self, path: Path) -> None:
        """Read times from a table or a log."""
        try:
            self._times = read_times(path) if path.suffix.lower() == ".csv" else read_log(path, self.log_pattern.text())
        except HastyReelError as error:
            self.fault.setText(str(error))
            return
        self.fault.setText("")
        self.told.setText(f"{len(self._times.seconds)} frames told by {path.name}")

    def bring(self) -> None:
        """Bring the frames in, beside the window's thread."""
        if self._job is not None:
            return
        session, samples = self._session, self.samples.text()
        channels = {role: self.channels.get(role, ()) for role in ROLES}
        what = Bringing(
            session.shot, session.recipe, self.pattern, self.pair, int(samples) if samples.isdigit() else None, channels,
            self.coded.isChecked(), self._times,
        )  # fmt: skip
        root = session.proofs_root
        self.button.setEnabled(False)
        self._job = job = session.jobs.start(lambda job: bring_in(root, what, job.tell, job.cancel))
        job.progressed.connect(lambda share, words: self.fault.setText(f"{100 * share:.0f} %, {words}"))
        job.done.connect(self._done)
        job.failed.connect(self._failed)

    def _done(self, thing: tuple[Proof, list[str]]) -> None:
        proof, words = thing
        self._job = None
        self._session.read_evidence()
        count = len(proof.by_frame())
        self._session.said.emit(" ".join([f"{count} frames brought in as proof {proof.id}.", *words[:2]]))
        self.brought.emit(proof.id)
        self.accept()

    def _failed(self, words: str) -> None:
        self._job = None
        self.button.setEnabled(True)
        self.fault.setText(words)
