"""Three bundles side by side: what each is best at, what it takes, what it changes; a click takes one."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QRectF, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.follow import follow
from hasty_reel.plan.answer import span
from hasty_reel.plan.compare.bundles import Bundle
from hasty_reel.studio.budget.alternatives import AlternativesModel
from hasty_reel.studio.session import Session
from hasty_reel.viewers import who_sees

HEIGHT, GAP, MARGIN, LINE = 87, 10.0, 16.0, 17.0


class BundleRow(QWidget):
    """Cards; Left and Right move between them, Return takes one. pointed : at which, or -1."""

    pointed = Signal(int)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = AlternativesModel(session)
        self._at = 0
        self.setFixedHeight(HEIGHT)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Settings that are calm enough: sharpest, calmest, fastest")
        follow(self, self.model.changed, self.refresh)
        follow(self, session.reel_changed, self.refresh)

    @property
    def bundles(self) -> tuple[Bundle, ...]:
        """Those that are shown."""
        return self.model.choice.bundles

    def refresh(self) -> None:
        """Show what was found."""
        self._at = min(self._at, max(0, len(self.bundles) - 1))
        self.setAccessibleDescription("; ".join(f"{b.name}: {self.model.price(b)}, {', '.join(b.words)}" for b in self.bundles))
        self.update()

    def _box(self, k: int) -> QRectF:
        count = max(1, len(self.bundles))
        width = (self.width() - 2 * MARGIN - (count - 1) * GAP) / count
        return QRectF(MARGIN + k * (width + GAP), 4, width, HEIGHT - 8)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.bundles:
            painter.setFont(theme.words(13))
            painter.setPen(theme.INK2)
            painter.drawText(QRectF(MARGIN, 0, self.width() - 2 * MARGIN, HEIGHT), Qt.AlignmentFlag.AlignVCenter, self.model.words)
        for k, bundle in enumerate(self.bundles):
            self._paint(painter, self._box(k), bundle, k)

    def _paint(self, painter: QPainter, box: QRectF, bundle: Bundle, k: int) -> None:
        taken, dim = self.model.taken(bundle), self.model.stale
        ink, soft = (theme.OFF, theme.OFF) if dim else (theme.INK, theme.INK2)
        painter.setPen(QPen(theme.INK if self.hasFocus() and k == self._at else theme.STRONG_RULE, 1))
        painter.setBrush(theme.RAISED if taken else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(box, 3, 3)
        marks.ring(
            painter, box.left() + 18, box.top() + 17, theme.LAGOON if taken else theme.NEUTRAL_STRONG, "dot" if taken else "empty", 6
        )
        painter.setFont(theme.words(14, 700))
        painter.setPen(ink)
        line = QRectF(box.left() + 34, box.top() + 6, box.width() - 44, 22)
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, bundle.name.capitalize())
        painter.setFont(theme.figures(13, 600))
        painter.setPen(ink if bundle.in_time or dim else theme.CORAL)
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self.model.price(bundle))
        painter.setFont(theme.words(12))
        painter.setPen(soft)
        metrics = QFontMetrics(painter.font())
        told = f"{span(bundle.plan)} samples, seen by {who_sees(bundle.plan.worst_flicker)}, look ± {bundle.loss:.1f} L*"
        place = QRectF(line.left(), box.top() + 25, line.width(), LINE)
        painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, metrics.elidedText(told, Qt.TextElideMode.ElideRight, int(place.width())))
        for row, text in enumerate(_two_lines(bundle.words, metrics, int(line.width()))):
            painter.drawText(place.translated(0, LINE * (row + 1)), Qt.AlignmentFlag.AlignVCenter, text)

    def leaveEvent(self, event: QEvent) -> None:
        self.pointed.emit(-1)

    def _find(self, x: float) -> int | None:
        return next((k for k in range(len(self.bundles)) if self._box(k).left() <= x <= self._box(k).right()), None)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        k = self._find(event.position().x())
        self.pointed.emit(-1 if k is None else k)
        if k is None:
            self.setToolTip("")
            return
        bundle = self.bundles[k]
        self.setToolTip(
            f"{bundle.name.capitalize()}: {', '.join(bundle.words) or 'as it is'}.\n"
            f"Look: settings and denoising change {bundle.loss:.2f} L* besides noise, root mean square.\n"
            + (f"Surer with {self.model.choice.missing}.\n" if self.model.choice.missing else "")
            + "Click to plan this shot with it."
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        k = self._find(event.position().x())
        if k is not None:
            self._at = k
            self._take()

    def _take(self) -> None:
        if self._at < len(self.bundles) and not self.model.stale and not self.model.taken(self.bundles[self._at]):
            self.model.take(self.bundles[self._at])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        way = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if way is not None:
            self._at = min(max(self._at + way, 0), max(0, len(self.bundles) - 1))
            self.pointed.emit(self._at)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._take()
        else:
            super().keyPressEvent(event)


def _two_lines(changes: tuple[str, ...], metrics: QFontMetrics, width: int) -> list[str]:
    """Changes in at most two lines, broken between them; what does not fit is cut."""
    fits = next((k for k in range(len(changes), 1, -1) if metrics.horizontalAdvance(", ".join(changes[:k]) + ",") <= width), 1)
    first, rest = ", ".join(changes[:fits]) or "as it is", ", ".join(changes[fits:])
    return [metrics.elidedText(text, Qt.TextElideMode.ElideRight, width) for text in (first + ("," if rest else ""), rest)]
