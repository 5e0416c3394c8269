"""What was found: sweeps with their findings in words, and what each changed setting accounts for."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.session import Session
from hasty_reel.evidence.attribution import Attribution, Step, attribute
from hasty_reel.evidence.proof import DenoiseEffect
from hasty_reel.evidence.rows import Evidence
from hasty_reel.evidence.sweep import Sweep, find_sweep
from hasty_reel.reel.recipe import LINE

ROW = 20


NOTHING = Attribution((), ())


@dataclass(frozen=True)
class Findings:
    """All that was found about a shot."""

    sweeps: tuple[Sweep, ...] = ()
    changes: Attribution = NOTHING
    run: str = ""
    windows: tuple[DenoiseEffect, ...] = ()


def find_all(evidence: Evidence, full_width: int) -> Findings:
    """Findings of a shot: every sweep, the newest first, and the changes."""
    labels = dict.fromkeys(p.sweep for p in reversed(evidence.proofs) if p.sweep)
    sweeps = tuple(find_sweep(evidence, label, label.rpartition(" ")[0], full_width) for label in labels)
    run = next((p.id for p in reversed(evidence.proofs) if evidence.effects_of.get(p.id)), "")
    return Findings(sweeps, attribute(evidence.frames), run, evidence.effects_of.get(run, ()))


def percent(factor: float) -> str:
    """A factor as a change in percent."""
    return f"{100 * (factor - 1):+.0f} %".replace("-", "−")


def sweep_title(sweep: Sweep) -> str:
    """A sweep and the proofs it consists of."""
    what = LINE[sweep.name].words if sweep.name in LINE else sweep.name
    ids = sorted(p.proof for p in sweep.points)
    return f"Sweep over {what}" + (f", {ids[0]} to {ids[-1]}" if ids else "")


def step_words(step: Step) -> tuple[str, str, str]:
    """A change: its words, what it does to time, and to noise."""
    time = "–" if step.seconds is None else percent(step.seconds)
    noise = "–" if step.noise is None else percent(step.noise)
    return step.words, time, noise


class SweepTable(QWidget):
    """The values of a sweep with seconds, noise, and how far each looks from the fullest."""

    def __init__(self, sweep: Sweep, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._sweep = sweep
        self.setFixedHeight(ROW * (len(sweep.points) + 1) + 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        right = self.width() - 12.0
        columns = (right - 190, right - 110, right)
        painter.setFont(theme.words(11))
        painter.setPen(theme.MAT_INK3)
        align = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        for x, text in zip(columns, ("seconds", "noise L*", "off the fullest, L*")):
            painter.drawText(QRectF(x - 130, 0, 130, ROW), align, text)
        most = max((p.seconds for p in self._sweep.points), default=1.0)
        for k, point in enumerate(self._sweep.points):
            y = ROW * (k + 1)
            enough = self._sweep.enough is not None and point.value == self._sweep.enough
            painter.setFont(theme.words(13, 700 if enough else 500))
            painter.setPen(theme.MAT_INK if enough else theme.MAT_INK2)
            name = LINE[self._sweep.name].text(point.value) if self._sweep.name in LINE else f"{point.value:g}"
            painter.drawText(QRectF(12, y, 70, ROW), Qt.AlignmentFlag.AlignVCenter, name)
            painter.fillRect(QRectF(72, y + 6, 90 * point.seconds / most, 8), theme.MAT_INK3 if enough else theme.NEUTRAL_STRONG)
            painter.setFont(theme.figures(12, 600 if enough else 400))
            for x, value, digits in zip(columns, (point.seconds, point.noise_L, point.off_L), (2, 1, 1)):
                painter.drawText(QRectF(x - 130, y, 130, ROW), align, "–" if not np.isfinite(value) else f"{value:.{digits}f}")


class WindowTable(QWidget):
    """What denoising over 3, 5 and 7 frames did on a run."""

    def __init__(self, windows: tuple[DenoiseEffect, ...], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._windows = windows
        self.setFixedHeight(ROW * (len(windows) + 1) + 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        right = self.width() - 12.0
        align = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.setFont(theme.words(11))
        painter.setPen(theme.MAT_INK3)
        for x, text in ((right - 150, "noise"), (right - 60, "flicker"), (right, "s/Mpixel")):
            painter.drawText(QRectF(x - 130, 0, 130, ROW), align, text)
        painter.setPen(theme.MAT_INK)
        for k, effect in enumerate(self._windows):
            y = ROW * (k + 1)
            painter.setFont(theme.words(13))
            painter.drawText(QRectF(12, y, 120, ROW), Qt.AlignmentFlag.AlignVCenter, f"over {effect.window} frames")
            painter.setFont(theme.figures(12))
            cells = (percent(effect.noise_ratio), percent(effect.flicker_ratio), f"{effect.seconds_per_pixel * 1e6:.1f}")
            for x, text in zip((right - 150, right - 60, right), cells):
                painter.drawText(QRectF(x - 130, y, 130, ROW), align, text)


class StepTable(QWidget):
    """Changes with what each does to time and to noise, and how sure that is."""

    def __init__(self, steps: tuple[Step, ...], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._steps = steps
        self.setFixedHeight(ROW * (len(steps) + 1) + 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        right = self.width() - 12.0
        align = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.setFont(theme.words(11))
        painter.setPen(theme.MAT_INK3)
        for x, text in ((right - 82, "time of a sample"), (right, "noise")):
            painter.drawText(QRectF(x - 130, 0, 130, ROW), align, text)
        for k, step in enumerate(self._steps):
            y = ROW * (k + 1)
            words, time, noise = step_words(step)
            painter.setFont(theme.words(13))
            painter.setPen(theme.MAT_INK)
            text = QFontMetrics(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, int(right - 180))
            painter.drawText(QRectF(12, y, right - 170, ROW), Qt.AlignmentFlag.AlignVCenter, text)
            painter.setFont(theme.figures(12))
            painter.drawText(QRectF(right - 212, y, 130, ROW), align, time + self._spread(step.seconds, step.seconds_range))
            painter.drawText(QRectF(right - 80, y, 80, ROW), align, noise)

    def _spread(self, value: float | None, span: tuple[float, float] | None) -> str:
        return "" if value is None or span is None else f" ±{100 * (span[1] - span[0]) / 2:.0f}"


class FoundPage(QScrollArea):
    """Sweeps, then changes; read beside the window's thread."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.findings = Findings()
        self._wanted = False
        self._looking = False
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.viewport().setStyleSheet(f"background: {theme.MAT.name()};")

    def refresh(self) -> None:
        """Look at the evidence anew, when one can see it."""
        self._wanted = True
        if self.isVisible():
            self._look()

    def showEvent(self, event) -> None:
        super().showEvent(event)
        if self._wanted:
            self._look()

    def _look(self) -> None:
        if self._looking:
            return
        self._wanted, self._looking = False, True
        session = self._session
        evidence, width, shot = session.shot_evidence.without(session.shot.put_away), session.reel.picture_size[0], session.shot_id
        job = session.jobs.start(lambda job: (shot, find_all(evidence, width)))
        job.done.connect(self._found)
        job.failed.connect(session.said)
        job.ended.connect(self._looked)

    def _looked(self) -> None:
        self._looking = False
        if self._wanted:
            self._look()

    def _found(self, thing: tuple[str, Findings]) -> None:
        shot, findings = thing
        if shot != self._session.shot_id:
            return
        self.findings = findings
        page = QWidget()
        page.setObjectName("found")
        page.setStyleSheet(f"#found {{ background: {theme.MAT.name()}; }}")
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 4, 0, 8)
        column.setSpacing(4)
        for sweep in findings.sweeps:
            column.addWidget(self._title(sweep_title(sweep)))
            column.addWidget(self._text(sweep.finding, strong=True))
            column.addWidget(SweepTable(sweep))
        if findings.windows:
            column.addWidget(self._title(f"Denoise over time, tried on the run {findings.run}"))
            column.addWidget(WindowTable(findings.windows))
        changes = findings.changes
        if changes.steps or changes.together:
            column.addWidget(self._title("What each change accounts for, over all proofs of the shot"))
        if changes.steps:
            column.addWidget(StepTable(changes.steps))
        for together in changes.together:
            row = QHBoxLayout()
            row.setContentsMargins(0, 0, 10, 0)
            row.addWidget(self._text(together.words), 1)
            button = PlainButton("Render it", partial(self._session.wanted_proof.emit, together.telling))
            button.setToolTip("Put that proof into the queue")
            row.addWidget(button)
            column.addLayout(row)
        if not findings.sweeps and not findings.windows and not changes.steps and not changes.together:
            column.addWidget(
                self._text("Nothing was varied yet. A sweep over one setting tells from where on it changes nothing you can see.")
            )
        column.addStretch(1)
        self.setWidget(page)

    def _title(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(theme.words(12, 700))
        label.setStyleSheet(f"color: {theme.MAT_INK.name()}")
        label.setContentsMargins(12, 6, 12, 0)
        return label

    def _text(self, text: str, strong: bool = False) -> QLabel:
        label = QLabel(text)
        label.setFont(theme.words(13, 600 if strong else 500))
        label.setStyleSheet(f"color: {theme.MAT_INK.name() if strong else theme.MAT_INK2.name()}")
        label.setWordWrap(True)
        label.setContentsMargins(12, 0, 12, 0)
        return label
