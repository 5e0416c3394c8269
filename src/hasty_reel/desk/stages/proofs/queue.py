"""The queue of proofs: what is rendered, what waits, what became of the rest."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.rows import discard
from hasty_reel.farm.queue import CANCELLED, DONE, FAILED, RENDERING, WAITING, Entry
from hasty_reel.studio.proofs.queue import ProofWork
from hasty_reel.studio.proofs.queuewords import entry_words, queue_words
from hasty_reel.studio.session import Session

MOST_SHOWN = 60


class QueueRow(QWidget):
    """One entry with what can be done with it."""

    def __init__(self, work: ProofWork, entry: Entry, parent: QWidget) -> None:
        super().__init__(parent)
        self.entry = entry
        self.setFixedHeight(46)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 8, 0)
        row.setSpacing(0)
        row.addStretch(1)
        self.buttons = []
        for text, tip, act in (
            ("↑", "Earlier", lambda: work.move(entry, -1)),
            ("↓", "Later", lambda: work.move(entry, 1)),
            ("✕", "Cancel", lambda: work.cancel(entry)),
        ):
            button = PlainButton(text, act, parent=self)
            button.setFixedSize(28, 24)
            button.setToolTip(tip)
            button.setAccessibleName(f"{tip}: proof {entry.number}")
            row.addWidget(button)
            self.buttons.append(button)
        self.refresh()

    def refresh(self) -> None:
        """Show its state."""
        for button in self.buttons[:2]:
            button.setVisible(self.entry.state == WAITING)
        self.buttons[2].setVisible(not self.entry.ended)
        self.setToolTip("\n".join(f"Frame {f}: {w}" for f, w in self.entry.faults.items()) or entry_words(self.entry)[1])
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        entry = self.entry
        y = self.height() / 2
        if entry.state == DONE and not entry.faults:
            marks.ring(painter, 20, y, theme.MAT_INK2, "tick", 6.5)
        elif entry.state == RENDERING:
            marks.ring(painter, 20, y, theme.MAT_INK, "dot", 6.5)
        elif entry.state in (FAILED,) or entry.faults:
            marks.triangle(painter, 20, y, theme.MAT_INK2, 7)
        else:
            marks.ring(painter, 20, y, theme.NEUTRAL_STRONG, "empty", 6.5)
        width = self.width() - 40 - sum(28 for b in self.buttons if b.isVisible()) - 16
        head, tail = entry_words(entry)
        for top, text, font, ink in ((5, head, theme.words(13, 600), theme.MAT_INK), (23, tail, theme.words(12), theme.MAT_INK2)):
            painter.setFont(font)
            painter.setPen(ink if entry.state != CANCELLED else theme.NEUTRAL_STRONG)
            painter.drawText(
                QRectF(38, top, width, 18),
                Qt.AlignmentFlag.AlignVCenter,
                QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideRight, int(width)),
            )
        painter.setPen(theme.MAT_RULE)
        painter.drawLine(10, self.height() - 1, self.width() - 10, self.height() - 1)


class QueuePage(QWidget):
    """The entries, and the buttons for all of them."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.rows: list[QueueRow] = []
        self.pause_button = PlainButton("Hold", session.proofs.toggle, parent=self)
        self.pause_button.setToolTip("The picture under way is finished, then nothing more begins")
        self.clear_button = PlainButton("Clear ended", session.proofs.clear_ended, parent=self)
        self.cancel_button = PlainButton("Cancel all", session.proofs.cancel_all, parent=self)
        head = QHBoxLayout()
        head.setContentsMargins(8, 4, 8, 4)
        for button in (self.pause_button, self.cancel_button, self.clear_button):
            head.addWidget(button)
        head.addStretch(1)
        self.left = QLabel("")
        self.left.setFont(theme.words(12))
        self.left.setStyleSheet(f"color: {theme.MAT_INK2.name()}")
        head.addWidget(self.left)
        self._page = QWidget()
        self._page.setObjectName("queue")
        self._page.setStyleSheet(f"#queue {{ background: {theme.MAT.name()}; }}")
        self._column = QVBoxLayout(self._page)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self._column.addStretch(1)
        scroll = QScrollArea(self)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self._page)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(head)
        column.addWidget(scroll, 1)
        follow(self, session.proofs.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the queue as it stands."""
        queue = self._session.proofs.queue
        entries = queue.entries[-MOST_SHOWN:]
        if [r.entry.number for r in self.rows] != [e.number for e in entries]:
            for row in self.rows:
                self._column.removeWidget(row)
                discard(row)
            self.rows = [QueueRow(self._session.proofs, e, self) for e in entries]
            for k, row in enumerate(self.rows):
                self._column.insertWidget(k, row)
        for row in self.rows:
            row.refresh()
        busy = queue.waiting or queue.rendering is not None
        self.left.setText(queue_words(queue))
        self.pause_button.setText("Go on" if queue.paused else "Hold")
        self.pause_button.setEnabled(busy or queue.paused)
        self.cancel_button.setEnabled(busy)
        self.clear_button.setEnabled(any(e.ended for e in entries))
