"""All of a machine, in a small page that opens at its lane."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.rows import caption
from hasty_reel.studio.brief.machine import MACHINE_LINES, MachineLine, remove_machine, type_machine_line
from hasty_reel.studio.session import Session


class MachinePage(QWidget):
    """Opens over the band, closes with Esc or a click beside it."""

    def __init__(self, session: Session, place: int, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self._session, self._place = session, place
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        grid = QGridLayout(self)
        grid.setContentsMargins(14, 12, 14, 12)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(5)
        self.fields: dict[str, ValueField] = {}
        for row, line in enumerate(MACHINE_LINES):
            field = ValueField(line.unit, self)
            field.setFixedWidth(300)
            field.setAlignment(Qt.AlignmentFlag.AlignLeft)
            field.setAccessibleName(line.label)
            field.setToolTip(line.meaning)
            field.committed.connect(lambda typed, n=line: self._typed(n, typed))
            grid.addWidget(caption(line.label), row, 0)
            grid.addWidget(field, row, 1)
            self.fields[line.field] = field
        self.fault = QLabel("")
        self.fault.setWordWrap(True)
        self.fault.setFixedWidth(380)
        self.fault.setFont(theme.words(12))
        self.fault.setStyleSheet(f"color: {theme.AMBER.name()}")
        self.fault.hide()
        grid.addWidget(self.fault, len(MACHINE_LINES), 0, 1, 2)
        remove = PlainButton("Remove machine", self._remove, parent=self)
        grid.addWidget(remove, len(MACHINE_LINES) + 1, 1, Qt.AlignmentFlag.AlignRight)
        self.measure = PlainButton("Measure this machine", lambda: session.machine_speed.measure_machine(place), parent=self)
        self.measure.setToolTip("If you sit at it: its speed against the proofs, and what its workers do together, in a few seconds")
        grid.addWidget(self.measure, len(MACHINE_LINES) + 1, 0, 1, 2, Qt.AlignmentFlag.AlignLeft)
        follow(self, session.reel_changed, self.refresh)
        follow(self, session.machine_speed.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what the reel says of it; a machine that is gone closes the page."""
        machines = self._session.reel.machines
        if self._place >= len(machines):
            self.close()
            return
        for line in MACHINE_LINES:
            self.fields[line.field].show_value(line.text(machines[self._place]))
        measuring = self._session.machine_speed.measuring
        self.measure.setEnabled(not measuring)
        self.measure.setText("Measuring …" if measuring else "Measure this machine")

    def _typed(self, line: MachineLine, text: str) -> None:
        self._say(type_machine_line(self._session, self._place, line, text))

    def _remove(self) -> None:
        fault = remove_machine(self._session, self._place)
        if fault:
            self._say(fault)
        else:
            self.close()

    def _say(self, fault: str) -> None:
        self.fault.setText(fault)
        self.fault.setVisible(bool(fault))
        self.adjustSize()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAGE)
        painter.setPen(theme.STRONG_RULE)
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
