"""Findings: sweeps with their findings in words, and what each changed setting accounts for."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.desk.trust import TrustBar
from hasty_reel.evidence.attribution import SettingEffect
from hasty_reel.evidence.proof import DenoiseEffect
from hasty_reel.evidence.sweep import Sweep, swept_text
from hasty_reel.settings.recipe import Recipe
from hasty_reel.studio.proofs.findings import effect_words, percent, sweep_title
from hasty_reel.studio.session import Session

ROW = 20


RIGHT = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight


def paint_heads(painter: QPainter, heads: Sequence[tuple[float, str]]) -> None:
    """Paint the heads of a table, each ending at its place."""
    painter.setFont(theme.words(11))
    painter.setPen(theme.MAT_INK3)
    for x, text in heads:
        painter.drawText(QRectF(x - 130, 0, 130, ROW), RIGHT, text)


class SweepTable(QWidget):
    """The values of a sweep with seconds, noise, and how far each looks from the fullest."""

    def __init__(self, sweep: Sweep, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._sweep = sweep
        self.setFixedHeight(ROW * (len(sweep.points) + 1) + 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        right = self.width() - 12.0
        columns = (right - 190, right - 110, right)
        paint_heads(painter, list(zip(columns, ("seconds", "noise L*", "off the fullest, L*"))))
        most = max((p.seconds for p in self._sweep.points), default=1.0)
        for k, point in enumerate(self._sweep.points):
            y = ROW * (k + 1)
            enough = self._sweep.enough is not None and point.value == self._sweep.enough
            painter.setFont(theme.words(13, 700 if enough else 500))
            painter.setPen(theme.MAT_INK if enough else theme.MAT_INK2)
            name = f"{point.value:g}" if self._sweep.recipe is None else swept_text(self._sweep.name, point.value, self._sweep.recipe)
            painter.drawText(QRectF(12, y, 70, ROW), Qt.AlignmentFlag.AlignVCenter, name)
            painter.fillRect(QRectF(72, y + 6, 90 * point.seconds / most, 8), theme.MAT_INK3 if enough else theme.NEUTRAL_STRONG)
            painter.setFont(theme.figures(12, 600 if enough else 400))
            for x, value, digits in zip(columns, (point.seconds, point.noise_L, point.off_L), (2, 1, 1)):
                painter.drawText(QRectF(x - 130, y, 130, ROW), RIGHT, "–" if not np.isfinite(value) else f"{value:.{digits}f}")


class WindowTable(QWidget):
    """What denoising over 3, 5 and 7 frames did on a run."""

    def __init__(self, windows: tuple[DenoiseEffect, ...], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._windows = windows
        self.setFixedHeight(ROW * (len(windows) + 1) + 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        right = self.width() - 12.0
        paint_heads(painter, ((right - 150, "noise"), (right - 60, "seen flicker"), (right, "s/Mpixel")))
        painter.setPen(theme.MAT_INK)
        for k, effect in enumerate(self._windows):
            y = ROW * (k + 1)
            painter.setFont(theme.words(13))
            painter.drawText(QRectF(12, y, 180, ROW), Qt.AlignmentFlag.AlignVCenter, _window_words(effect))
            painter.setFont(theme.figures(12))
            cells = (percent(effect.noise_ratio), percent(effect.seen), f"{effect.seconds_per_pixel * 1e6:.1f}")
            for x, text in zip((right - 150, right - 60, right), cells):
                painter.drawText(QRectF(x - 130, y, 130, ROW), RIGHT, text)


def _window_words(effect: DenoiseEffect) -> str:
    head = "despiked" if effect.window == 1 else f"over {effect.window} frames" + ("" if effect.thorough else ", quick")
    return head + (f", {effect.samples:g} samples" if effect.samples else "")


class EffectTable(QWidget):
    """Changes with what each does to time and to noise, and how sure that is."""

    def __init__(self, effects: tuple[SettingEffect, ...], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._effects = effects
        self.setFixedHeight(ROW * (len(effects) + 1) + 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        right = self.width() - 12.0
        paint_heads(painter, ((right - 82, "time of a sample"), (right, "noise")))
        for k, effect in enumerate(self._effects):
            y = ROW * (k + 1)
            words, time, noise = effect_words(effect)
            painter.setFont(theme.words(13))
            painter.setPen(theme.MAT_INK)
            text = QFontMetrics(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, int(right - 180))
            painter.drawText(QRectF(12, y, right - 170, ROW), Qt.AlignmentFlag.AlignVCenter, text)
            painter.setFont(theme.figures(12))
            painter.drawText(QRectF(right - 212, y, 130, ROW), RIGHT, time)
            painter.drawText(QRectF(right - 80, y, 80, ROW), RIGHT, noise)


class FindingsPage(QScrollArea):
    """Sweeps, then changes. ordered: a proof was put into the queue."""

    ordered = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._model = session, session.findings
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.viewport().setStyleSheet(f"background: {theme.MAT.name()};")
        follow(self, self._model.changed, self.refresh)

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self._model.watch(True)
        self._session.trust.watch(True)

    def hideEvent(self, event) -> None:
        super().hideEvent(event)
        self._model.watch(False)
        self._session.trust.watch(False)

    def _render(self, recipe: Recipe) -> None:
        self._session.proofs.render_telling(recipe)
        self.ordered.emit()

    def refresh(self) -> None:
        """Lay the findings out."""
        findings = self._model.findings
        page = QWidget()
        page.setObjectName("findings")
        page.setStyleSheet(f"#findings {{ background: {theme.MAT.name()}; }}")
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 4, 0, 8)
        column.setSpacing(4)
        column.addWidget(self._title("Held back: predicted against measured"))
        column.addWidget(TrustBar(self._session, False, page))
        for sweep in findings.sweeps:
            column.addWidget(self._title(sweep_title(sweep)))
            column.addWidget(self._text(sweep.finding, strong=True))
            column.addWidget(SweepTable(sweep))
        if findings.windows:
            column.addWidget(self._title(f"Despike and denoise over time, tried on {findings.run}"))
            column.addWidget(WindowTable(findings.windows))
        changes = findings.changes
        if changes.effects or changes.together:
            column.addWidget(self._title("What each change accounts for, over all proofs of the shot"))
        if changes.effects:
            column.addWidget(EffectTable(changes.effects))
        for together in changes.together:
            row = QHBoxLayout()
            row.setContentsMargins(0, 0, 10, 0)
            row.addWidget(self._text(together.words), 1)
            button = PlainButton("Render it", partial(self._render, together.telling))
            button.setToolTip("Put that proof into the queue")
            row.addWidget(button)
            column.addLayout(row)
        if not findings.sweeps and not findings.windows and not changes.effects and not changes.together:
            column.addWidget(
                self._text("Nothing was varied yet. A sweep over one setting tells from where on it changes nothing you can see.")
            )
        column.addStretch(1)
        self.setWidget(page)

    def _title(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(theme.words(12, 700))
        label.setStyleSheet(f"color: {theme.MAT_INK.name()}")
        label.setContentsMargins(12, 6, 12, 0)
        return label

    def _text(self, text: str, strong: bool = False) -> QLabel:
        label = QLabel(text)
        label.setFont(theme.words(13, 600 if strong else 500))
        label.setStyleSheet(f"color: {theme.MAT_INK.name() if strong else theme.MAT_INK2.name()}")
        label.setWordWrap(True)
        label.setContentsMargins(12, 0, 12, 0)
        return label
