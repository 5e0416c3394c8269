"""The table of shots: a row a shot, painted only where it is seen, so that thousands do not matter."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QAbstractListModel, QMimeData, QModelIndex, QObject, QPersistentModelIndex, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QAbstractItemView, QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.follow import follow
from hasty_reel.desk.picture import draw_fitted, thumbnail
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.rate import seconds_text, timecode
from hasty_reel.reel.shot import Shot
from hasty_reel.studio.brief.shotlist import ShotListModel
from hasty_reel.studio.brief.shottext import frames_text, shot_tip
from hasty_reel.studio.session import Session

ROW_HEIGHT = 46
THUMB = (68.0, 38.0)
PLACE, RECIPE_RIGHT, HOURS_RIGHT = 250, 130, 12
"""Where the columns stand: frames at x, recipe and hours from the right edge."""
MIME = "application/x-hasty-reel-shot"
Index = QModelIndex | QPersistentModelIndex


class ShotList(QAbstractListModel):
    """The shots of the reel; it keeps none itself."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session, self._model = session, ShotListModel(session)
        self._shots = session.reel.shots
        follow(self, session.reel_changed, self._reel_changed)

    def _reel_changed(self) -> None:
        shots = self._session.reel.shots
        if len(shots) == len(self._shots):
            other = [k for k, (a, b) in enumerate(zip(shots, self._shots)) if a is not b]
            if all(shots[k].id == self._shots[k].id for k in other):
                self._shots = shots
                if other:
                    self.dataChanged.emit(self.index(other[0]), self.index(other[-1]))
                return
        self.beginResetModel()
        self._shots = shots
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008 - the signature is Qt's
        return 0 if parent.isValid() else len(self._shots)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> Any:
        if not index.isValid() or index.row() >= len(self._shots):
            return None
        shot = self._shots[index.row()]
        if role == Qt.ItemDataRole.UserRole:
            return shot
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            return f"{shot.id} {shot.name}, {frames_text(shot)}"
        if role == Qt.ItemDataRole.ToolTipRole:
            return shot_tip(shot, self._session.reel, self._session.planner.outlook)
        return None

    def row_of(self, shot_id: str) -> int:
        """The row of a shot, or of the shot a layer belongs to; -1 without one."""
        whole = shot_id.partition(".")[0]
        return next((k for k, s in enumerate(self._shots) if s.id == whole), -1)

    # -- dragging a row is an edit of the reel, not of the model

    def flags(self, index: Index) -> Qt.ItemFlag:
        if not index.isValid():
            return Qt.ItemFlag.ItemIsDropEnabled
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsDragEnabled

    def supportedDropActions(self) -> Qt.DropAction:
        return Qt.DropAction.MoveAction

    def mimeTypes(self) -> list[str]:
        return [MIME]

    def mimeData(self, indexes: Any) -> QMimeData:
        data = QMimeData()
        data.setData(MIME, self._shots[indexes[0].row()].id.encode())
        return data

    def dropMimeData(self, data: QMimeData, action: Qt.DropAction, row: int, column: int, parent: Index) -> bool:
        if not data.hasFormat(MIME):
            return False
        shot_id = bytes(data.data(MIME).data()).decode("ascii", "replace")
        if not self._session.reel.has_shot(shot_id):
            return False
        row = len(self._shots) if row < 0 else row
        here = self.row_of(shot_id)
        self._model.move(shot_id, row - 1 if here < row else row)
        return False  # the edit has changed the reel, and the model with it: Qt must not take the row out again


class ShotRow(QStyledItemDelegate):
    """Paints a row: thumbnail, name, frames, time, recipe, hours."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        return QSize(200, ROW_HEIGHT)

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        shot: Shot = index.data(Qt.ItemDataRole.UserRole)
        reel = self._session.reel
        box = QRectF(option.rect)
        state = option.state
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = shot.id == self._session.playhead.whole_id
        if chosen:
            painter.fillRect(box.adjusted(0, 0, 0, -1), theme.LIFTED)
            painter.fillRect(QRectF(box.left(), box.top(), 2, box.height() - 1), theme.LAGOON)
        elif state & QStyle.StateFlag.State_MouseOver:
            painter.fillRect(box.adjusted(0, 0, 0, -1), theme.HOVER)
        painter.setPen(theme.NEUTRAL_RULE)
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        self._paint_thumb(painter, QRectF(box.left() + 10, box.top() + 4, *THUMB), shot)
        ink, quiet = (theme.INK, theme.INK2) if shot.enabled else (theme.OFF, theme.OFF)
        left = box.left() + 90
        upper, lower = box.top() + 4, box.top() + 23
        painter.setFont(theme.words(13, 700 if chosen else 600))
        painter.setPen(ink)
        width = PLACE - 90 - 10
        name = QFontMetrics(painter.font()).elidedText(shot.name, Qt.TextElideMode.ElideRight, width)
        painter.drawText(QRectF(left, upper, width, 18), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(theme.words(12))
        painter.setPen(quiet)
        words = shot.id + ("" if shot.enabled else ", off") + (f", {len(shot.layers)} layers" if shot.layers else "")
        painter.drawText(QRectF(left, lower, width, 18), Qt.AlignmentFlag.AlignVCenter, words)
        x = box.left() + PLACE
        wide = box.right() - RECIPE_RIGHT - x - 4
        painter.setFont(theme.words(13))
        painter.setPen(ink)
        metrics = QFontMetrics(painter.font())
        painter.drawText(
            QRectF(x, upper, wide, 18),
            Qt.AlignmentFlag.AlignVCenter,
            metrics.elidedText(frames_text(shot), Qt.TextElideMode.ElideRight, int(wide)),
        )
        painter.setFont(theme.words(12))
        painter.setPen(quiet)
        place = reel.places.get(shot.id)
        at = "not in the film" if place is None else timecode(reel.start_frame + place, reel.fps, reel.drop_frame)
        kind = shot.move.words() if shot.move is not None else seconds_text(shot.length, reel.fps)
        text = QFontMetrics(painter.font()).elidedText(f"{at} · {kind}", Qt.TextElideMode.ElideRight, int(wide))
        painter.drawText(QRectF(x, lower, wide, 18), Qt.AlignmentFlag.AlignVCenter, text)
        self._paint_end(painter, box, shot, ink, quiet)
        if state & QStyle.StateFlag.State_HasFocus and self._by_key():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(box.adjusted(3, 1, -2, -2), 3, 3)
        painter.restore()

    def _by_key(self) -> bool:
        view = self.parent()
        return isinstance(view, ShotTable) and view.by_key

    def _paint_end(self, painter: QPainter, box: QRectF, shot: Shot, ink, quiet) -> None:
        upper, lower = box.top() + 4, box.top() + 23
        right = box.right() - HOURS_RIGHT
        painter.setFont(theme.words(13))
        painter.setPen(quiet)
        recipe_box = QRectF(box.right() - RECIPE_RIGHT, lower, RECIPE_RIGHT - HOURS_RIGHT, 18)
        words = shot.recipe + (f", departs in {len(shot.departures)}" if shot.departures else "")
        painter.setFont(theme.words(12))
        align = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        words = QFontMetrics(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, int(recipe_box.width()))
        painter.drawText(recipe_box, align, words)
        outlook = self._session.planner.outlook
        seconds = outlook.seconds_of(shot)
        if seconds is not None:
            painter.setFont(theme.figures(12, 500))
            painter.setPen(theme.OFF if self._session.planner.stale else ink)
            painter.drawText(QRectF(right - 110, upper, 110, 18), align, spoken(seconds / self._session.reel.frame_speed))
        elif any(t.id in outlook.lacks for t in shot.as_layers()) and shot.enabled:
            painter.setFont(theme.words(12))
            painter.setPen(theme.INK2)
            text = "no proof yet"
            painter.drawText(QRectF(right - 110, upper, 110, 18), align, text)
            marks.triangle(painter, right - QFontMetrics(painter.font()).horizontalAdvance(text) - 12, upper + 9, radius=6)

    def _paint_thumb(self, painter: QPainter, box: QRectF, shot: Shot) -> None:
        painter.fillRect(box, theme.MAT)
        image = None
        for part in shot.as_layers()[::-1]:
            found = self._session.planner.evidence.get(part.id)
            row = found.newest((part.first + part.last) // 2) if found is not None else None
            if row is not None:
                image = thumbnail(self._session, row.picture)
                break
        if image is None:
            painter.setPen(theme.MAT_RULE)
            painter.drawLine(box.bottomLeft(), box.topRight())
            return
        painter.setOpacity(1.0 if shot.enabled else 0.4)
        draw_fitted(painter, box, image)
        painter.setOpacity(1.0)


class ShotTable(QListView):
    """The list with its hands: click looks at a shot, drag moves it."""

    wanted = Signal(str)
    """'new', 'duplicate', 'split', 'remove', 'name': asked for by key."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.by_key = False
        self.shots = ShotList(session, self)
        self.setModel(self.shots)
        self.setItemDelegate(ShotRow(session, self))
        self.setUniformItemSizes(True)
        self.setFrameShape(QListView.Shape.NoFrame)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setDefaultDropAction(Qt.DropAction.MoveAction)
        self.setDragDropOverwriteMode(False)
        self.setMouseTracking(True)
        self.setAccessibleName("Shots")
        self.setStyleSheet(f"QListView {{ background: {theme.STAGE.name()}; border: 0; }}")
        self.selectionModel().currentChanged.connect(self._current)
        self.doubleClicked.connect(lambda _: self.wanted.emit("name"))
        self.shots.modelReset.connect(self._follow)
        follow(self, session.playhead.shot_changed, self._follow)
        follow(self, session.pictures.came, lambda: self.viewport().update())
        for signal in (session.planner.plan_changed, session.planner.planning, session.planner.evidence_changed, session.reel_changed):
            follow(self, signal, lambda: self.viewport().update())
        self._follow()

    def dataChanged(self, first: Index, last: Index, roles: Sequence[int] = ()) -> None:
        """Rows are all alike in size: other words in one need no new layout, which would ask for every row of a long film."""
        self.viewport().update()

    def _current(self, now: QModelIndex, before: QModelIndex) -> None:
        shot = now.data(Qt.ItemDataRole.UserRole)
        if shot is not None and shot.id != self._session.playhead.whole_id:
            self._session.playhead.show_shot(shot.id)

    def _follow(self) -> None:
        row = self.shots.row_of(self._session.playhead.shot_id)
        if row >= 0 and row != self.currentIndex().row():
            self.selectionModel().blockSignals(True)
            self.setCurrentIndex(self.shots.index(row))
            self.selectionModel().blockSignals(False)
            self.scrollTo(self.shots.index(row))
        self.viewport().update()

    def focusInEvent(self, event) -> None:
        self.by_key = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        super().focusInEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, alt = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if alt and key in steps:
            shot_id = self._session.playhead.whole_id
            row = self.shots.row_of(shot_id) + steps[Qt.Key(key)]
            if 0 <= row < self.shots.rowCount():
                ShotListModel(self._session).move(shot_id, row)
            return
        if key == Qt.Key.Key_Delete:
            self.wanted.emit("remove")
            return
        if key in (Qt.Key.Key_Return, Qt.Key.Key_F2):
            self.wanted.emit("name")
            return
        self.by_key = True
        super().keyPressEvent(event)
