"""The proof sheet: cards painted only where they are seen, so that thousands do not matter."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QFontMetrics, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QListView,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, Switch
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.picture import draw_fitted, thumbnail
from hasty_reel.evidence.sheet import SORTS, Card, lineage
from hasty_reel.studio.proofs.cardtext import figures_of, tip_of
from hasty_reel.studio.session import Session

CARD_HEIGHT = 80
THUMB = (108.0, 61.0)
Index = QModelIndex | QPersistentModelIndex


class Cards(QAbstractListModel):
    """The cards that are shown."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.cards: list[Card] = []

    def show_cards(self, cards: list[Card]) -> None:
        """Show other cards; the same proofs are repainted only."""
        if [c.proof.id for c in cards] == [c.proof.id for c in self.cards]:
            self.cards = cards
            if cards:
                self.dataChanged.emit(self.index(0), self.index(len(cards) - 1))
            return
        self.beginResetModel()
        self.cards = cards
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - the signature is Qt's
        return 0 if parent.isValid() else len(self.cards)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or index.row() >= len(self.cards):
            return None
        card = self.cards[index.row()]
        if role == Qt.ItemDataRole.UserRole:
            return card
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"Proof {card.proof.id}, {card.frames_text}, {', '.join(card.changes)}"
        if role == Qt.ItemDataRole.ToolTipRole:
            return tip_of(card)
        return None


class CardPainter(QStyledItemDelegate):
    """Paints a card."""

    def __init__(self, view: ProofSheet, session: Session) -> None:
        super().__init__(view)
        self._view, self._session = view, session

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(200, CARD_HEIGHT)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        card: Card = index.data(Qt.ItemDataRole.UserRole)
        box = QRectF(option.rect)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        shown = card.proof.id == self._view.shown
        if shown:
            painter.fillRect(box.adjusted(0, 0, 0, -1), theme.MAT.lighter(118))
        elif option.state & QStyle.StateFlag.State_MouseOver:
            painter.fillRect(box.adjusted(0, 0, 0, -1), theme.MAT.lighter(108))
        painter.setPen(theme.MAT_RULE)
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        self._paint_thumb(painter, QRectF(box.left() + 10, box.top() + 9, *THUMB), card, shown)
        x, width = box.left() + 128, box.width() - 138
        top = box.top() + 7
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(theme.words(13, 700))
        painter.setPen(theme.MAT_INK)
        painter.drawText(QRectF(x, top, 48, 18), middle, card.proof.id)
        star_x = box.right() - 20
        self._star(painter, star_x, top + 9, card.mark.star)
        painter.setFont(theme.words(12))
        painter.setPen(theme.MAT_INK2)
        metrics = QFontMetrics(painter.font())
        frames = card.frames_text
        if metrics.horizontalAdvance(frames) > width - 84 and card.rows:
            frames = f"{len(card.rows)} frames, {card.rows[0].frame}–{card.rows[-1].frame}"
        painter.drawText(QRectF(x + 44, top, width - 84, 18), middle, frames)
        painter.setFont(theme.words(13))
        painter.setPen(theme.MAT_INK)
        parts, metrics = figures_of(card), QFontMetrics(painter.font())
        # whole figures, as many as there is room for; the rest is told when it is pointed at
        while len(parts) > 1 and metrics.horizontalAdvance(", ".join(parts)) > width:
            parts.pop()
        painter.drawText(QRectF(x, top + 20, width, 18), middle, ", ".join(parts))
        painter.setFont(theme.words(12))
        painter.setPen(theme.MAT_INK2)
        metrics = QFontMetrics(painter.font())
        words = ", ".join(card.changes) if card.changes else f"{card.proof.samples} samples, {card.proof.size_words}"
        if card.proof.draft:
            words = f"draft cut '{card.proof.draft}', " + words
        if card.mark.note:
            words = f"“{card.mark.note}” " + words
        painter.drawText(QRectF(x, top + 40, width, 18), middle, metrics.elidedText(words, Qt.TextElideMode.ElideRight, int(width)))
        if option.state & QStyle.StateFlag.State_HasFocus and self._view.hasFocus():
            painter.setPen(QPen(theme.MAT_INK, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(2, 2, -2, -3), 3, 3)
        painter.restore()

    def _paint_thumb(self, painter: QPainter, box: QRectF, card: Card, shown: bool) -> None:
        painter.fillRect(box, theme.MAT_RULE)
        image = thumbnail(self._session, card.rows[len(card.rows) // 2].picture) if card.rows else None
        if image is not None:
            draw_fitted(painter, box, image)
        if shown:
            painter.setPen(QPen(theme.MAT_INK, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(-2, -2, 2, 2))

    def _star(self, painter: QPainter, x: float, y: float, on: bool) -> None:
        path = QPainterPath()
        for k in range(10):
            r = 6.5 if k % 2 == 0 else 2.8
            angle = np.pi * (k / 5.0 - 0.5)
            point = (x + r * np.cos(angle), y + r * np.sin(angle))
            path.lineTo(*point) if k else path.moveTo(*point)
        path.closeSubpath()
        painter.setPen(QPen(theme.MAT_INK if on else theme.NEUTRAL_STRONG, 1))
        painter.setBrush(theme.MAT_INK if on else Qt.BrushStyle.NoBrush)
        painter.drawPath(path)


class ProofSheet(QListView):
    """The cards with their hands."""

    picked = Signal(str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.shown: str | None = None
        self.model_ = Cards(self)
        self.setModel(self.model_)
        self.setItemDelegate(CardPainter(self, session))
        self.setUniformItemSizes(True)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setMouseTracking(True)
        self.setAccessibleName("Proof sheet")
        self.setStyleSheet(f"QListView {{ background: {theme.MAT.name()}; border: 0; }}")
        follow(self, session.pictures.came, lambda: self.viewport().update())
        self.clicked.connect(lambda index: self.picked.emit(index.data(Qt.ItemDataRole.UserRole).proof.id))

    def set_shown(self, proof_id: str | None) -> None:
        """Mark the proof whose picture is shown."""
        self.shown = proof_id
        self.viewport().update()

    def current(self) -> Card | None:
        """The card under the cursor."""
        return self.currentIndex().data(Qt.ItemDataRole.UserRole)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index = self.indexAt(event.position().toPoint())
        card = index.data(Qt.ItemDataRole.UserRole)
        box = self.visualRect(index)
        if card is not None and event.position().x() > box.right() - 34 and event.position().y() < box.top() + 30:
            self._session.cards.star(card)
            return
        super().mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        card = self.current()
        if card is None:
            super().keyPressEvent(event)
        elif event.key() == Qt.Key.Key_S:
            self._session.cards.star(card)
        elif event.key() == Qt.Key.Key_N:
            self.ask_note(card)
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._session.cards.hide(card)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.picked.emit(card.proof.id)
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        card = self.indexAt(event.pos()).data(Qt.ItemDataRole.UserRole)
        if card is not None:
            self.menu_of(card).popup(event.globalPos())

    def menu_of(self, card: Card) -> QMenu:
        """What can be done with a card."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addAction("No star" if card.mark.star else "Star").triggered.connect(lambda: self._session.cards.star(card))
        menu.addAction("Note …").triggered.connect(lambda: self.ask_note(card))
        menu.addAction("Take back" if card.mark.away else "Hide").triggered.connect(lambda: self._session.cards.hide(card))
        use = menu.addAction("Use these settings")
        use.setEnabled(not card.proof.draft)
        use.setToolTip("Its settings become the recipe of the shot")
        use.triggered.connect(lambda: self._session.use_settings(card.proof))
        menu.addSeparator()
        line = " ← ".join(lineage(self.model_.cards, card.proof.id))
        entry = menu.addAction(f"From: {line}")
        entry.setEnabled(False)
        return menu

    def ask_note(self, card: Card) -> None:
        """Ask for a note."""
        dialog = QInputDialog(self)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.setWindowTitle(f"Note on {card.proof.id}")
        dialog.setLabelText("What it showed")
        dialog.setTextValue(card.mark.note)
        dialog.textValueSelected.connect(lambda text: self._session.cards.note(card, text))
        dialog.open()


class SheetPage(QWidget):
    """The sheet with what chooses and sorts it."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._cards = session.cards
        self.filter = QLineEdit(self)
        self.filter.setPlaceholderText("Filter: bounces, p00, 1048 …")
        self.filter.setAccessibleName("Filter proofs")
        self.filter.setFont(theme.words(13))
        self.filter.setFixedHeight(22)
        self.filter.setClearButtonEnabled(True)
        self.filter.setStyleSheet(f"QLineEdit {{ background: {theme.WELL.name()}; border: 0; border-radius: 2px; padding: 0 6px; }}")
        self.filter.textChanged.connect(lambda text: self._cards.list_by(text=text))
        self.sort = PickButton(
            lambda: choice_menu(self, [(s, s) for s in SORTS], self._cards.sort, lambda s: self._cards.list_by(sort=s)), self
        )
        self.sort.setAccessibleName("Sort by")
        self.starred = Switch("Starred", lambda on: self._cards.list_by(starred=on), self)
        self.hidden = Switch("Hidden", lambda on: self._cards.list_by(hidden=on), self)
        self.hidden.setToolTip("Show the proofs that were hidden; they can be taken back")
        self.sheet = ProofSheet(session, self)
        row = QHBoxLayout()
        row.setContentsMargins(10, 6, 8, 6)
        row.setSpacing(8)
        row.addWidget(self.filter, 1)
        row.addWidget(self.sort)
        row.addWidget(self.starred)
        row.addWidget(self.hidden)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.sheet, 1)
        for signal in (
            self._cards.changed, self._cards.listing_changed, session.planner.evidence_changed, session.playhead.shot_changed,
        ):  # fmt: skip
            follow(self, signal, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the cards that are asked for."""
        cards = self._cards
        self.sort.show_value(cards.sort)
        self.starred.setChecked(cards.starred)
        self.hidden.setChecked(cards.hidden)
        self.sheet.model_.show_cards(cards.listed)
