"""Finish: the chain on a proof run, before and after, with what each step costs, what it is worth and where it harms."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.caption import Caption
from hasty_reel.desk.fields import Choice
from hasty_reel.desk.follow import follow, follow_shown
from hasty_reel.desk.stages.finish.chain import ChainCards
from hasty_reel.desk.stages.finish.picture import FinishPicture
from hasty_reel.desk.stages.finish.tries import TriesTable
from hasty_reel.studio.finish.chain import FinishChain
from hasty_reel.studio.finish.preview import MODES, FinishPreview
from hasty_reel.studio.finish.tries import FinishTries
from hasty_reel.studio.session import Session

SIDE = 376


class FinishStage(QWidget):
    """Picture at the left, chain and tries at the right, what it is worth above."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.preview, self._tries = FinishPreview(session), FinishTries(session)
        self.worth = QLabel("")
        self.worth.setWordWrap(True)
        self.worth.setFont(theme.words(17, 700))
        self.picture = FinishPicture(self.preview, self)
        self.modes: dict[str, Choice] = {}
        modes = QHBoxLayout()
        modes.setContentsMargins(16, 4, 16, 4)
        modes.setSpacing(14)
        for mode, words in MODES:
            choice = Choice(words, self)
            choice.clicked.connect(lambda _=False, m=mode: self.preview.show(m))
            self.modes[mode] = choice
            modes.addWidget(choice)
        modes.addStretch(1)
        self.caption = Caption(self)
        left = QVBoxLayout()
        left.setSpacing(0)
        left.addLayout(modes)
        left.addWidget(self.picture, 1)
        left.addWidget(self.caption)
        self.chain = FinishChain(session)
        self.cards = ChainCards(session, self.chain, self._tries)
        self.table = TriesTable(self._tries)
        head = QLabel("Tried on proof runs")
        head.setFont(theme.words(14, 700))
        head.setContentsMargins(14, 12, 0, 0)
        beside = QWidget()
        side = QVBoxLayout(beside)
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(0)
        side.addWidget(self.cards)
        side.addWidget(head)
        side.addWidget(self.table)
        side.addStretch(1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFixedWidth(SIDE)
        scroll.setWidget(beside)
        beside.setMaximumWidth(SIDE)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addLayout(left, 1)
        body.addWidget(scroll)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.worth)
        column.addLayout(body, 1)
        follow(self, self.preview.changed, self._show_picture)
        planner = session.planner
        follow_shown(self, (planner.plan_changed, planner.planning, session.reel_changed, session.playhead.shot_changed), self.refresh)
        self.refresh()
        self._show_picture()

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self.preview.watch(True)

    def hideEvent(self, event) -> None:
        super().hideEvent(event)
        self.preview.watch(False)

    def refresh(self) -> None:
        """Show what denoising is worth and what was tried."""
        stale = self._session.planner.stale
        words = self._tries.words or self._session.lack or "Reading the proofs …"
        self.worth.setText(words)
        self.worth.setStyleSheet(f"color: {(theme.OFF if stale else theme.INK).name()}; padding: 10px 16px 8px 12px")
        self.table.refresh(stale)

    def _show_picture(self) -> None:
        model = self.preview
        for mode, choice in self.modes.items():
            choice.setChecked(mode == model.mode)
        self.picture.refresh()
        if model.proof is None:
            self.caption.say("", "")
            return
        at = model.frames.index(model.frame) + 1
        proof = model.proof
        self.caption.say(
            ", ".join(x for x in (model.words, model.left_out) if x),
            f"frame {model.frame}, {at} of {len(model.frames)} of {proof.id}, {proof.size_words}, {proof.samples} samples",
        )
