"""All of a machine, in a small page that opens at its lane."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, ValueField
from hasty_reel.desk.rows import caption
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.brief.delivery import whole_number
from hasty_reel.desk.stages.brief.framing import number
from hasty_reel.errors import HastyReelError
from hasty_reel.reel.edits import removed_machine, with_machine
from hasty_reel.reel.hours import hours_text, read_hours

ROWS: tuple[tuple[str, str, str, Callable[[str], Any], str], ...] = (
    ("name", "Name", "", str.strip, "Its name"),
    ("speed", "Speed", "", lambda t: number(t, "Speed"), "Against the machine the proofs were rendered on: 2 halves the seconds"),
    ("workers", "Workers", "frames", lambda t: whole_number(t, "Workers"), "Frames it renders at the same time, each at its full speed"),
    ("zone", "Time zone", "", str.strip, "Of its free hours, a name of the tz database: UTC, Europe/Oslo …"),
    ("free", "Free", "", read_hours, "weeknights 19:00-08:00, weekends · mon+wed 20:00-06:00 · 2026-11-25T19:00/2026-11-26T08:00 · always"),
    ("price_per_hour", "Price", "an hour", lambda t: number(t, "Price"), "Of an hour of it, in your money; 0 for none"),
)


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
        for row, (name, text, unit, read, tip) in enumerate(ROWS):
            field = ValueField(unit, self)
            field.setFixedWidth(300)
            field.setAlignment(Qt.AlignmentFlag.AlignLeft)
            field.setAccessibleName(text)
            field.setToolTip(tip)
            field.committed.connect(lambda typed, n=name, r=read: self._typed(n, r, typed))
            grid.addWidget(caption(text), row, 0)
            grid.addWidget(field, row, 1)
            self.fields[name] = field
        self.fault = QLabel("")
        self.fault.setWordWrap(True)
        self.fault.setFixedWidth(380)
        self.fault.setFont(theme.words(12))
        self.fault.setStyleSheet(f"color: {theme.AMBER.name()}")
        self.fault.hide()
        grid.addWidget(self.fault, len(ROWS), 0, 1, 2)
        remove = PlainButton("Remove machine", self._remove, parent=self)
        grid.addWidget(remove, len(ROWS) + 1, 1, Qt.AlignmentFlag.AlignRight)
        session.reel_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what the reel says of it; a machine that is gone closes the page."""
        machines = self._session.reel.machines
        if self._place >= len(machines):
            self.close()
            return
        machine = machines[self._place]
        for name, field in self.fields.items():
            value = getattr(machine, name)
            field.show_value(hours_text(value) if name == "free" else f"{value:g}" if isinstance(value, float) else str(value))

    def _typed(self, name: str, read: Callable[[str], Any], text: str) -> None:
        try:
            reel = with_machine(self._session.reel, self._place, **{name: read(text)})
        except HastyReelError as error:
            self.fault.setText(str(error))
            self.fault.show()
            self.adjustSize()
            return
        self.fault.hide()
        words = {"free": "free hours", "price_per_hour": "price", "zone": "time zone"}.get(name, name)
        self._session.edit(f"Set {words} of {self._session.reel.machines[self._place].name}", reel)

    def _remove(self) -> None:
        name = self._session.reel.machines[self._place].name
        try:
            reel = removed_machine(self._session.reel, self._place)
        except HastyReelError as error:
            self.fault.setText(str(error))
            self.fault.show()
            self.adjustSize()
            return
        self.close()
        self._session.edit(f"Remove machine {name}", reel)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAGE)
        painter.setPen(theme.STRONG_RULE)
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
