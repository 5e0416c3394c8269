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
from hasty_reel.desk.session import Session
from hasty_reel.desk.thumbs import Thumbnails
from hasty_reel.evidence.sheet import SORTS, Card, SortBy, chosen, lineage
from hasty_reel.reel.edits import with_mark

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


def tip_of(card: Card) -> str:
    """All of a card in lines."""
    proof = card.proof
    lines = [
        f"Proof {proof.id}, made {proof.made[:16].replace('T', ' ')}, recipe {proof.recipe.name}",
        f"{proof.width}x{proof.height}, {proof.samples} samples, frames {card.frames_text}",
        (f"Against {card.parent}: " + (", ".join(card.changes) or "nothing changed")) if card.parent else "The first proof",
    ]
    if np.isfinite(card.noise):
        lines.append(f"noise {card.noise:.4f} linear, {card.noise_L:.2f} L*; its grain is seen as {card.seen:.2f} JND of flicker")
    if np.isfinite(card.flicker_L):
        lines.append(f"flicker of the run, along the motion: {card.flicker_L:.2f} L*")
    memory = max((p.memory_bytes for p in proof.pictures), default=0)
    if memory:
        lines.append(f"its renderer took up to {memory / 2**20:.0f} MB; what it printed is kept beside its pictures")
    if proof.draft:
        lines.append(f"Made under draft cut '{proof.draft}'")
    if card.mark.note:
        lines.append(card.mark.note)
    lines.append("S: star · N: note · Delete: put away · right click: more")
    return "\n".join(lines)


class CardPainter(QStyledItemDelegate):
    """Paints a card."""

    def __init__(self, view: ProofSheet, thumbs: Thumbnails) -> None:
        super().__init__(view)
        self._view, self._thumbs = view, thumbs

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
        painter.drawText(QRectF(x, top + 20, width, 18), middle, figures_of(card))
        painter.setFont(theme.words(12))
        painter.setPen(theme.MAT_INK2)
        words = ", ".join(card.changes) if card.changes else f"{card.proof.samples} samples, {card.proof.width}×{card.proof.height}"
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
        image = self._thumbs.image(str(card.rows[len(card.rows) // 2].picture)) if card.rows else None
        if image is not None:
            scale = min(box.width() / image.width(), box.height() / image.height())
            w, h = image.width() * scale, image.height() * scale
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(QRectF(box.center().x() - w / 2, box.center().y() - h / 2, w, h), image)
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


def figures_of(card: Card) -> str:
    """Seconds, noise and flicker in one line."""
    if not card.rows:
        return ""
    text = f"{card.seconds:.2f} s"
    if np.isfinite(card.noise):
        text += f", noise {card.noise:.3f}, seen {card.seen:.1f} JND"
    if np.isfinite(card.flicker_L):
        text += f", flicker {card.flicker_L:.1f} L*"
    return text


class ProofSheet(QListView):
    """The cards with their hands."""

    picked = Signal(str)

    def __init__(self, session: Session, thumbs: Thumbnails, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.shown: str | None = None
        self.model_ = Cards(self)
        self.setModel(self.model_)
        self.setItemDelegate(CardPainter(self, thumbs))
        self.setUniformItemSizes(True)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setMouseTracking(True)
        self.setAccessibleName("Proof sheet")
        self.setStyleSheet(f"QListView {{ background: {theme.MAT.name()}; border: 0; }}")
        thumbs.loaded.connect(lambda _: self.viewport().update())
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
            self.star(card)
            return
        super().mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        card = self.current()
        if card is None:
            super().keyPressEvent(event)
        elif event.key() == Qt.Key.Key_S:
            self.star(card)
        elif event.key() == Qt.Key.Key_N:
            self.ask_note(card)
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.put_away(card)
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
        menu.addAction("No star" if card.mark.star else "Star").triggered.connect(lambda: self.star(card))
        menu.addAction("Note …").triggered.connect(lambda: self.ask_note(card))
        menu.addAction("Take back" if card.mark.away else "Put away").triggered.connect(lambda: self.put_away(card))
        use = menu.addAction("Use these settings")
        use.setEnabled(not card.proof.draft)
        use.setToolTip("Its settings become the recipe of the shot")
        use.triggered.connect(lambda: self._session.use_settings(card.proof))
        menu.addSeparator()
        line = " ← ".join(lineage(self.model_.cards, card.proof.id))
        entry = menu.addAction(f"From: {line}")
        entry.setEnabled(False)
        return menu

    # -- decisions about proofs are edits of the reel

    def _mark(self, name: str, card: Card, **changes: Any) -> None:
        shot_id = self._session.shot_id
        self._session.do(f"{name} {card.proof.id}", lambda reel: with_mark(reel, shot_id, card.proof.id, **changes))

    def star(self, card: Card) -> None:
        """Star a proof, or take the star off."""
        self._mark("Unstar" if card.mark.star else "Star", card, star=not card.mark.star)

    def put_away(self, card: Card) -> None:
        """Put a proof away: it is no evidence any more; or take it back. Its files stay."""
        self._mark("Take back" if card.mark.away else "Put away", card, away=not card.mark.away)

    def note(self, card: Card, text: str) -> None:
        """Note something about a proof."""
        self._mark("Note on", card, note=text.strip())

    def ask_note(self, card: Card) -> None:
        """Ask for a note."""
        dialog = QInputDialog(self)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.setWindowTitle(f"Note on {card.proof.id}")
        dialog.setLabelText("What it showed")
        dialog.setTextValue(card.mark.note)
        dialog.textValueSelected.connect(lambda text: self.note(card, text))
        dialog.open()


class SheetPage(QWidget):
    """The sheet with what chooses and sorts it."""

    def __init__(self, session: Session, thumbs: Thumbnails, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._by: SortBy = "newest"
        self.filter = QLineEdit(self)
        self.filter.setPlaceholderText("Filter: bounces, p00, 1048 …")
        self.filter.setAccessibleName("Filter proofs")
        self.filter.setFont(theme.words(13))
        self.filter.setFixedHeight(22)
        self.filter.setClearButtonEnabled(True)
        self.filter.setStyleSheet(f"QLineEdit {{ background: {theme.WELL.name()}; border: 0; border-radius: 2px; padding: 0 6px; }}")
        self.filter.textChanged.connect(self.refresh)
        self.sort = PickButton(self._sort_menu, self)
        self.sort.setAccessibleName("Sort by")
        self.starred = Switch("Starred", lambda on: self.refresh(), self)
        self.away = Switch("Put away", lambda on: self.refresh(), self)
        self.away.setToolTip("Show the proofs that were put away; they can be taken back")
        self.sheet = ProofSheet(session, thumbs, self)
        row = QHBoxLayout()
        row.setContentsMargins(10, 6, 8, 6)
        row.setSpacing(8)
        row.addWidget(self.filter, 1)
        row.addWidget(self.sort)
        row.addWidget(self.starred)
        row.addWidget(self.away)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.sheet, 1)
        self.refresh()

    def _sort_menu(self) -> QMenu:
        menu = QMenu(self)
        for name in SORTS:
            entry = menu.addAction(name)
            entry.setCheckable(True)
            entry.setChecked(name == self._by)
            entry.triggered.connect(lambda _=False, n=name: self.set_sort(n))
        return menu

    def set_sort(self, by: SortBy) -> None:
        """Sort otherwise."""
        self._by = by
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Show the cards that are asked for."""
        self.sort.show_value(self._by)
        found = chosen(self._session.cards, self.filter.text(), self.starred.isChecked(), self.away.isChecked(), self._by)
        self.sheet.model_.show_cards(found)
