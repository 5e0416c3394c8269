"""The Brief: delivery on top, film band, shots and the chosen shot, the night band at the foot."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.stages.brief.delivery import DeliveryBar
from hasty_reel.desk.stages.brief.filmband import FilmBand
from hasty_reel.desk.stages.brief.nightband import NightBand
from hasty_reel.desk.stages.brief.shotpane import ShotPane
from hasty_reel.desk.stages.brief.shots import HOURS_RIGHT, PLACE, ShotTable
from hasty_reel.desk.standing import StageSentence
from hasty_reel.studio.brief.nights import FOOT, HEAD, LANE
from hasty_reel.studio.brief.shotlist import ShotListModel
from hasty_reel.studio.brief.shottext import room_sentence
from hasty_reel.studio.session import Session
from hasty_reel.studio.standing import brief_words

MOST_LANES = 5


class BriefStage(QWidget):
    """What is due, on which machines, by when."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._shots = session, ShotListModel(session)
        self.sentence = StageSentence(session, brief_words, (), self)
        self.delivery = DeliveryBar(session, self)
        self.film = FilmBand(session, self)
        self.table = ShotTable(session, self)
        self.table.wanted.connect(self._wanted)
        self.pane = ShotPane(session, self)
        self.night = NightBand(session, self)
        self.buttons = {
            "new": PlainButton("New shot", self._shots.new, parent=self),
            "duplicate": PlainButton("Duplicate", self._shots.duplicate, parent=self),
            "split": PlainButton("Split", self._shots.split, parent=self),
            "remove": PlainButton("Remove", self._shots.remove, parent=self),
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
        column.addWidget(self.sentence)
        column.addWidget(self.delivery)
        column.addLayout(body, 1)
        column.addWidget(Rule(self))
        column.addLayout(head)
        column.addWidget(self._lanes)
        for signal in (session.reel_changed, session.planner.plan_changed, session.playhead.shot_changed, session.playhead.frame_changed):
            follow(self, signal, self._refresh)
        self._refresh()

    def _refresh(self, *_: object) -> None:
        session = self._session
        lanes = min(MOST_LANES, len(session.reel.machines))
        self._lanes.setFixedHeight(round(HEAD + lanes * LANE + FOOT))
        frame, can = session.playhead.frame, self._shots.may_split
        self.buttons["split"].setEnabled(can)
        self.buttons["split"].setText(f"Split before {frame}" if can else "Split")
        if not can:
            self.buttons["split"].setToolTip("Move the playhead to where the second part is to begin")
        self.buttons["remove"].setEnabled(len(session.reel.shots) > 1)
        self.verdict.setText(room_sentence(session.planner.outlook))

    # -- edits of the list

    def _wanted(self, what: str) -> None:
        if what == "remove":
            self._shots.remove()
        elif what == "name":
            self.pane.name.setFocus()

    def add_machine(self) -> None:
        """Put one machine more, and open its page."""
        place = self._shots.add_machine()
        if place is not None:
            self.night.open_machine(place)

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
        painter.drawText(box, align | Qt.AlignmentFlag.AlignRight, "Time, recipe")
        painter.setPen(theme.NEUTRAL_RULE)
        painter.drawLine(0, 21, self.width(), 21)


class Rule(QWidget):
    """The line above the night band."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setFixedHeight(1)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.NEUTRAL_RULE)
