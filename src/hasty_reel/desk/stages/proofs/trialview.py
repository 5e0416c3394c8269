"""What the trial of a renderer link came to: its picture, what was found, what is wrong, and what the renderer printed."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.picture import as_image
from hasty_reel.desk.rows import discard
from hasty_reel.pictures.colour import codes8
from hasty_reel.studio.rendererlinks import RendererLinksModel

SHOWN = QSize(192, 108)
LAST_LINES = 12


class TrialView(QWidget):
    """Nothing before the first trial."""

    def __init__(self, model: RendererLinksModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._model = model
        self.picture = QLabel(self)
        self.picture.setFixedWidth(SHOWN.width())
        self.picture.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.picture.setAccessibleName("The picture that came")
        self.take_button = PlainButton("Take what was found", model.take, parent=self)
        self.take_button.setToolTip("Motion vectors are read in the sense that was found from now on")
        left = QVBoxLayout()
        left.addWidget(self.picture)
        left.addWidget(self.take_button)
        left.addStretch(1)
        self._lines = QGridLayout()
        self._lines.setHorizontalSpacing(8)
        self._lines.setVerticalSpacing(4)
        self._lines.setColumnStretch(1, 1)
        self.printed = QLabel("")
        self.printed.setFont(theme.figures(11))
        self.printed.setWordWrap(True)
        self.printed.setTextFormat(Qt.TextFormat.PlainText)
        self.printed.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.printed.setStyleSheet(f"color: {theme.INK2.name()}")
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 8, 0)
        column.addLayout(self._lines)
        column.addWidget(self.printed)
        column.addStretch(1)
        scroll = QScrollArea(self)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QScrollArea.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inner)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 6, 0, 0)
        row.setSpacing(16)
        row.addLayout(left)
        row.addWidget(scroll, 1)
        self.words: list[str] = []
        follow(self, model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the last trial."""
        trial = self._model.trial
        self.setVisible(trial is not None)
        while (item := self._lines.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                discard(widget)
        self.words = []
        if trial is None:
            return
        shown = QPixmap.fromImage(as_image(codes8(trial.picture.rgb)))
        self.picture.setPixmap(shown.scaled(SHOWN, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.FastTransformation))
        self.take_button.setVisible(self._model.to_take)
        for words, wrong in [*((w, True) for w in trial.remarks), *((w, False) for w in trial.found)]:
            self._add("mend" if wrong else "fine", words, wrong)
        last = [line for line in trial.messages.splitlines() if line.strip()][-LAST_LINES:]
        self.printed.setText("\n".join(["", "It printed:", *last]) if last else "")

    def _add(self, head: str, words: str, wrong: bool) -> None:
        row = self._lines.rowCount()
        mark = QLabel(head)
        mark.setFont(theme.words(12, 700))
        mark.setStyleSheet(f"color: {(theme.INK if wrong else theme.INK3).name()}")
        line = QLabel(words)
        line.setWordWrap(True)
        line.setTextFormat(Qt.TextFormat.PlainText)
        line.setFont(theme.words(13))
        line.setStyleSheet(f"color: {(theme.INK if wrong else theme.INK2).name()}")
        self._lines.addWidget(mark, row, 0, Qt.AlignmentFlag.AlignTop)
        self._lines.addWidget(line, row, 1)
        self.words.append(words)
