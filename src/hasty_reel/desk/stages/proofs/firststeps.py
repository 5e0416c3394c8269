"""What to do first: prove a shot in two minutes, or render a rough pass of all frames to play; each with the time that it may take."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import caption
from hasty_reel.reel.durations import spoken
from hasty_reel.studio.proofs.giventime import GivenTime
from hasty_reel.studio.proofs.proveit import TIMES as PROVING
from hasty_reel.studio.proofs.roughpass import TIMES as PASSING
from hasty_reel.studio.session import Session


class FirstSteps(QWidget):
    """Two buttons with their times, and what is going on."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._prove, self._rough = session, session.prove_it, session.rough_pass
        self.prove = PlainButton("Prove it", self._toggle_proving, main=True, parent=self)
        self.prove.setToolTip(
            "Renders, one after another, what narrows the plan most in this time:\n"
            "a first look, a scan, noise at full size, a run for denoising"
        )
        self.prove_time, self.prove_pick = self._time("Minutes to prove it in", self._prove, PROVING)
        self.rough = PlainButton("Rough pass", self._rough.start, parent=self)
        self.rough_time, self.rough_pick = self._time("Minutes for a rough pass", self._rough, PASSING)
        self.words = QLabel("", self)
        self.words.setFont(theme.words(12))
        self.words.setWordWrap(True)
        self.words.setStyleSheet(f"color: {theme.INK2.name()}")
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 8, 13, 0)
        row.setSpacing(6)
        for widget in (self.prove, caption("in"), self.prove_time, self.prove_pick):
            row.addWidget(widget)
        row.addSpacing(12)
        for widget in (self.rough, caption("in"), self.rough_time, self.rough_pick):
            row.addWidget(widget)
        row.addSpacing(12)
        row.addWidget(self.words, 1)
        for signal in (self._prove.changed, self._rough.changed, session.planner.plan_changed, session.proofs.changed):
            follow(self, signal, self.refresh)
        self.refresh()

    def _time(self, name: str, model: GivenTime, offered: tuple[float, ...]) -> tuple[ValueField, PickButton]:
        field = ValueField("min", self)
        field.setFixedWidth(64)
        field.setAccessibleName(name)
        field.committed.connect(model.type_time)
        pick = PickButton(lambda: choice_menu(self, [(t, spoken(t)) for t in offered], model.seconds, model.give), self)
        pick.setAccessibleName(f"Usual: {name.lower()}")
        pick.show_value("")
        return field, pick

    def _toggle_proving(self) -> None:
        if self._prove.running:
            self._prove.stop()
        else:
            self._prove.start()

    def refresh(self) -> None:
        """Show what is asked for, and what is going on."""
        prove, rough, busy = self._prove, self._rough, self._session.proofs.busy
        self.prove.setText("Stop" if prove.running else "Prove it")
        self.prove.setEnabled(prove.running or not busy)
        self.prove.set_main(prove.wanted)
        self.rough.setEnabled(not prove.running)
        self.prove_time.show_value(f"{prove.seconds / 60:g}")
        self.rough_time.show_value(f"{rough.seconds / 60:g}")
        self.rough.setToolTip(f"Every frame small and quick, played as they come: {rough.order_words}")
        self.words.setText(prove.words if prove.running or prove.words else f"Rough pass: {rough.order_words}")
