"""See it: the loop of a proof run at so many samples, and the dial that sets them."""

from __future__ import annotations

import math
from datetime import datetime

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.clip import clip_menu, enlarged
from hasty_reel.desk.fields import Choice, PickButton, PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.header import OWN_ARROWS
from hasty_reel.desk.picture import as_image, draw_fitted
from hasty_reel.desk.stages.budget.watched import WatchedPage, sentences
from hasty_reel.plan.compare.dial import AtSamples
from hasty_reel.studio.budget.sampledial import SampleDial
from hasty_reel.studio.session import Session
from hasty_reel.studio.standing import clock_text

STEP, LEAP = 1.05, 2.0
"""By how much the samples change with an arrow key, and with Page Up and Page Down."""
GAP = 8.0
"""Pixels between two labels that stand side by side."""


class DialPicture(QWidget):
    """The frame that is looked at, in whole multiples of its pixels where there is room."""

    def __init__(self, model: SampleDial, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.image: QImage | None = None
        self.setMinimumHeight(160)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setProperty(OWN_ARROWS, True)
        self.setAccessibleName("The frame at these samples")
        self.setToolTip("Left and Right step through the run, Space plays it")
        follow(self, model.drawn, self.refresh)

    def refresh(self) -> None:
        """Draw the frame as it looks now."""
        if not self.isVisible():
            return
        codes = self._model.picture
        self.image = None if codes is None else as_image(codes)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.MAT)
        room = QRectF(self.rect()).adjusted(12, 10, -12, -10)
        if self.image is None:
            painter.setPen(theme.MAT_INK2)
            painter.setFont(theme.words(14))
            painter.drawText(room.adjusted(40, 0, -40, 0), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, self._model.words)
            return
        times = math.floor(min(room.width() / self.image.width(), room.height() / self.image.height()))
        if times < 1:
            draw_fitted(painter, room, self.image)
            return
        w, h = self.image.width() * times, self.image.height() * times
        painter.drawImage(QRectF(round(room.center().x() - w / 2), round(room.center().y() - h / 2), w, h), self.image)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self._model.step(-1 if event.key() == Qt.Key.Key_Left else 1)
        elif event.key() == Qt.Key.Key_Space:
            self._model.toggle()
        else:
            super().keyPressEvent(event)


class SampleScale(QWidget):
    """Samples on a logarithmic scale: dragged, or changed with keys; marks where the plan, the levels of calm and the due time are."""

    def __init__(self, model: SampleDial, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.setFixedHeight(86)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setProperty(OWN_ARROWS, True)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setAccessibleName("Samples")
        self.setToolTip("Drag, or Left and Right; Page Up and Page Down double and halve")

    def _line(self) -> QRectF:
        return QRectF(28, 42, self.width() - 56, 6)

    def x_of(self, samples: float) -> float:
        """Where a sample count stands."""
        line, low, high = self._line(), math.log(self._model.least), math.log(self._model.most)
        return line.left() + line.width() * (math.log(max(samples, 1.0)) - low) / (high - low)

    def samples_at(self, x: float) -> float:
        """The sample count that stands there."""
        line, low, high = self._line(), math.log(self._model.least), math.log(self._model.most)
        return math.exp(low + (high - low) * min(1.0, max(0.0, (x - line.left()) / line.width())))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._model.turn(self.samples_at(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._model.turn(self.samples_at(event.position().x()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        now = self._model.samples
        factor = {
            Qt.Key.Key_Left: 1 / STEP, Qt.Key.Key_Right: STEP, Qt.Key.Key_PageDown: 1 / LEAP, Qt.Key.Key_PageUp: LEAP,
        }.get(Qt.Key(event.key()))  # fmt: skip
        if factor is None:
            super().keyPressEvent(event)
            return
        wanted = now * factor
        self._model.turn(max(wanted, now + 1.0) if factor > 1 else min(wanted, now - 1.0))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        line, model = self._line(), self._model
        painter.fillRect(line, theme.WELL)
        painter.setPen(QPen(theme.STRONG_RULE, 1))
        painter.drawRect(line)
        painter.setFont(theme.figures(11))
        count = model.least
        while count <= model.most * 1.001:
            x = self.x_of(count)
            painter.setPen(theme.STRONG_RULE)
            painter.drawLine(QPointF(x, line.bottom()), QPointF(x, line.bottom() + 4))
            painter.setPen(theme.INK3)
            painter.drawText(QRectF(x - 24, line.bottom() + 4, 48, 14), Qt.AlignmentFlag.AlignHCenter, f"{count:.0f}")
            count *= 2.0
        self._draw_marks(painter, line)
        x = self.x_of(model.samples)
        painter.setPen(QPen(theme.LAGOON if self.hasFocus() else theme.INK, 2))
        painter.setBrush(theme.RAISED)
        painter.drawRoundedRect(QRectF(x - 6, line.top() - 6, 12, 18), 2, 2)

    def _draw_marks(self, painter: QPainter, line: QRectF) -> None:
        marks = self._model.marks
        if marks is None:
            return
        above: list[tuple[float, str, QColor]] = [(n, f"{name} calm", theme.INK2) for name, n in marks.calm.items()]
        painter.setFont(theme.words(12))
        _labels(painter, [(self.x_of(n), text, colour) for n, text, colour in sorted(above)], line.top() - 22, line.top() - 4, True)
        below: list[tuple[float, str, QColor]] = [(marks.planned, "plan", theme.LAGOON)]
        if marks.in_time is not None and marks.in_time < marks.most:
            below.append((marks.in_time, "due", theme.AMBER))
        under = line.bottom() + 20
        _labels(painter, [(self.x_of(n), text, colour) for n, text, colour in sorted(below)], under, line.bottom() + 18, False)


def _labels(painter: QPainter, found: list[tuple[float, str, QColor]], top: float, tip: float, down: bool) -> None:
    """Labels side by side, each with a notch that points at its place."""
    metrics, right = QFontMetrics(painter.font()), -1e9
    for x, text, colour in found:
        width = metrics.horizontalAdvance(text)
        left = max(x - width / 2, right + GAP)
        right = left + width
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        to = 5.0 if down else -5.0
        painter.drawPolygon(QPolygonF([QPointF(x - 4, tip), QPointF(x + 4, tip), QPointF(x, tip + to)]))
        painter.setPen(colour)
        painter.drawText(QRectF(left, top, width + 2, 16), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)


class SeeItPage(WatchedPage):
    """The loop at n samples, its price, the dial, and 'this is calm enough'.

    compare_wanted : what is shown is a side in Compare now
    """

    compare_wanted = Signal()

    def __init__(self, session: Session) -> None:
        model = SampleDial(session)
        super().__init__(model)
        self.model, self._session = model, session
        self.price, self.words = QLabel(""), QLabel("")
        sentences(self.price, self.words)
        self.picture = DialPicture(model, self)
        self.scale = SampleScale(model, self)
        self.raw, self.finished = Choice("As rendered", self), Choice("Finished", self)
        self.raw.clicked.connect(lambda: model.show_finished(False))
        self.finished.clicked.connect(lambda: model.show_finished(True))
        self.play = PlainButton("Play", model.toggle, parent=self)
        self.play.setToolTip("Space, where the picture has the focus")
        self.enough = PlainButton("This is calm enough", model.enough, main=True, parent=self)
        self.all_shots = PlainButton("For all shots", lambda: model.enough(True), parent=self)
        self.all_shots.setToolTip("Holds this calm in every shot that has no level of its own")
        self.clip = PickButton(lambda: clip_menu(self, session, model.clip_name, self.clip_frames))
        self.clip.show_value("Write clip")
        self.clip.setToolTip("The loop as it is shown here, as a small film or as pictures")
        self.beside = PlainButton("Beside the proof", model.compare, parent=self)
        self.beside.setToolTip("Puts these frames beside those of the proof in Compare: wipe, loop, differences, measures")
        follow(self, model.compared, self.compare_wanted.emit)
        row = QHBoxLayout()
        row.setContentsMargins(16, 0, 16, 0)
        row.setSpacing(12)
        for widget in (self.raw, self.finished, self.play):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.beside)
        row.addWidget(self.clip)
        row.addWidget(self.all_shots)
        row.addWidget(self.enough)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 12, 0, 6)
        column.setSpacing(6)
        column.addWidget(self.price)
        column.addLayout(row)
        column.addWidget(self.picture, 1)
        column.addWidget(self.words)
        column.addWidget(self.scale)
        follow(self, model.changed, self._refresh)
        follow(self, session.reel_changed, self._refresh)
        self._refresh()

    def clip_frames(self) -> list[tuple[QImage, list[str]]]:
        """The loop as it is shown, frame by frame, as far as its frames are there."""
        model = self.model
        shown = [] if model.run is None else [model.picture_at(k) for k in range(len(model.run.frames))]
        return [(enlarged(as_image(codes)), model.clip_lines) for codes in shown if codes is not None]

    def _show(self) -> None:
        model = self.model
        self.beside.setEnabled(model.picture is not None)
        self.clip.setEnabled(model.picture is not None)
        self.raw.setChecked(not model.finished)
        self.finished.setChecked(model.finished)
        self.play.setText("Stop" if model.player.playing else "Play")
        self.play.setEnabled(model.run is not None)
        price = model.price
        self.price.setText(f"{model.samples:.0f} samples …" if price is None else f"{model.price_words}; {_ready(price)}")
        self.words.setText("" if self.picture.image is None else f"{model.words[:1].upper()}{model.words[1:]}.")
        self.enough.setEnabled(model.percent is not None)
        self.all_shots.setEnabled(model.percent is not None)
        self.enough.setToolTip(model.enough_words)
        self.scale.update()
        if self.picture.image is None:
            self.picture.refresh()  # it says why there is none


def _ready(price: AtSamples) -> str:
    """When the reel is ready then."""
    found, now = price.deadline, datetime.now().astimezone()
    if found.never:
        return "the free hours of the machines end before the reel is ready"
    late = "" if found.ready <= found.due else f", due {clock_text(found.due, now)}"
    return f"the reel is ready {clock_text(found.ready, now)}, {found.how_sure}{late}"
