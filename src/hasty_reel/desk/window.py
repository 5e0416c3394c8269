"""The window: header and reel strip with the frames between them, the price at the right."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QAction, QCloseEvent, QKeyEvent, QKeySequence, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QMenu,
    QMessageBox,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from hasty_reel.desk import theme
from hasty_reel.desk.clock import DeadlineClock
from hasty_reel.desk.header import DONE, LOOK, UNTOUCHED, Header, StageMark
from hasty_reel.desk.ledger import Ledger
from hasty_reel.desk.notice import Notice
from hasty_reel.desk.session import Session
from hasty_reel.desk.stages.budget import BudgetStage
from hasty_reel.desk.stages.proofs import ProofsStage
from hasty_reel.desk.stages.run import RunStage
from hasty_reel.desk.strip import ReelStrip
from hasty_reel.desk.total import ShotTotal
from hasty_reel.errors import HastyReelError

STAGES = ["Proofs", "Budget", "Run"]
PROOFS, BUDGET, RUN = range(3)
KEYS = (
    ("Ctrl+1 … Ctrl+3", "Proofs, Budget, Run"),
    ("← →", "one frame; with Shift ten frames"),
    ("Home, End", "first and last frame of the shot"),
    ("Space", "play or stop the film (Run)"),
    ("Shift-drag on the reel strip", "select frames; Esc clears"),
    ("Wheel on the reel strip", "zoom"),
    ("Double click on the reel strip", "a proof of that frame"),
    ("↑ ↓ in a value", "one step; Esc leaves it as it was"),
    ("Ctrl+Z, Ctrl+Shift+Z", "undo, redo"),
    ("Ctrl+S, Ctrl+O", "save, open a reel"),
    ("F1", "this page"),
)


class Column(QWidget):
    """The right column: one page."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFixedWidth(theme.RIGHT_COLUMN)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.PAGE)


class ReelWindow(QMainWindow):
    """One reel, open."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        session.setParent(self)
        self.setWindowTitle("Hasty Reel")
        self.setMinimumSize(1100, 700)
        self.resize(1280, 800)
        self.header = Header(session, STAGES, self._menu, self)
        self.notice = Notice(self)
        self.stage = QStackedWidget(self)
        self.proofs = ProofsStage(session, self)
        self.budget = BudgetStage(session, self)
        self.run = RunStage(session, self)
        for widget in (self.proofs, self.budget, self.run):
            self.stage.addWidget(widget)
        self.strip = ReelStrip(session, self)
        self.clock = DeadlineClock(session, self)
        self.ledger = Ledger(session, self)
        self.total = ShotTotal(session, self)
        self._lay_out()
        self._make_actions()
        self.header.stage_line.chosen.connect(self.show_stage)
        self.strip.proof_wanted.connect(self._proof_wanted)
        session.said.connect(self.notice.say)
        for signal in (session.plan_changed, session.evidence_changed, session.shot_changed, session.reel_changed):
            signal.connect(self._refresh)
        QApplication.instance().installEventFilter(self)  # type: ignore[union-attr]
        self.show_stage(BUDGET)
        self._refresh()
        self.ledger.refresh()
        self.budget.refresh()
        self.strip.setFocus()
        session.read_evidence()

    def _lay_out(self) -> None:
        frames = QVBoxLayout()
        frames.setSpacing(0)
        frames.addWidget(self.header)
        frames.addWidget(self.notice)
        frames.addWidget(self.stage, 1)
        frames.addWidget(self.strip)
        column = Column(self)
        price = QVBoxLayout(column)
        price.setContentsMargins(0, 0, 0, 0)
        price.setSpacing(0)
        price.addWidget(self.clock)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(self.ledger)
        self.ledger.setMinimumWidth(theme.RIGHT_COLUMN)
        price.addWidget(scroll, 1)
        price.addWidget(self.total)
        whole = QWidget(self)
        row = QHBoxLayout(whole)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addLayout(frames, 1)
        row.addWidget(column)
        self.setCentralWidget(whole)

    # -- actions

    def _make_actions(self) -> None:
        def action(text: str, keys: str, act) -> QAction:
            made = QAction(text, self)
            made.setShortcut(QKeySequence(keys))
            made.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
            made.triggered.connect(lambda _=False: act())
            self.addAction(made)
            return made

        self.undo_action = action("Undo", "Ctrl+Z", self.session.undo)
        self.redo_action = action("Redo", "Ctrl+Shift+Z", self.session.redo)
        self.save_action = action("Save", "Ctrl+S", self.session.save)
        self.save_as_action = action("Save as …", "Ctrl+Shift+S", self._save_as)
        self.open_action = action("Open a reel …", "Ctrl+O", self._open)
        self.help_action = action("Keys", "F1", self._help)
        for k, name in enumerate(STAGES):
            action(name, f"Ctrl+{k + 1}", lambda k=k: self.show_stage(k))

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for shot in self.session.reel.shots:
            entry = menu.addAction(f"{shot.id}  {shot.name}, {len(shot.frames)} frames")
            entry.setCheckable(True)
            entry.setChecked(shot.id == self.session.shot_id)
            entry.triggered.connect(lambda _=False, s=shot.id: self.session.show_shot(s))
        menu.addSeparator()
        for entry in (self.undo_action, self.redo_action):
            menu.addAction(entry)
        menu.addSeparator()
        for entry in (self.open_action, self.save_action, self.save_as_action):
            menu.addAction(entry)
        menu.addSeparator()
        menu.addAction(self.help_action)
        return menu

    def _open(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Open a reel", str(self.session.path.parent), "Reels (*.reel)")
        if name and self._may_leave():
            self.open_reel(Path(name))

    def open_reel(self, path: Path) -> bool:
        """Open another reel in a window of its own place; a file that does not do is said, and this one stays."""
        try:
            session = Session(path)
        except HastyReelError as error:
            self.notice.say(str(error))
            return False
        window = ReelWindow(session)
        window.setGeometry(self.geometry())
        window.show()
        QApplication.instance().setProperty("reel_window", window)  # type: ignore[union-attr]
        self.session.saved = self.session.reel  # asked already
        self.close()
        return True

    def _save_as(self) -> None:
        name, _ = QFileDialog.getSaveFileName(self, "Save the reel as", str(self.session.path), "Reels (*.reel)")
        if name:
            path = Path(name)
            self.session.save(path if path.suffix == ".reel" else path.with_name(path.name + ".reel"))

    def _help(self) -> None:
        box = QMessageBox(self)
        box.setWindowTitle("Keys")
        rows = "".join(f"<tr><td style='padding-right:24px'><b>{k}</b></td><td>{w}</td></tr>" for k, w in KEYS)
        box.setText(f"<table>{rows}</table>")
        box.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        box.open()

    # -- keys that act on frames wherever one is, unless one is typing

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and self.isActiveWindow():
            focus = QApplication.focusWidget()
            typing = isinstance(focus, QLineEdit | QAbstractSpinBox) or QApplication.activeModalWidget() is not None
            if watched is focus and not typing and self._frame_key(event, focus):
                return True
        return super().eventFilter(watched, event)

    def _frame_key(self, event: QKeyEvent, focus: QWidget | None) -> bool:
        key, shot = event.key(), self.session.shot
        if focus is self.header.stage_line and key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            return False
        jump = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        if key == Qt.Key.Key_Left:
            self.session.show_frame(self.session.frame - jump)
        elif key == Qt.Key.Key_Right:
            self.session.show_frame(self.session.frame + jump)
        elif key == Qt.Key.Key_Home:
            self.session.show_frame(shot.begin)
        elif key == Qt.Key.Key_End:
            self.session.show_frame(shot.past - 1)
        elif key == Qt.Key.Key_Escape and self.session.selection is not None:
            self.session.select(None)
        elif (
            key == Qt.Key.Key_Space and self.stage.currentWidget() is self.run and (focus is None or not focus.inherits("QAbstractButton"))
        ):
            self.run.toggle_film()
        else:
            return False
        return True

    # -- stages

    def show_stage(self, index: int) -> None:
        """Go to a stage."""
        self.stage.setCurrentIndex(index)
        self.header.stage_line.set_current(index)

    def _proof_wanted(self, frame: int) -> None:
        self.show_stage(PROOFS)
        self.proofs.ask_for(frame)

    def _refresh(self) -> None:
        session = self.session
        for entry, word, name in (
            (self.undo_action, "Undo", session.history.undo_name),
            (self.redo_action, "Redo", session.history.redo_name),
        ):
            entry.setEnabled(name is not None)
            entry.setText(f"{word}: {name[0].lower() + name[1:]}" if name else word)
        self.setWindowTitle(f"{session.reel.name}{' *' if session.changed else ''} – Hasty Reel")
        plan, evidence = session.plan, session.shot_evidence
        proofs = StageMark("Proofs", DONE if evidence.frames else UNTOUCHED)
        if evidence.faults:
            proofs = StageMark("Proofs", LOOK, evidence.faults[0])
        elif plan is not None and plan.unproven:
            names = ", ".join(u.replace("_", " ") for u in plan.unproven)
            proofs = StageMark("Proofs", LOOK, f"not proven yet: {names}")
        budget = StageMark("Budget")
        when = session.outlook.deadline
        if plan is not None:
            late = when is not None and when.spare_seconds < 0
            if not plan.budget.solved or plan.budget.why:
                budget = StageMark("Budget", LOOK, plan.budget.why)
            elif late:
                budget = StageMark("Budget", LOOK, "the frames will not be ready when they are due")
            else:
                budget = StageMark("Budget", DONE)
        self.header.stage_line.set_marks([proofs, budget, StageMark("Run")])

    # -- leaving

    def _may_leave(self) -> bool:
        """Ask whether to save what is not saved yet."""
        if not self.session.changed:
            return True
        button = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self,
            "Save the reel?",
            f"'{self.session.reel.name}' has changes that are not saved.",
            button.Save | button.Discard | button.Cancel,
            button.Save,
        )
        if answer == button.Save:
            return self.session.save()
        return answer == button.Discard

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        self.run.player.stop()
        QApplication.instance().removeEventFilter(self)  # type: ignore[union-attr]
        self.hide()
        self.session.jobs.stop_all()
        event.accept()
