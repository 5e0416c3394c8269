"""Budget: what is held, the answer as a sentence, and the plan over the frames that proves it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import Choice, ValueField
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.budget.charts import NoiseChart, SamplesChart
from hasty_reel.plan.shot import ShotPlan, sentence
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.numbers import read_number
from hasty_reel.reel.shot import Hold, Kind

CHOICES: tuple[tuple[Kind, str, str, str], ...] = (
    ("noise", "Noise in every frame at most", "", "Standard deviation of linear light after finishing; animation: 0.01 to 0.02."),
    ("total", "All frames in at most", "h", "Hours for the whole shot on the machines of the reel."),
    ("cap", "Each frame in at most", "s", "Seconds a frame may take. The floor wins over it."),
)  # fmt: skip


class HoldChoice(QWidget):
    """One of the three promises: its ring, its value, and what it comes to."""

    def __init__(self, stage: BudgetStage, kind: Kind, text: str, unit: str, tip: str) -> None:
        super().__init__(stage)
        self.kind = kind
        self.choice = Choice(text, self)
        self.field = ValueField(unit, self)
        self.field.setFixedWidth(72)
        self.field.setAccessibleName(text)
        self.caption = QLabel("")
        self.caption.setFont(theme.words(12))
        self.caption.setStyleSheet(f"color: {theme.INK2.name()}; margin-left: 24px")
        for widget in (self.choice, self.field):
            widget.setToolTip(tip)
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(self.choice)
        row.addWidget(self.field)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.caption)


class BudgetStage(QWidget):
    """Solve bar, sentence, charts."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.holds: dict[str, HoldChoice] = {}
        bar = QHBoxLayout()
        bar.setContentsMargins(16, 14, 16, 4)
        bar.setSpacing(20)
        head = QLabel("Hold")
        head.setFont(theme.words(14, 700))
        bar.addWidget(head, 0, Qt.AlignmentFlag.AlignTop)
        for kind, text, unit, tip in CHOICES:
            hold = HoldChoice(self, kind, text, unit, tip)
            hold.choice.clicked.connect(lambda _=False, k=kind: self._choose(k))
            hold.field.committed.connect(lambda words, k=kind: self._typed(k, words))
            self.holds[kind] = hold
            bar.addWidget(hold, 1)
        self.verdict = Verdict(self)
        self.samples_chart = SamplesChart(session, self)
        self.noise_chart = NoiseChart(session, self)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 8)
        column.setSpacing(0)
        column.addLayout(bar)
        column.addWidget(self.verdict)
        column.addWidget(self.samples_chart, 3)
        column.addWidget(self.noise_chart, 2)
        for signal in (session.plan_changed, session.planning, session.reel_changed, session.shot_changed):
            signal.connect(self.refresh)
        session.frame_changed.connect(self._frame)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)

    def _frame(self, frame: int) -> None:
        self.samples_chart.set_frame(frame)
        self.noise_chart.set_frame(frame)

    def refresh(self) -> None:
        """Show what is held and what it comes to."""
        plan = self._session.plan
        hold = self._session.shot.hold
        speed = self._session.reel.frame_speed
        for kind, row in self.holds.items():
            row.choice.setChecked(kind == hold.kind)
            row.field.set_dim(self._session.stale)
            value = hold.value if kind == hold.kind else None
            if value is None and plan is not None:
                value = self._now(plan, kind)
            row.field.show_value("" if value is None else self._text(kind, value, speed))
            row.caption.setText(self._caption(plan, kind, hold.kind, speed))
        if plan is None:
            lack = self._session.outlook.lacks.get(self._session.shot_id, "Reading the proofs …")
            self.verdict.say(lack, "none", False)
            self.samples_chart.show_plan(None)
            self.noise_chart.show_plan(None)
            return
        self.verdict.say(sentence(plan, speed), "fine" if plan.budget.solved else "over", self._session.stale)
        self.samples_chart.show_plan(plan)
        self.noise_chart.show_plan(plan)

    def _now(self, plan: ShotPlan, kind: str) -> float:
        """What another promise would have to say to come to the same as the plan does now."""
        return {"noise": float(plan.noise.max()), "total": plan.total_seconds, "cap": float(plan.seconds.max())}[kind]

    def _text(self, kind: str, value: float, speed: float) -> str:
        if kind == "noise":
            return f"{value:.4f}".rstrip("0")
        return f"{value / 3600 / speed:.2f}" if kind == "total" else f"{value:.1f}"

    def _caption(self, plan: ShotPlan | None, kind: str, held: str, speed: float) -> str:
        if plan is None:
            return ""
        if kind != held:
            return "As this plan has it now"
        if kind == "noise":
            return f"Takes {spoken(plan.total_seconds / speed)}"
        return f"Brings noise to {plan.noise.max():.4f}"

    def _choose(self, kind: Kind) -> None:
        plan = self._session.plan
        if plan is not None and kind != self._session.shot.hold.kind:
            # a whole number of steps above what the plan has now, so that the promise can be kept
            value = self._now(plan, kind)
            value = float(np.ceil(value * 1e4) / 1e4) if kind == "noise" else float(np.ceil(value))
            self._session.set_hold(Hold(kind=kind, value=value))
        self.refresh()

    def _typed(self, kind: Kind, text: str) -> None:
        try:
            value = read_number(text)
            assert value is not None and value > 0
        except (ValueError, AssertionError):
            self._session.said.emit(f"Hold: '{text}' is no number above 0.")
            return
        if kind == "total":
            value *= 3600 * self._session.reel.frame_speed
        self._session.set_hold(Hold(kind=kind, value=value))


class Verdict(QWidget):
    """The answer: a mark and a sentence with numbers in it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._text, self._kind, self._dim = "", "none", False
        self.setFixedHeight(44)

    def say(self, text: str, kind: str, dim: bool) -> None:
        """Say it; 'fine', 'over' or 'none' chooses the mark."""
        self._text, self._kind, self._dim = text, kind, dim
        self.setAccessibleName(text)
        self.setToolTip(text)
        self.update()

    @property
    def text(self) -> str:
        """What it says."""
        return self._text

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        y = self.height() / 2
        if self._kind == "fine":
            marks.ring(painter, theme.PLOT_LEFT + 9, y, theme.LAGOON, "tick", 8.5)
        elif self._kind == "over":
            marks.diamond(painter, theme.PLOT_LEFT + 9, y, radius=8.5)
        painter.setPen(theme.OFF if self._dim else theme.INK)
        left = theme.PLOT_LEFT + (28 if self._kind != "none" else 0)
        box = QRectF(left, 0, self.width() - left - 16, self.height())
        size = 20
        while size > 13:
            painter.setFont(theme.words(size, 700))
            if painter.fontMetrics().horizontalAdvance(self._text) <= box.width():
                break
            size -= 1
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, self._text)
        painter.setPen(theme.NEUTRAL_RULE)
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
