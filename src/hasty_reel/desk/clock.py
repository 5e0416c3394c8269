"""The deadline clock: when the frames will be ready, how sure that is, and when they are due."""

from __future__ import annotations

from datetime import datetime

from PySide6.QtCore import QDateTime, QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QDateTimeEdit, QDialog, QDialogButtonBox, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.follow import follow
from hasty_reel.reel.durations import spoken
from hasty_reel.studio.session import Session
from hasty_reel.studio.standing import clock_text, deadline_words


class DueDialog(QDialog):
    """Asks for the due time."""

    def __init__(self, due: datetime, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Due time")
        self.field = QDateTimeEdit(QDateTime.fromSecsSinceEpoch(int(due.timestamp())))
        self.field.setDisplayFormat("ddd d MMM yyyy HH:mm")
        self.field.setCalendarPopup(True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(QLabel("All frames must be ready by"))
        column.addWidget(self.field)
        column.addWidget(buttons)

    @property
    def due(self) -> datetime:
        """The time chosen, with this machine's zone."""
        return datetime.fromtimestamp(self.field.dateTime().toSecsSinceEpoch()).astimezone()


class DeadlineClock(QWidget):
    """Ready and due on one line, a bar under it, and what is spare or late."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setFixedHeight(theme.HEADER_HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Deadline clock")
        for signal in (session.planner.plan_changed, session.reel_changed, session.planner.planning):
            follow(self, signal, self.refresh)

    def refresh(self) -> None:
        """Say it in words too, and draw."""
        self.setToolTip(self.sentence() + "\nClick to set the due time.")
        self.setAccessibleDescription(self.sentence())
        self.update()

    def sentence(self) -> str:
        """What the clock says, in one sentence."""
        return deadline_words(self._session.planner.outlook)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.ask()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.ask()
        else:
            super().keyPressEvent(event)

    def ask(self) -> None:
        """Ask for another due time."""
        dialog = DueDialog(self._session.reel.due_time, self)
        dialog.accepted.connect(lambda: self._session.set_due(dialog.due))
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAGE)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        left, right = 16.0, self.width() - 16.0
        d = self._session.planner.outlook.deadline
        painter.setFont(theme.words(14, 700))
        if d is None or not self._session.planner.outlook.plans:
            painter.setPen(theme.INK2)
            text = "No plan yet: render a proof"
            if d is None:
                text = "Playing the machines through …" if self._session.planner.outlook.plans else "Reading the proofs …"
            painter.drawText(QRectF(left, 6, right - left, 20), Qt.AlignmentFlag.AlignVCenter, text)
        else:
            self._paint_times(painter, left, right)
        painter.setPen(theme.RULE)
        painter.drawLine(16, self.height() - 1, self.width() - 16, self.height() - 1)
        if self.hasFocus():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(6, 2, -6, -3), 3, 3)

    def _paint_times(self, painter: QPainter, left: float, right: float) -> None:
        d = self._session.planner.outlook.deadline
        assert d is not None
        now, late = d.start, d.spare_seconds < 0
        ink = theme.OFF if self._session.planner.stale else theme.INK
        painter.setPen(ink)
        line = QRectF(left, 3, right - left, 20)
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, f"Ready {clock_text(d.ready, now)}")
        painter.setFont(theme.words(14, 500))
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, f"Due {clock_text(d.due, now)}")
        allowed = max(1.0, (d.due - now).total_seconds())
        whole = max(allowed, d.seconds9) * 1.06
        y, height = 28.0, 6.0

        def at(seconds: float) -> float:
            return left + (right - left) * min(1.0, max(0.0, seconds) / whole)

        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.INK2)
        painter.drawRect(QRectF(left, y, at(d.seconds5) - left, height))
        painter.setBrush(theme.hatch(theme.INK2, 5, 1.4))
        painter.drawRect(QRectF(at(d.seconds5), y, at(d.seconds9) - at(d.seconds5), height))
        painter.setPen(QPen(theme.CORAL if late else theme.LAGOON, 1))
        painter.drawLine(QPointF(at(d.seconds9), y + height / 2), QPointF(at(allowed), y + height / 2))
        painter.setPen(QPen(theme.INK, 1.5))
        painter.drawLine(QPointF(at(d.seconds9), y - 2), QPointF(at(d.seconds9), y + height + 2))
        x = at(allowed)
        painter.drawLine(QPointF(x, y - 4), QPointF(x, y + height + 2))
        painter.setBrush(theme.INK)
        painter.drawPolygon(QPolygonF([QPointF(x, y - 5), QPointF(x - 7, y - 5), QPointF(x - 7, y), QPointF(x, y)]))
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK2)
        foot = QRectF(left, 36, right - left, 17)
        painter.drawText(foot, Qt.AlignmentFlag.AlignVCenter, d.how_sure)
        words = f"{spoken(abs(d.spare_seconds))} {'late' if late else 'spare'}"
        painter.setFont(theme.words(13, 700))
        painter.setPen(theme.OFF if self._session.planner.stale else theme.CORAL if late else theme.LAGOON)
        painter.drawText(foot, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, words)
        mark_x = right - painter.fontMetrics().horizontalAdvance(words) - 12
        if late:
            marks.diamond(painter, mark_x, foot.center().y())
        else:
            marks.ring(painter, mark_x, foot.center().y(), theme.LAGOON, "tick", 5.5)
