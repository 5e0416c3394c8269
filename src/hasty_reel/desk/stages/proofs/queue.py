"""The queue of proofs: what is rendered, what waits, what became of the rest."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.rows import discard
from hasty_reel.desk.session import Session
from hasty_reel.farm.queue import CANCELLED, DONE, FAILED, RENDERING, WAITING, Entry, ProofQueue
from hasty_reel.farm.sweeps import swept_words
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import proof_frames_text

MOST_SHOWN = 60


def entry_words(entry: Entry) -> tuple[str, str]:
    """An entry in two lines."""
    order = entry.order
    frames = proof_frames_text(order.frames)
    frames = frames if len(frames) <= 28 else f"{len(order.frames)} frames, {order.frames[0]}–{order.frames[-1]}"
    head = f"{order.shot.id}  {frames}, {order.samples} samples, {order.scale:g} %"
    if order.sweep:
        head = f"{order.shot.id}  {swept_words(order)} · {frames}, {order.samples} samples, {order.scale:g} %"
    left = entry.seconds_left
    about = "" if left is None else f", about {spoken(left)} left"
    takes = "" if left is None else f", takes about {spoken(left)}"
    going = f"{100 * entry.share:.0f} %{about}, {entry.words}" if entry.share or not entry.words else entry.words
    tail = {WAITING: f"waits{takes}", RENDERING: going, DONE: f"done as {entry.proof}. {entry.words}".strip()}
    return head, tail.get(entry.state, entry.words or entry.state)


def queue_words(queue: ProofQueue) -> str:
    """How long the queue still takes; '' where there is nothing to do or it is not known."""
    left = queue.seconds_left
    if left is None or not (queue.waiting or queue.rendering is not None):
        return ""
    return "held" if queue.paused else f"about {spoken(left)} left"


class QueueRow(QWidget):
    """One entry with what can be done with it."""

    def __init__(self, page: QueuePage, entry: Entry) -> None:
        super().__init__(page)
        self.entry = entry
        self.setFixedHeight(46)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 8, 0)
        row.setSpacing(0)
        row.addStretch(1)
        self.buttons = []
        for text, tip, act in (
            ("↑", "Earlier", lambda: page.move_entry(entry, -1)),
            ("↓", "Later", lambda: page.move_entry(entry, 1)),
            ("✕", "Cancel", lambda: page.cancel(entry)),
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
        self.pause_button = PlainButton("Hold", self.toggle, parent=self)
        self.pause_button.setToolTip("The picture under way is finished, then nothing more begins")
        self.clear_button = PlainButton("Clear ended", self._clear, parent=self)
        self.cancel_button = PlainButton("Cancel all", session.queue.cancel_all, parent=self)
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
        session.queue_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the queue as it stands."""
        queue = self._session.queue
        entries = queue.entries[-MOST_SHOWN:]
        if [r.entry.number for r in self.rows] != [e.number for e in entries]:
            for row in self.rows:
                self._column.removeWidget(row)
                discard(row)
            self.rows = [QueueRow(self, e) for e in entries]
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

    def toggle(self) -> None:
        """Hold the queue, or go on."""
        queue = self._session.queue
        queue.resume() if queue.paused else queue.pause()
        self._session.queue_changed.emit()

    def _clear(self) -> None:
        self._session.queue.clear_ended()
        self._session.queue_changed.emit()

    def move_entry(self, entry: Entry, way: int) -> None:
        """Move an entry."""
        self._session.queue.move(entry.number, way)
        self._session.queue_changed.emit()

    def cancel(self, entry: Entry) -> None:
        """Cancel an entry."""
        self._session.queue.cancel(entry.number)
        self._session.queue_changed.emit()
