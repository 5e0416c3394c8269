"""The finder: a field and a list; what is typed finds actions, stages, pages, settings, shots, frames and reels opened lately."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QPainter
from PySide6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QStyledItemDelegate, QStyleOptionViewItem, QVBoxLayout

from hasty_reel.desk import theme
from hasty_reel.desk.tabs import TabbedPages
from hasty_reel.own.recentreels import recent_path, recent_reels
from hasty_reel.studio.finder import Findable, found_by, frames_found

if TYPE_CHECKING:
    from hasty_reel.desk.window import ReelWindow

ROW = 26
MOVES = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown)


class FinderRow(QStyledItemDelegate):
    """A thing's name, what it is, and its keys at the right."""

    def sizeHint(self, option, index) -> QSize:
        return QSize(200, ROW)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index) -> None:
        thing: Findable = index.data(Qt.ItemDataRole.UserRole)
        chosen = bool(option.state & option.state.State_Selected)
        box = QRectF(option.rect)
        if chosen:
            painter.fillRect(box, theme.RAISED)
        painter.setFont(theme.words(13, 700 if chosen else 500))
        painter.setPen(theme.INK)
        name = painter.fontMetrics().elidedText(thing.words, Qt.TextElideMode.ElideRight, round(box.width() - 260))
        painter.drawText(box.adjusted(10, 0, -250, 0), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(theme.words(12))
        painter.setPen(theme.INK2)
        painter.drawText(box.adjusted(0, 0, -120, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, thing.kind)
        painter.drawText(box.adjusted(0, 0, -10, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, thing.keys)


class Finder(QDialog):
    """Return or a click does what is chosen; the arrows choose, Esc leaves."""

    def __init__(self, window: ReelWindow) -> None:
        super().__init__(window)
        self._window = window
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Find")
        self.resize(620, 460)
        self._things = self._all()
        self.field = QLineEdit(self)
        self.field.setPlaceholderText("A command, a stage, a setting, a shot, a frame number …")
        self.field.setAccessibleName("What to find")
        self.field.setFont(theme.words(15))
        self.field.installEventFilter(self)
        self.field.textChanged.connect(self._look)
        self.list = QListWidget(self)
        self.list.setItemDelegate(FinderRow(self.list))
        self.list.setAccessibleName("What was found")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemClicked.connect(lambda item: self._do())
        column = QVBoxLayout(self)
        column.addWidget(self.field)
        column.addWidget(self.list, 1)
        self._look("")
        self.field.setFocus()

    def _all(self) -> list[Findable]:
        """Everything that can be found, but frames."""
        window, session = self._window, self._window.session
        out = []
        for action in window.actions():
            if action is not window.find_action and action.isEnabled():
                kind = "stage" if action.text() in window.stage_names else "command"
                out.append(Findable(action.text().rstrip(" …"), kind, action.shortcut().toString(), action.trigger))
        for k, name in enumerate(window.stage_names):
            for pages in window.stage.stage(k).findChildren(TabbedPages) if window.stage.there(k) else ():
                names = [choice.text() for choice in pages.choices]
                out += [Findable(w, f"in {name}", "", partial(self._page, k, pages, n)) for n, w in enumerate(names)]
        for line in session.recipe.settings:
            words = line.full or line.label
            name = words[0].upper() + words[1:]
            out.append(Findable(name, f"setting, {line.group}", "", partial(window.ledger.show_line, line.field), line.meaning))
        out += [Findable(f"{s.id} {s.name}".strip(), "shot", "", partial(session.playhead.show_shot, s.id)) for s in session.reel.shots]
        others = [path for path in recent_reels(recent_path()) if path != session.path.resolve()]
        return out + [Findable(path.stem, "reel", "", partial(window.open_reel, path), str(path.parent)) for path in others]

    def _page(self, stage: int, pages: TabbedPages, page: int) -> None:
        self._window.show_stage(stage)
        pages.show_page(page)

    def _frame(self, shot: str, frame: int) -> None:
        self._window.session.playhead.show_shot(shot)
        self._window.session.playhead.show_frame(frame)

    def _look(self, text: str) -> None:
        session = self._window.session
        shots = sorted(session.reel.shots, key=lambda s: s.id != session.playhead.shot_id)
        frames = frames_found(text, [(s.id, s.begin, s.past - 1) for s in shots], self._frame)
        self.list.clear()
        for thing in [*frames, *found_by(text, self._things)]:
            item = QListWidgetItem(thing.words)
            item.setData(Qt.ItemDataRole.UserRole, thing)
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _do(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            thing: Findable = item.data(Qt.ItemDataRole.UserRole)
            self.accept()
            thing.act()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.field and event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            if event.key() in MOVES:
                rows = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1, Qt.Key.Key_PageUp: -10, Qt.Key.Key_PageDown: 10}[Qt.Key(event.key())]
                self.list.setCurrentRow(min(max(0, self.list.currentRow() + rows), self.list.count() - 1))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._do()
                return True
        return super().eventFilter(watched, event)
