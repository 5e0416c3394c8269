"""The held-back check as one small plot with its sentence, and the next best proof with a button that makes it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.plan.heldback import HeldBack
from hasty_reel.studio.session import Session

ROWS = (("seconds", "seconds"), ("noise", "noise"), ("seen", "seen flicker"))
ROW, HEAD, FOOT = 20, 4, 20
HOW = "Each proof frame and each run was left out in turn, and predicted from the rest."
EDGE = 0.4
"""Error at the ends of the axis; what is further off stands at the end, hollow."""


class HeldPlot(QWidget):
    """Predicted over measured, a mark for each held-back frame: one line each for seconds, noise and seen flicker."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._held = HeldBack()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFixedHeight(HEAD + ROW * len(ROWS) + FOOT)
        self.setMinimumWidth(260)

    def sizeHint(self) -> QSize:
        return QSize(400, self.height())

    def show_held(self, held: HeldBack) -> None:
        """Draw a check."""
        self._held = held
        self.setAccessibleName(held.words or "nothing held back")
        self.setToolTip(
            "\n".join(_line(f) for f in held.frames[:24]) or "Each proof and each run, left out in turn and predicted from the rest."
        )
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, right = 92.0, self.width() - 14.0

        def x_of(ratio: float) -> float:
            share = np.clip(np.log(ratio) / np.log1p(EDGE), -1.0, 1.0)
            return left + (right - left) * 0.5 * (1.0 + float(share))

        painter.fillRect(QRectF(x_of(0.9), HEAD, x_of(1.1) - x_of(0.9), ROW * len(ROWS)), theme.MAT_RULE)
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK3)
        for ratio, text in ((1 / (1 + EDGE), "−29 %"), (0.9, "−10"), (1.0, "as measured"), (1.1, "+10"), (1 + EDGE, "+40 %")):
            x = x_of(ratio)
            align = Qt.AlignmentFlag.AlignHCenter
            box = QRectF(x - 50, HEAD + ROW * len(ROWS) + 2, 100, 16)
            if ratio in (0.9, 1.1) and right - left < 420:
                continue
            if ratio < 0.85:
                box, align = QRectF(left - 20, box.y(), 100, 16), Qt.AlignmentFlag.AlignLeft
            elif ratio > 1.2:
                box, align = QRectF(right - 86, box.y(), 100, 16), Qt.AlignmentFlag.AlignRight
            painter.drawText(box, align | Qt.AlignmentFlag.AlignVCenter, text)
        painter.setPen(QPen(theme.INK2, 1))
        painter.drawLine(QPointF(x_of(1.0), HEAD), QPointF(x_of(1.0), HEAD + ROW * len(ROWS)))
        for k, (name, words) in enumerate(ROWS):
            y = HEAD + ROW * (k + 0.5)
            painter.setPen(theme.INK2)
            painter.drawText(QRectF(0, y - 9, left - 22, 18), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
            for frame in self._held.frames:
                ratio = getattr(frame, name)
                if not np.isfinite(ratio) or ratio <= 0:
                    continue
                off = abs(np.log(ratio)) > np.log1p(EDGE)
                poor = name == "seconds" and not frame.inside
                painter.setPen(QPen(theme.CORAL if poor else theme.LAGOON, 1.4))
                painter.setBrush(Qt.BrushStyle.NoBrush if off or poor else theme.LAGOON)
                at = QPointF(x_of(ratio), y)
                if frame.run:
                    painter.drawRect(QRectF(at.x() - 2.5, at.y() - 2.5, 5, 5))
                else:
                    painter.drawEllipse(at, 3.2, 3.2)


def _line(frame) -> str:
    parts = [f"{words} {100 * (getattr(frame, name) - 1):+.0f} %" for name, words in ROWS if np.isfinite(getattr(frame, name))]
    return f"Frame {frame.frame:g}{' of a run' if frame.run else ''}: {', '.join(parts)}".replace("-", "−")


class TrustBar(QWidget):
    """Plot, sentence, and the next best proof; beside each other, or below each other where there is little room."""

    def __init__(self, session: Session, beside: bool, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model, self._speed = session.trust, session.machine_speed
        self.plot = HeldPlot(self)
        self.words = QLabel("")
        self.words.setWordWrap(True)
        self.words.setFont(theme.words(13, 600))
        self.words.setStyleSheet(f"color: {theme.INK.name()}")
        self.words.setToolTip(
            "Each proof and each run was left out in turn and predicted from the others, by the same model as the plan.\n"
            "Round: single frames. Square: frames of a run. Hollow: seconds outside of the nine-in-ten band."
        )
        self.next = QLabel("")
        self.next.setWordWrap(True)
        self.next.setFont(theme.words(13))
        self.next.setStyleSheet(f"color: {theme.INK2.name()}")
        self.button = PlainButton("Render it", self._model.order_next, parent=self)
        self.button.setToolTip("Put the next best proof into the queue")
        self.measure = PlainButton("Measure this machine", session.machine_speed.measure, parent=self)
        self.measure.setToolTip("Two seconds of work tell whether it is slower or faster now than when the proofs were made")
        line = QHBoxLayout()
        line.setSpacing(10)
        line.addWidget(self.next, 1)
        line.addWidget(self.button, 0, Qt.AlignmentFlag.AlignTop)
        line.addWidget(self.measure, 0, Qt.AlignmentFlag.AlignTop)
        told = QVBoxLayout()
        told.setSpacing(4)
        told.addWidget(self.words)
        told.addLayout(line)
        if beside:
            told.addStretch(1)
        row = QHBoxLayout(self) if beside else QVBoxLayout(self)
        row.setContentsMargins(16 if beside else 12, 4, 16 if beside else 10, 4)
        row.setSpacing(20 if beside else 2)
        row.addWidget(self.plot, 1)
        row.addLayout(told, 1)
        follow(self, self._model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what is known."""
        found = self._model.known
        self.plot.show_held(found.held)
        self.words.setText(" ".join(w for w in (self._model.words, found.held.mend) if w))
        self.next.setText(HOW if found.next is None else f"Next best proof: {found.next.words}.")
        self.button.setVisible(found.next is not None)
        speed = self._speed
        self.measure.setVisible(speed.quiet > 0 and not speed.words)
