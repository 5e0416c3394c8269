"""The folder check: a strip of the frames with marks, what is wrong in words, and the frames to render again."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import PlainButton, Switch
from hasty_reel.desk.follow import follow
from hasty_reel.handover.foldercheck import WORDS, FolderCheck
from hasty_reel.reel.bytewords import bytes_text
from hasty_reel.studio.output.foldercheck import CheckModel

HEIGHT, LANE = 92, 44.0


class CheckStrip(QWidget):
    """The light of the frames from left to right, and a mark over each that is wrong; a click goes there."""

    chosen = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._found: FolderCheck | None = None
        self.setFixedHeight(HEIGHT)
        self.setMouseTracking(True)
        self.setAccessibleName("Frames that were checked")

    def show_check(self, found: FolderCheck | None) -> None:
        """Show a check."""
        self._found = found
        self.update()

    def _box(self, k: int) -> QRectF:
        count = len(self._found.frames) if self._found is not None else 1
        width = (self.width() - 32.0) / max(1, count)
        return QRectF(16 + k * width, 30, max(1.0, width), LANE)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        found = self._found
        if found is None:
            return
        wrong = found.marks
        brightest = max([1.0, *(c.mean for c in found.content.values())])
        for k, frame in enumerate(found.frames):
            box, content = self._box(k), found.content.get(frame)
            if content is None:
                painter.fillRect(box, theme.hatch(theme.CORAL, 5, 1.4))
            else:
                height = max(1.0, LANE * content.mean / brightest)
                painter.fillRect(QRectF(box.left(), box.bottom() - height, box.width(), height), theme.NEUTRAL_STRONG)
            if frame in wrong:
                marks.diamond(painter, box.center().x(), 20, radius=5)
        painter.setFont(theme.figures(11))
        painter.setPen(theme.INK3)
        for k, align in ((0, Qt.AlignmentFlag.AlignLeft), (len(found.frames) - 1, Qt.AlignmentFlag.AlignRight)):
            x = self._box(k).left() if k == 0 else self._box(k).right() - 60
            painter.drawText(QRectF(x, HEIGHT - 16, 60, 14), align, str(found.frames[k]))

    def _at(self, x: float) -> int | None:
        if self._found is None:
            return None
        k = int((x - 16) // self._box(0).width())
        return self._found.frames[k] if 0 <= k < len(self._found.frames) else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        frame = self._at(event.position().x())
        if frame is None or self._found is None:
            self.setToolTip("")
            return
        kind = self._found.marks.get(frame)
        self.setToolTip(f"Frame {frame}: {self._found.why.get(frame) or (WORDS[kind] if kind else 'is whole')}")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        frame = self._at(event.position().x())
        if frame is not None:
            self.chosen.emit(frame)


class CheckPage(QWidget):
    """Check, see what is wrong, have it rendered again. wanted : the person goes on to Run"""

    wanted = Signal()

    def __init__(self, model: CheckModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model
        self.check = PlainButton("Check the frames", model.check, main=True, parent=self)
        self.check.setToolTip("Read every finished frame: missing, broken, black, doubled, stale, flashing, sparkling ones are found.")
        self.again = PlainButton("", self._again, parent=self)
        self.again.setToolTip("Set these frames aside, in a folder beside the others, and choose them in Run.")
        self.state = QLabel("", self)
        self.state.setFont(theme.words(13))
        row = QHBoxLayout()
        row.setContentsMargins(16, 14, 16, 6)
        row.setSpacing(10)
        self.watch = Switch("Watch", model.watch, self)
        self.watch.setToolTip("Check frames as they arrive, while they are rendered.")
        self.clear = PlainButton("", model.clear_rendered, parent=self)
        self.clear.setToolTip("All finished frames are whole: the frames as they were rendered, which finishing needed, can go.")
        for widget in (self.check, self.watch, self.again, self.clear):
            row.addWidget(widget)
        row.addWidget(self.state, 1)
        self.strip = CheckStrip(self)
        self.words = QLabel("", self)
        self.words.setFont(theme.words(14))
        self.words.setWordWrap(True)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.words.setContentsMargins(16, 8, 16, 8)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.strip)
        column.addWidget(self.words)
        column.addStretch(1)
        follow(self, model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the last check."""
        model, found = self.model, self.model.found
        self.check.setEnabled(model.may)
        self.state.setText(model.words or ("" if model.may or model.busy else "There are no finished frames to check yet: Run makes them."))
        self.strip.show_check(found)
        self.words.setText("" if found is None else "\n".join(found.words))
        self.again.setVisible(found is not None and bool(found.again))
        spare = model.spare_bytes
        self.clear.setVisible(spare > 0)
        self.clear.setText(f"Remove the rendered ones, {bytes_text(spare)}")
        self.watch.setChecked(model.watching)
        self.again.setText("" if found is None else f"Render {len(found.again)} again")

    def _again(self) -> None:
        self.model.again()
        self.wanted.emit()
