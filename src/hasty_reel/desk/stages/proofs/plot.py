"""Seconds against unrest: each proof a point, the best trade-offs joined, a point picked."""

from __future__ import annotations

from typing import Literal

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import Choice, PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.plotting import pg
from hasty_reel.evidence.sheet import Card, best, unrest_of
from hasty_reel.studio.session import Session

NEAR = 14.0
Unrest = Literal["noise", "seen flicker"]


class TradeOffs(QWidget):
    """The plot, the choice of what unrest means, and the button that takes a point's settings over."""

    picked = Signal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._unrest: Unrest = "noise"
        self._cards: list[Card] = []
        self._picked: str | None = None
        self._stale = False
        self.choices = {name: Choice(text, self) for name, text in (("noise", "Noise"), ("seen flicker", "Seen flicker"))}
        row = QHBoxLayout()
        row.setContentsMargins(12, 6, 8, 2)
        for name, choice in self.choices.items():
            choice.clicked.connect(lambda _=False, n=name: self.set_unrest(n))
            row.addWidget(choice)
        row.addStretch(1)
        self.use = PlainButton("Use these settings", self._use, parent=self)
        row.addWidget(self.use)
        self.plot = pg.PlotWidget(background=theme.MAT)
        self.plot.setMenuEnabled(False)
        self.plot.hideButtons()
        self.plot.setMouseEnabled(x=False, y=False)
        self.plot.setAccessibleName("Seconds against unrest")
        item = self.plot.getPlotItem()
        for name in ("left", "bottom"):
            axis = item.getAxis(name)
            axis.setStyle(tickFont=theme.figures(11))
            axis.setPen(pg.mkPen(theme.MAT_RULE))
            axis.setTextPen(theme.MAT_INK3)
            axis.enableAutoSIPrefix(False)
        item.showGrid(x=True, y=True, alpha=0.08)
        self.line = pg.PlotCurveItem(pen=pg.mkPen(theme.MAT_INK2, width=1.5))
        # one item for each style: with a style of its own for each point thousands of them take seconds
        self.others = pg.ScatterPlotItem(size=9, symbol="x", pen=pg.mkPen(theme.MAT_INK3, width=1.5), brush=pg.mkBrush(theme.MAT))
        self.points = pg.ScatterPlotItem(size=9, symbol="o", pen=pg.mkPen(theme.MAT_INK, width=1.5), brush=pg.mkBrush(theme.MAT))
        self.chosen = pg.ScatterPlotItem(size=13, symbol="o", pen=pg.mkPen(theme.MAT_INK, width=1.5), brush=pg.mkBrush(theme.MAT_INK))
        for drawn in (self.line, self.others, self.points, self.chosen):
            item.addItem(drawn)
        self.label = pg.TextItem(color=theme.MAT_INK, anchor=(0, 1))
        self.label.setFont(theme.words(12, 600))
        item.addItem(self.label, ignoreBounds=True)
        self.plot.scene().sigMouseClicked.connect(self._clicked)
        self.words = QLabel("")
        self.words.setWordWrap(True)
        self.words.setFont(theme.words(12))
        self.words.setStyleSheet(f"color: {theme.MAT_INK2.name()}")
        self.words.setContentsMargins(12, 4, 12, 8)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.plot, 1)
        column.addWidget(self.words)
        for signal in (session.cards.changed, session.planner.evidence_changed, session.playhead.shot_changed):
            follow(self, signal, self.changed)
        self.refresh()

    def set_unrest(self, name: Unrest) -> None:
        """Plot noise in L*, or seen flicker in JND."""
        self._unrest = name
        self.refresh()

    def changed(self) -> None:
        """Other proofs are at hand: they are drawn now, or when the plot is looked at."""
        self._stale = True
        if self.isVisible():
            self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._stale:
            self.refresh()

    def refresh(self) -> None:
        """Draw the proofs at hand."""
        self._stale = False
        for name, choice in self.choices.items():
            choice.setChecked(name == self._unrest)
        found = [c for c in self._session.cards.all if c.is_looked_at and not c.mark.away]
        cards = [c for c in found if np.isfinite(c.seconds) and np.isfinite(unrest_of(c, self._unrest))]
        self._cards = cards
        front = best(cards, self._unrest)
        names = {c.proof.id for c in front}
        unit = "L*" if self._unrest == "noise" else "JND"
        style = {"color": theme.MAT_INK2.name(), "font-size": "12px"}
        self.plot.setLabel("bottom", "seconds a picture", **style)
        self.plot.setLabel("left", f"{self._unrest}, {unit}", **style)
        self.line.setData([c.seconds for c in front], [unrest_of(c, self._unrest) for c in front])
        for drawn, those in (
            (self.others, [c for c in cards if c.proof.id not in names]),
            (self.points, front),
            (self.chosen, [c for c in cards if c.proof.id == self._picked]),
        ):
            drawn.setData([c.seconds for c in those], [unrest_of(c, self._unrest) for c in those])
        if cards:
            top = max(unrest_of(c, self._unrest) for c in cards)
            self.plot.setYRange(0, top * 1.12, padding=0)
            self.plot.setXRange(0, max(c.seconds for c in cards) * 1.12, padding=0)
        self._say(front)

    def _say(self, front: list[Card]) -> None:
        card = next((c for c in self._cards if c.proof.id == self._picked), None)
        self.label.setText("")
        self.use.setEnabled(card is not None and not card.proof.draft)
        if card is not None:
            self.label.setText(card.proof.id)
            self.label.setPos(card.seconds, unrest_of(card, self._unrest))
            changed = ", ".join(card.changes) or "nothing changed"
            against = f" Against {card.parent}: {changed}." if card.parent else ""
            draft = " It was made under a draft cut: its settings are not for delivery." if card.proof.draft else ""
            self.words.setText(f"{card.proof.id}: {card.seconds:.2f} s, {unrest_of(card, self._unrest):.2f}.{against}{draft}")
        elif front:
            self.words.setText(
                f"{len(front)} of {len(self._cards)} proofs are best trade-offs: none is both quicker and calmer. Click one."
            )
        else:
            self.words.setText("No proof with two seeds yet: render one, and it stands here.")

    def _clicked(self, event) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        view = self.plot.getPlotItem().vb
        place = event.scenePos()
        near = None
        for card in self._cards:
            at = view.mapViewToScene(QPointF(card.seconds, unrest_of(card, self._unrest)))
            off = np.hypot(at.x() - place.x(), at.y() - place.y())
            if off <= NEAR and (near is None or off < near[0]):
                near = (off, card.proof.id)
        if near is not None:
            self.pick(near[1])

    def pick(self, proof_id: str) -> None:
        """Pick the point of a proof."""
        self._picked = proof_id
        self.refresh()
        self.picked.emit(proof_id)

    def _use(self) -> None:
        card = next((c for c in self._cards if c.proof.id == self._picked), None)
        if card is not None:
            self._session.use_settings(card.proof)
