"""Fields and buttons: a value on a dotted line that becomes a box when one can type; plain and main buttons."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QKeyEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QAbstractButton, QLineEdit, QMenu, QSizePolicy, QWidget

from hasty_reel.desk import marks, theme


class ValueField(QLineEdit):
    """A value that is edited where it stands. `committed` is sent once, with the text, when it was changed."""

    committed = Signal(str)
    stepped = Signal(int)

    def __init__(self, unit: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._unit = unit
        self._shown = ""
        self._quiet = False
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self.setFrame(False)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setFont(theme.words(13, 600))
        self.setFixedHeight(20)
        unit_width = QFontMetrics(theme.words(12)).horizontalAdvance(" " + unit) + 2 if unit else 0
        self.setTextMargins(3, 0, 3 + unit_width, 0)
        self.setStyleSheet("QLineEdit { background: transparent; border: 0; padding: 0; }")
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.returnPressed.connect(self.clearFocus)
        self.editingFinished.connect(self._commit)

    def show_value(self, text: str) -> None:
        """Show a value without telling anybody, unless one is typing."""
        self._shown = text
        if not self.hasFocus():
            self._show_shown()

    def set_dim(self, dim: bool) -> None:
        """Dim a value that is being computed anew."""
        if dim != self._quiet:
            self._quiet = dim
            self.update()

    def _commit(self) -> None:
        if self.text().strip() != self._shown:
            text = self.text().strip()
            self._show_shown()
            self.committed.emit(text)
        else:
            self._show_shown()

    def _show_shown(self) -> None:
        """Show the value from its beginning, also where it is longer than the field."""
        self.setText(self._shown)
        self.setCursorPosition(0)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setText(self._shown)
            self.clearFocus()
            return
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.stepped.emit(1 if event.key() == Qt.Key.Key_Up else -1)
            return
        super().keyPressEvent(event)

    def focusInEvent(self, event) -> None:
        super().focusInEvent(event)
        self.setText(self._shown)
        self.selectAll()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        if self.hasFocus():
            painter.fillRect(box, theme.WELL)
            painter.setPen(QPen(theme.LAGOON, 1))
            painter.drawRoundedRect(box, 2, 2)
        elif self.underMouse() and self.isEnabled():
            painter.setPen(QPen(theme.INK3, 1))
            painter.drawRoundedRect(box, 2, 2)
        elif self.isEnabled():
            pen = QPen(theme.STRONG_RULE, 1)
            pen.setDashPattern([1, 2])
            painter.setPen(pen)
            metrics = QFontMetrics(self.font())
            width = metrics.horizontalAdvance(self.text()) + self.textMargins().right()
            y = self.height() - 1.5
            if self.alignment() & Qt.AlignmentFlag.AlignLeft:
                painter.drawLine(QPointF(2, y), QPointF(min(self.width() - 2.0, max(24.0, width + 2)), y))
            else:
                painter.drawLine(QPointF(max(1.0, self.width() - width - 2), y), QPointF(self.width() - 2, y))
        if self._unit:
            painter.setFont(theme.words(12))
            painter.setPen(theme.INK3)
            area = self.rect().adjusted(0, 0, -4, 0)
            painter.drawText(area, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, self._unit)
        painter.end()
        palette = self.palette()
        colour = theme.OFF if self._quiet or not self.isEnabled() else theme.INK
        if palette.color(palette.ColorRole.Text) != colour:
            palette.setColor(palette.ColorRole.Text, colour)
            self.setPalette(palette)
        super().paintEvent(event)


class PlainButton(QAbstractButton):
    """A button: outlined; filled in lagoon where pressing it is the main thing to do."""

    def __init__(self, text: str, act: Callable[[], object] | None = None, main: bool = False, parent=None) -> None:
        super().__init__(parent)
        self.setText(text)
        self._main = main
        self.setFont(theme.words(13, 600))
        self.setFixedHeight(28)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        if act is not None:
            self.clicked.connect(lambda _checked=False: act())

    def set_main(self, main: bool) -> None:
        """Make this the main thing to do, or not."""
        self._main = main
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(QFontMetrics(self.font()).horizontalAdvance(self.text()) + 32, 28)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(3.5, 1.5, -3.5, -1.5)
        enabled = self.isEnabled()
        if self._main and enabled:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.LAGOON.darker(112) if self.isDown() else theme.LAGOON)
            ink = theme.ON_LAGOON
        else:
            line = theme.RULE if not enabled else theme.INK3 if self.underMouse() else theme.NEUTRAL_STRONG
            painter.setPen(QPen(line, 1))
            fill = theme.PRESSED if self.isDown() else QColor("#3A3733") if self.underMouse() and enabled else None
            painter.setBrush(fill if fill is not None else Qt.BrushStyle.NoBrush)
            ink = theme.INK if enabled else theme.OFF
        painter.drawRoundedRect(box, 2, 2)
        if self.hasFocus():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.75, 0.0, -0.75, -0.0).adjusted(0, 0.75, 0, -0.75), 3, 3)
        painter.setPen(ink)
        painter.setFont(self.font())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.text())


class Choice(QAbstractButton):
    """One of several: a ring with a dot when chosen."""

    def __init__(self, text: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setText(text)
        self.setCheckable(True)
        self.setAutoExclusive(False)
        self.setFixedHeight(22)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def nextCheckState(self) -> None:
        """The session decides what is chosen."""

    def sizeHint(self) -> QSize:
        return QSize(QFontMetrics(theme.words(13, 700)).horizontalAdvance(self.text()) + 30, 22)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        chosen = self.isChecked()
        marks.ring(painter, 9, self.height() / 2, theme.LAGOON if chosen else theme.NEUTRAL_STRONG, "dot" if chosen else "empty", 6)
        painter.setFont(theme.words(13, 700 if chosen else 500))
        painter.setPen(theme.INK if chosen else theme.INK2)
        painter.drawText(self.rect().adjusted(24, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, self.text())
        if self.hasFocus():
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.75, 0.75, -0.75, -0.75), 3, 3)


def text_field(parent: QWidget, width: int, name: str, act: Callable[[str], object], unit: str = "") -> ValueField:
    """A field for words: they begin at its left; `act` is called with what was typed."""
    field = ValueField(unit, parent)
    field.setFixedWidth(width)
    field.setAlignment(Qt.AlignmentFlag.AlignLeft)
    field.setAccessibleName(name)
    field.committed.connect(act)
    return field


class Switch(QAbstractButton):
    """On or off: a slot with a square knob; the words say which."""

    def __init__(self, text: str, act: Callable[[bool], object], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._act = act
        self.setText(text)
        self.setCheckable(True)
        self.setFixedHeight(22)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(text)
        self.clicked.connect(lambda on: act(bool(on)))

    def sizeHint(self) -> QSize:
        return QSize(QFontMetrics(theme.words(13, 700)).horizontalAdvance(self.text()) + (44 if self.text() else 34), 22)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        on, enabled = self.isChecked(), self.isEnabled()
        ink = theme.OFF if not enabled else theme.INK if on else theme.INK2
        slot = QRectF(self.width() - 31.5, self.height() / 2 - 7, 28, 14)
        painter.setPen(QPen(ink if enabled else theme.OFF, 1))
        painter.setBrush(ink if on else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(slot, 2, 2)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.PAGE if on else ink)
        painter.drawRect(QRectF(slot.right() - 11 if on else slot.left() + 3, slot.top() + 3, 8, 8))
        painter.setFont(theme.words(13, 700 if on else 500))
        painter.setPen(ink)
        painter.drawText(self.rect().adjusted(3, 0, -36, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, self.text())
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.75, 0.75, -0.75, -0.75), 3, 3)


class PickButton(QAbstractButton):
    """A value chosen from a menu: its words on a dotted line, and a notch behind them."""

    def __init__(self, menu: Callable[[], QMenu], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._menu = menu
        self.setFixedHeight(22)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(self._open)

    def _open(self) -> None:
        menu = self._menu()
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.mapToGlobal(self.rect().bottomLeft()))

    def show_value(self, text: str) -> None:
        """Show what is chosen."""
        if text != self.text():
            self.setText(text)
            self.updateGeometry()

    def sizeHint(self) -> QSize:
        return QSize(QFontMetrics(theme.words(13, 600)).horizontalAdvance(self.text()) + 26, 22)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        metrics = QFontMetrics(theme.words(13, 600))
        text = metrics.elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width() - 24)
        painter.setFont(theme.words(13, 600))
        painter.setPen(theme.INK if self.isEnabled() else theme.OFF)
        painter.drawText(self.rect().adjusted(3, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)
        width = metrics.horizontalAdvance(text)
        x, y = width + 13.0, self.height() / 2 - 1.5
        painter.setPen(QPen(theme.INK2 if self.isEnabled() else theme.OFF, 1.5))
        painter.drawPolyline(QPolygonF([QPointF(x - 3.5, y), QPointF(x, y + 3.5), QPointF(x + 3.5, y)]))
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        if self.hasFocus():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawRoundedRect(box.adjusted(0.25, 0.25, -0.25, -0.25), 3, 3)
        elif self.underMouse() and self.isEnabled():
            painter.setPen(QPen(theme.INK3, 1))
            painter.drawRoundedRect(box, 2, 2)
        else:
            pen = QPen(theme.STRONG_RULE, 1)
            pen.setDashPattern([1, 2])
            painter.setPen(pen)
            painter.drawLine(QPointF(2, self.height() - 2.5), QPointF(width + 4, self.height() - 2.5))
