"""The recipe of the shot and the draft-cut switch, above the ledger; recipes compared line by line."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLabel,
    QMenu,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from hasty_reel.desk import theme
from hasty_reel.desk.asking import ask_target
from hasty_reel.desk.drafts import DraftCutsPage
from hasty_reel.desk.fields import Switch
from hasty_reel.desk.follow import follow
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits import duplicated_recipe, removed_recipe, renamed_recipe, with_shot_fields
from hasty_reel.studio.reelfiles import file_name
from hasty_reel.studio.session import Session
from hasty_reel.studio.travelling import RecipeTravel

RECIPE_KINDS = {".recipe": "Recipes"}


def ask_save(parent: QWidget, session: Session, name: str) -> None:
    """Ask for a file, and save a recipe to it."""
    path = ask_target(parent, f"Save recipe '{name}'", Path(f"{file_name(name)}.recipe"), RECIPE_KINDS)
    if path is not None:
        RecipeTravel(session).save(name, path)


def ask_load(parent: QWidget, session: Session) -> None:
    """Ask for a file, and take the recipe in it into the reel."""
    name, _ = QFileDialog.getOpenFileName(parent, "Recipe from a file", "", "Recipes (*.recipe)")
    if name:
        RecipeTravel(session).load(Path(name))


class RecipeButton(QAbstractButton):
    """The recipe of the shot; opens what can be done with recipes."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setFixedHeight(26)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Recipe of the shot")
        self.setToolTip("The recipe this shot is rendered with. Its lines hold for every shot that uses it.")
        self.clicked.connect(lambda: self.menu().popup(self.mapToGlobal(self.rect().bottomLeft())))
        follow(self, session.reel_changed, self.update)
        follow(self, session.playhead.shot_changed, self.update)

    def menu(self) -> QMenu:
        """Recipes to choose from, and what can be done with the one chosen."""
        session = self._session
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        now, travel = session.shot.recipe, RecipeTravel(session)
        for recipe in session.reel.recipes:
            action = menu.addAction(recipe.name)
            action.setCheckable(True)
            action.setChecked(recipe.name == now)
            action.triggered.connect(lambda _=False, name=recipe.name: session.set_recipe(name))
        menu.addSeparator()
        menu.addAction(f"Duplicate '{now}'").triggered.connect(lambda: self.duplicate())
        menu.addAction(f"Rename '{now}' …").triggered.connect(lambda: self._ask_name())
        remove = menu.addAction(f"Remove '{now}'")
        remove.triggered.connect(lambda: session.do(f"Remove recipe {now}", lambda reel: removed_recipe(reel, now)))
        menu.addSeparator()
        menu.addAction("Compare recipes …").triggered.connect(lambda: self.compare())
        menu.addSeparator()
        menu.addAction(f"Save '{now}' to a file …").triggered.connect(lambda: ask_save(self, session, now))
        menu.addAction(f"Keep '{now}' for other reels").triggered.connect(lambda: travel.keep(now))
        menu.addAction("Recipe from a file …").triggered.connect(lambda: ask_load(self, session))
        for name in travel.kept:
            menu.addAction(f"Take '{name}', which I keep").triggered.connect(lambda _=False, name=name: travel.take(name))
        return menu

    def duplicate(self) -> None:
        """A copy of the recipe, used by this shot from now on."""
        session = self._session
        now, shot_id = session.shot.recipe, session.playhead.shot_id

        def change(reel: Reel) -> Reel:
            reel, name = duplicated_recipe(reel, now)
            return with_shot_fields(reel, shot_id, recipe=name)

        session.do(f"Duplicate recipe {now}", change)

    def rename(self, new: str) -> None:
        """Another name for the recipe, everywhere at once."""
        now = self._session.shot.recipe
        self._session.do(f"Rename recipe {now}", lambda reel: renamed_recipe(reel, now, new))

    def _ask_name(self) -> None:
        dialog = QInputDialog(self)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.setWindowTitle("Rename recipe")
        dialog.setLabelText("Its name, for every shot that uses it")
        dialog.setTextValue(self._session.shot.recipe)
        dialog.textValueSelected.connect(self.rename)
        dialog.open()

    def compare(self) -> RecipeTable:
        """All recipes side by side."""
        table = RecipeTable(self._session, self)
        table.show()
        return table

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        font = theme.words(14, 700)
        painter.setFont(font)
        painter.setPen(theme.INK)
        metrics = QFontMetrics(font)
        name = metrics.elidedText(self._session.shot.recipe, Qt.TextElideMode.ElideRight, self.width() - 24)
        painter.drawText(QRectF(4, 0, self.width() - 20, self.height()), Qt.AlignmentFlag.AlignVCenter, name)
        x, y = 4 + metrics.horizontalAdvance(name) + 11, self.height() / 2 - 1
        painter.setPen(QPen(theme.INK2, 1.6))
        painter.drawPolyline(QPolygonF([QPointF(x - 4, y), QPointF(x, y + 4), QPointF(x + 4, y)]))
        if self.hasFocus():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.75, 0.75, -0.75, -0.75), 3, 3)


class RecipeRow(QWidget):
    """Recipe at the left, draft cuts at the right; hatched all over while draft cuts are on."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setFixedHeight(40)
        self.recipe = RecipeButton(session, self)
        self.recipe.setGeometry(60, 7, 104, 26)
        self.switch = Switch("", self._switch, self)
        self.switch.setAccessibleName("Draft cuts")
        self.switch.setGeometry(248, 9, 36, 22)
        self.cuts = DraftWords(session, self._edit_cuts, self)
        self.cuts.setGeometry(166, 9, 82, 22)
        follow(self, session.own.draft_changed, self._refresh)
        follow(self, session.reel_changed, self.update)
        follow(self, session.playhead.shot_changed, self.update)
        self._refresh()

    def _switch(self, on: bool) -> None:
        self._session.own.switch_draft(on)

    def _edit_cuts(self) -> DraftCutsPage:
        page = DraftCutsPage(self._session, self)
        page.open()
        return page

    def _refresh(self) -> None:
        on = self._session.own.draft_on
        self.switch.setChecked(on)
        cut = self._session.own.cuts.current.name
        self.switch.setToolTip(
            f"Draft cut '{cut}' lies over what is rendered as a proof. Finals cannot start while it is on."
            if on
            else f"Lay draft cut '{cut}' over what is rendered as a proof; it never reaches finals, exports or recipes."
        )
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._session.own.draft_on:
            painter.fillRect(self.rect(), theme.hatch(theme.INK3, 8, 2.2))
            painter.fillRect(QRectF(12, 6, 152, 28), theme.PAGE)
            painter.fillRect(QRectF(164, 6, 124, 28), theme.PAGE)
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK2)
        painter.drawText(QRectF(16, 0, 50, 40), Qt.AlignmentFlag.AlignVCenter, "Recipe")
        painter.setPen(theme.RULE)
        painter.drawLine(16, self.height() - 1, self.width() - 16, self.height() - 1)


class DraftWords(QAbstractButton):
    """'Draft cuts' beside the switch; opens them."""

    def __init__(self, session: Session, act, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Draft cuts: choose and change")
        self.setToolTip("Choose and change draft cuts")
        self.clicked.connect(lambda _=False: act())
        follow(self, session.own.draft_changed, self.update)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        on = self._session.own.draft_on
        painter.setFont(theme.words(12, 700 if on else 500))
        painter.setPen(theme.INK if on or self.underMouse() else theme.INK2)
        painter.drawText(
            self.rect().adjusted(2, 0, -4, 0),
            Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight,
            "Draft cuts" + (": on" if on else ""),
        )
        if self.hasFocus():
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.75, 0.75, -0.75, -0.75), 3, 3)


class DraftBanner(QWidget):
    """Over every stage while draft cuts are on: hatched, with one plate that says so."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setFixedHeight(26)
        self.setAccessibleName("Draft cuts are on")
        follow(self, session.own.draft_changed, self._refresh)
        self._refresh()

    @property
    def words(self) -> str:
        """What the plate says."""
        return f"Draft cut '{self._session.own.cuts.current.name}' is on: proofs are reduced, not for delivery"

    def _refresh(self) -> None:
        self.setVisible(self._session.own.draft_on)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.PAGE)
        painter.fillRect(self.rect(), theme.hatch(theme.INK3, 8, 2.2))
        painter.setFont(theme.words(13, 700))
        width = painter.fontMetrics().horizontalAdvance(self.words) + 24
        plate = QRectF(theme.PLOT_LEFT, 3, width, self.height() - 6)
        painter.fillRect(plate, theme.PAGE)
        painter.setPen(theme.INK)
        painter.drawText(plate, Qt.AlignmentFlag.AlignCenter, self.words)


class RecipeTable(QDialog):
    """Recipes as columns, lines as rows; what differs stands out, and a shot's departures have a column of their own."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Recipes, line by line")
        self.head = QLabel("")
        self.head.setFont(theme.words(13))
        self.table = QTableWidget(self)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setFont(theme.words(13))
        self.table.setShowGrid(False)
        self.table.setAccessibleName("Recipes, line by line")
        self.table.setStyleSheet(
            f"QTableWidget {{ background: {theme.STAGE.name()}; border: 0; }}"
            f"QHeaderView::section {{ background: {theme.STAGE.name()}; color: {theme.INK2.name()}; border: 0; padding: 4px 12px; }}"
            f"QTableCornerButton::section {{ background: {theme.STAGE.name()}; border: 0; }}"
        )
        column = QVBoxLayout(self)
        column.addWidget(self.head)
        column.addWidget(self.table)
        follow(self, session.reel_changed, self.refresh)
        self.refresh()
        self.resize(220 + 120 * self.table.columnCount(), 60 + 30 * (self.table.rowCount() + 1))

    def refresh(self) -> None:
        """Show the recipes as they stand."""
        reel = self._session.reel
        shot = self._session.shot
        columns = [(r.name, reel.declared(r)) for r in reel.recipes]
        settings = columns[0][1].settings
        if shot.departures:
            columns.append((f"{shot.id} departs", reel.recipe_of(shot)))
        self.table.setColumnCount(len(columns))
        self.table.setRowCount(len(settings))
        self.table.setHorizontalHeaderLabels([name for name, _ in columns])
        self.table.setVerticalHeaderLabels([f"{line.group}: {line.words}" for line in settings])
        differing = 0
        for row, line in enumerate(settings):
            values = [recipe.value(line.field) for _, recipe in columns]
            differs = any(v != values[0] for v in values)
            differing += differs
            for k, value in enumerate(values):
                item = QTableWidgetItem(f"{line.text(value)} {line.unit}".strip())
                item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                item.setFont(theme.words(13, 700 if differs else 500))
                item.setForeground(theme.INK if differs else theme.INK3)
                self.table.setItem(row, k, item)
        self.table.resizeColumnsToContents()
        self.head.setText(
            f"{differing} of {len(settings)} lines differ." if len(columns) > 1 else "There is one recipe: duplicate it to compare."
        )
