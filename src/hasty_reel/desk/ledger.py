"""The ledger: every line of the recipe with its value, its price in hours and what it does to flicker."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QContextMenuEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QAbstractButton, QMenu, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.ownsetting import OwnSettingPage
from hasty_reel.desk.recipes import RecipeRow
from hasty_reel.desk.rows import discard
from hasty_reel.plan.compare.prices import Price
from hasty_reel.reel.durations import price_text
from hasty_reel.settings.own import OWN, is_own
from hasty_reel.settings.setting import Setting
from hasty_reel.studio.ledger import LedgerModel
from hasty_reel.studio.session import Session

VALUE_RIGHT, TAG_RIGHT, TRACE_RIGHT = 170, 246, 284


class LedgerRow(QWidget):
    """One line of the recipe."""

    def __init__(self, session: Session, model: LedgerModel, line: Setting, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._model, self.line = session, model, line
        self._price: Price | None = None
        self._dearest = 1.0
        self._lacking = False
        self.setFixedHeight(24)
        self.setMouseTracking(True)
        self.field = ValueField(line.unit, self)
        self.field.setGeometry(VALUE_RIGHT - 76, 2, 76, 20)
        self.field.setAccessibleName(line.label)
        self.field.committed.connect(partial(model.type_value, line))
        self.field.stepped.connect(self._stepped)

    def refresh(self, price: Price | None, dearest: float) -> None:
        """Show value and price as they stand."""
        value = self._session.recipe.value(self.line.field)
        self.field.show_value(self.line.text(value))
        self._price, self._dearest, self._lacking = price, dearest, bool(self._model.lack(self.line))
        self.field.set_dim(self._lacking)
        tip = self._model.tip(self.line, price)
        self.setToolTip(tip)
        self.field.setToolTip(tip)
        self.update()

    def _stepped(self, way: int) -> None:
        self._model.step(self.line, way)
        self.field.setText(self.line.text(self._session.recipe.value(self.line.field)))
        self.field.selectAll()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu().popup(event.globalPos())

    def menu(self) -> QMenu:
        """What can be done with this line for this shot alone."""
        session, name = self._session, self.line.field
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        departs = name in session.shot.departures
        apart = menu.addAction(f"Depart from '{session.shot.recipe}' here, for {session.playhead.shot_id} alone")
        apart.setEnabled(not departs)
        apart.triggered.connect(lambda: self._model.depart(self.line))
        again = menu.addAction(f"Follow '{session.shot.recipe}' again")
        again.setEnabled(departs)
        again.triggered.connect(lambda: self._model.rejoin(self.line))
        if is_own(name):
            menu.addSeparator()
            ledger = self.parent()
            assert isinstance(ledger, Ledger)
            menu.addAction("Change this setting …").triggered.connect(lambda: ledger.declare(name.removeprefix(OWN)))
        return menu

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.position().x() < 22:  # the mark of departure, or where it would stand
            self.menu().popup(event.globalPosition().toPoint())
            return
        super().mousePressEvent(event)

    def enterEvent(self, event) -> None:
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.underMouse() or self.field.hasFocus():
            painter.fillRect(self.rect().adjusted(8, 0, -8, 0), theme.RAISED)
        painter.setFont(theme.words(13))
        painter.setPen(theme.INK3 if self._lacking else theme.INK2)
        departs = self.line.field in self._session.shot.departures
        painter.drawText(QRectF(24, 0, 110, 24), Qt.AlignmentFlag.AlignVCenter, self.line.label)
        if departs:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.INK2)
            painter.drawPolygon(QPolygonF([QPointF(14, 8), QPointF(19, 12), QPointF(14, 16)]))
        tag = QRectF(TAG_RIGHT - 68, 3, 68, 18)
        if self._lacking:
            painter.setFont(theme.words(11))
            painter.setPen(theme.INK3)
            painter.drawText(tag, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "not told")
            return
        if self._price is None:
            marks.tag(painter, tag, "–", "none", 0, True)
        elif self._price.seconds is None:
            painter.setFont(theme.words(11))
            painter.setPen(theme.INK3)
            painter.drawText(tag, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, "not proven")
        else:
            text, kind = price_text(self._price.seconds)
            marks.tag(painter, tag, text, kind, abs(self._price.seconds) / self._dearest, self._session.planner.stale)
        if self._price is not None:
            marks.trace(painter, QRectF(TRACE_RIGHT - 24, 6, 24, 12), self._price.effect)


class GroupHead(QWidget):
    """The name of a group of lines with a rule behind it."""

    def __init__(self, text: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._text = text
        self.setFixedHeight(24)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.words(12, 700))
        painter.setPen(theme.INK)
        painter.drawText(QRectF(16, 0, 200, 24), Qt.AlignmentFlag.AlignVCenter, self._text)
        x = 16 + painter.fontMetrics().horizontalAdvance(self._text) + 10
        painter.setPen(theme.RULE)
        painter.drawLine(x, 13, self.width() - 16, 13)


class ColumnHead(QWidget):
    """Names of the ledger's columns."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setFixedHeight(22)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.words(11))
        painter.setPen(theme.INK3)
        count = len(self._session.shot.departures)
        text = "Setting" if not count else f"Setting, departs in {count}"
        painter.drawText(QRectF(16, 2, 130, 20), Qt.AlignmentFlag.AlignVCenter, text)
        for text, right in (("Value", VALUE_RIGHT), ("Price", TAG_RIGHT - 5), ("Flicker", TRACE_RIGHT)):
            box = QRectF(right - 80, 2, 80, 20)
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, text)


class FoldLine(QAbstractButton):
    """How many lines are put away, or may be; a click shows them, or puts them away."""

    def __init__(self, act: Callable[[], object], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._open = False
        self.setFixedHeight(26)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(act)

    def say(self, count: int, folded: bool) -> None:
        """Say it; nothing is said of no lines."""
        self._open = not folded
        self.setVisible(count > 0)
        lines = "1 line that is" if count == 1 else f"{count} lines that are"
        self.setText(f"{lines} left out" if folded else "Put away what is left out")
        self.setToolTip("They cost and change nothing in this shot. Click to see them." if folded else "")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK if self.underMouse() or self.hasFocus() else theme.INK2)
        painter.drawText(QRectF(30, 0, self.width() - 40, self.height()), Qt.AlignmentFlag.AlignVCenter, self.text())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.INK3)
        y, tip = self.height() / 2.0, (-3.0 if self._open else 3.0)
        painter.drawPolygon(QPolygonF([QPointF(16, y - tip / 2), QPointF(24, y - tip / 2), QPointF(20, y + tip)]))


class AddLine(FoldLine):
    """Under all lines: adds one of the artist's own."""

    def __init__(self, act: Callable[[], object], parent: QWidget | None = None) -> None:
        super().__init__(act, parent)
        self.setText("Add a setting …")
        self.setToolTip("Declare a setting that your renderer takes and that is not in the list.")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK if self.underMouse() or self.hasFocus() else theme.INK2)
        painter.drawText(QRectF(30, 0, self.width() - 40, self.height()), Qt.AlignmentFlag.AlignVCenter, self.text())
        painter.setPen(QPen(theme.INK3, 1.6))
        y = self.height() / 2.0
        painter.drawLine(QPointF(16, y), QPointF(24, y))
        painter.drawLine(QPointF(20, y - 4), QPointF(20, y + 4))


class Ledger(QWidget):
    """All lines of the recipe in the order of the work."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._model = session, LedgerModel(session)
        self.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Expanding)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.recipe_row = RecipeRow(session, self)
        column.addWidget(self.recipe_row)
        column.addWidget(ColumnHead(session, self))
        self.rows: dict[str, LedgerRow] = {}
        self._heads: dict[str, GroupHead] = {}
        self._lines = QVBoxLayout()
        self._lines.setSpacing(0)
        column.addLayout(self._lines)
        self._fill(session.recipe.settings)
        self.fold = FoldLine(self._unfold, self)
        self._folded = True
        column.addWidget(self.fold)
        self.add = AddLine(self.declare, self)
        column.addWidget(self.add)
        column.addStretch(1)
        plans = (session.planner.plan_changed, session.planner.planning)
        for signal in (*plans, session.reel_changed, session.playhead.shot_changed, session.own.links_changed):
            follow(self, signal, self.refresh)

    def _fill(self, settings: tuple[Setting, ...]) -> None:
        """Have a row for each setting; of those that stay declared as they were the row stays."""
        for field in [f for f, row in self.rows.items() if row.line not in settings]:
            discard(self.rows.pop(field))
        for group in set(self._heads) - {s.group for s in settings}:
            discard(self._heads.pop(group))
        place = 0
        for line in settings:
            if line.group not in self._heads:
                self._heads[line.group] = GroupHead(line.group, self)
            if line.field not in self.rows:
                self.rows[line.field] = LedgerRow(self._session, self._model, line, self)
            for widget in (self._heads[line.group], self.rows[line.field]):
                at = self._lines.indexOf(widget)
                if at < 0 or (at >= place and widget is not self._heads[line.group]):
                    self._lines.insertWidget(place, widget)
                    at = place
                place = max(place, at + 1)

    def declare(self, name: str | None = None) -> OwnSettingPage:
        """Declare a setting of the artist's own, or change one of the reel."""
        page = OwnSettingPage(self._session, name, self)
        page.open()
        return page

    def refresh(self) -> None:
        """Show values and prices as they stand."""
        if tuple(row.line for row in self.rows.values()) != self._session.recipe.settings:
            self._fill(self._session.recipe.settings)
        prices = self._model.prices
        dearest = self._model.dearest(prices)
        for name, row in self.rows.items():
            row.refresh(prices.get(name), dearest)
        self._fold(self._model.idle(prices))
        self.update()

    def _fold(self, idle: set[str]) -> None:
        """Put away what costs and changes nothing, unless it is asked for or typed into; groups go with their lines."""
        hidden = {name for name in idle if self._folded and not self.rows[name].field.hasFocus()}
        for name, row in self.rows.items():
            row.setVisible(name not in hidden)
        settings = [row.line for row in self.rows.values()]
        for group, head in self._heads.items():
            head.setVisible(any(line.group == group and line.field not in hidden for line in settings))
        self.fold.say(len(idle), self._folded)
        shown = len(settings) - len(hidden) + sum(not head.isHidden() for head in self._heads.values())
        self.setMinimumHeight(40 + 22 + 24 * (shown + 2) + 40)

    def show_line(self, field: str) -> None:
        """Put a line in sight, and go into its value."""
        row = self.rows.get(field)
        if row is None:
            return
        if not row.isVisible() and self._folded:
            self._unfold()
        row.field.setFocus(Qt.FocusReason.ShortcutFocusReason)
        parent = self.parentWidget()
        scroll = parent.parentWidget() if parent is not None else None
        if isinstance(scroll, QScrollArea):
            scroll.ensureWidgetVisible(row)

    def _unfold(self) -> None:
        self._folded = not self._folded
        self.refresh()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAGE)
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK3)
        foot = QRectF(16, self.height() - 26, self.width() - 32, 18)
        painter.drawText(foot, Qt.AlignmentFlag.AlignVCenter, "Prices: whole shot, against leaving it out")
