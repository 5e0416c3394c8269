"""The Brief: delivery on top, film band, shots and the chosen shot, the night band at the foot."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.brief.delivery import DeliveryBar
from hasty_reel.desk.stages.brief.filmband import FilmBand
from hasty_reel.desk.stages.brief.nightband import NightBand
from hasty_reel.desk.stages.brief.nights import FOOT, HEAD, LANE
from hasty_reel.desk.stages.brief.shotpane import ShotPane
from hasty_reel.desk.stages.brief.shots import HOURS_RIGHT, PLACE, ShotTable
from hasty_reel.desk.thumbs import Thumbnails
from hasty_reel.errors import HastyReelError
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits import added, added_machine, duplicated, removed, split

MOST_LANES = 5


class BriefStage(QWidget):
    """What is due, on which machines, by when."""

    def __init__(self, session: Session, thumbs: Thumbnails, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.delivery = DeliveryBar(session, self)
        self.film = FilmBand(session, self)
        self.table = ShotTable(session, thumbs, self)
        self.table.wanted.connect(self._wanted)
        self.pane = ShotPane(session, self)
        self.night = NightBand(session, self)
        self.buttons = {
            "new": PlainButton("New shot", self.new_shot, parent=self),
            "duplicate": PlainButton("Duplicate", self.duplicate, parent=self),
            "split": PlainButton("Split", self.split, parent=self),
            "remove": PlainButton("Remove", self.remove, parent=self),
        }
        tips = {
            "new": "A shot of a second behind this one",
            "duplicate": "A copy behind this shot; its proofs hold for both",
            "split": "Cut this shot before the playhead; its proofs hold for both parts",
            "remove": "Take this shot out (Delete); its proofs stay on disk",
        }
        row = QHBoxLayout()
        row.setContentsMargins(6, 4, 8, 4)
        row.setSpacing(2)
        for name, button in self.buttons.items():
            button.setToolTip(tips[name])
            row.addWidget(button)
        row.addStretch(1)
        middle = QVBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(Heads(self))
        middle.addWidget(self.table, 1)
        middle.addLayout(row)
        body = QHBoxLayout()
        body.setSpacing(0)
        body.addWidget(self.film)
        body.addLayout(middle, 1)
        body.addWidget(self.pane)
        self.verdict = QLabel("")
        self.verdict.setFont(theme.words(13))
        self.verdict.setStyleSheet(f"color: {theme.INK2.name()}")
        self.machine_button = PlainButton("Add machine", self.add_machine, parent=self)
        head = QHBoxLayout()
        head.setContentsMargins(16, 6, 13, 0)
        head.setSpacing(14)
        title = QLabel("Machines and nights")
        title.setFont(theme.words(14, 700))
        head.addWidget(title)
        head.addWidget(self.verdict, 1)
        head.addWidget(self.machine_button)
        self._lanes = QScrollArea(self)
        self._lanes.setWidgetResizable(True)
        self._lanes.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._lanes.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._lanes.setWidget(self.night)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.delivery)
        column.addLayout(body, 1)
        column.addWidget(Line(self))
        column.addLayout(head)
        column.addWidget(self._lanes)
        for signal in (session.reel_changed, session.plan_changed, session.shot_changed, session.frame_changed):
            signal.connect(self._refresh)
        self._refresh()

    def _refresh(self, *_: object) -> None:
        session = self._session
        lanes = min(MOST_LANES, len(session.reel.machines))
        self._lanes.setFixedHeight(round(HEAD + lanes * LANE + FOOT))
        shot, frame = self.pane.shot, session.frame
        can = shot.first < frame <= shot.last
        self.buttons["split"].setEnabled(can)
        self.buttons["split"].setText(f"Split before {frame}" if can else "Split")
        if not can:
            self.buttons["split"].setToolTip("Move the playhead to where the second part is to begin")
        self.buttons["remove"].setEnabled(len(session.reel.shots) > 1)
        self.verdict.setText(self._sentence())

    def _sentence(self) -> str:
        when = self._session.outlook.deadline
        if when is None or not self._session.outlook.plans:
            return "No plan yet: a proof of a shot tells what its frames take."
        work, room = when.work / 3600, when.allowed / 3600
        text = f"{work:.1f} h of work at speed 1; the free hours before the due time hold {room:.1f} h."
        if when.never:
            text += " They end before the work is done."
        if when.cost:
            text += f" Price {when.cost:.2f}."
        if when.missing:
            count = len(when.missing)
            text += f" {count} without a proof {'is' if count == 1 else 'are'} not counted."
        return text

    # -- edits of the list

    def _wanted(self, what: str) -> None:
        if what == "remove":
            self.remove()
        elif what == "name":
            self.pane.name.setFocus()

    def _then_show(self, name: str, change) -> None:
        made: list[str] = []

        def act(reel: Reel) -> Reel:
            new, shot_id = change(reel)
            made.append(shot_id)
            return new

        if self._session.do(name, act) and made:
            self._session.show_shot(made[0])

    def new_shot(self) -> None:
        """Put a new shot behind this one."""
        near = self.pane.shot.id
        self._then_show("New shot", lambda reel: added(reel, near))

    def duplicate(self) -> None:
        """Put a copy behind this shot."""
        shot_id = self.pane.shot.id
        self._then_show(f"Duplicate {shot_id}", lambda reel: duplicated(reel, shot_id))

    def split(self) -> None:
        """Cut this shot before the playhead."""
        shot_id, frame = self.pane.shot.id, self._session.frame
        self._then_show(f"Split {shot_id}", lambda reel: split(reel, shot_id, frame))
        self._session.show_frame(frame)

    def remove(self) -> None:
        """Take this shot out; the one behind it is looked at then."""
        shot_id = self.pane.shot.id
        ids = [s.id for s in self._session.reel.shots]
        k = ids.index(shot_id)
        if self._session.do(f"Remove {shot_id}", lambda reel: removed(reel, shot_id)):
            left = self._session.reel.shots
            self._session.show_shot(left[min(k, len(left) - 1)].id)

    def add_machine(self) -> None:
        """Put one machine more, and open its page."""
        try:
            self._session.edit("Add machine", added_machine(self._session.reel))
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self.night.open_machine(len(self._session.reel.machines) - 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)


class Heads(QWidget):
    """Names of the columns."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFixedHeight(22)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.words(11))
        painter.setPen(theme.INK3)
        align = Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(90, 0, 100, 22), align, "Shot")
        painter.drawText(QRectF(PLACE, 0, 220, 22), align, "Frames, place in the film")
        box = QRectF(self.width() - 212, 0, 200 + 12 - HOURS_RIGHT, 22)
        painter.drawText(box, align | Qt.AlignmentFlag.AlignRight, "Takes, recipe")
        painter.setPen(theme.NEUTRAL_RULE)
        painter.drawLine(0, 21, self.width(), 21)


class Line(QWidget):
    """The line above the night band."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFixedHeight(1)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.NEUTRAL_RULE)
