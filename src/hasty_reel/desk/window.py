"""The window: header and reel strip with the frames between them, the price at the right."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeyEvent, QKeySequence, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QAbstractSpinBox,
    QApplication,
    QHBoxLayout,
    QLineEdit,
    QMainWindow,
    QMenu,
    QMessageBox,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from hasty_reel.desk import theme
from hasty_reel.desk.clock import DeadlineClock
from hasty_reel.desk.eventloop import QtEventLoop
from hasty_reel.desk.files import Files
from hasty_reel.desk.follow import follow
from hasty_reel.desk.header import OWN_ARROWS, WindowHeader
from hasty_reel.desk.ledger import Ledger
from hasty_reel.desk.notice import Notice
from hasty_reel.desk.placement import fit_screen
from hasty_reel.desk.recipes import DraftBanner
from hasty_reel.desk.stagesof import BRIEF, COMPARE, PROOFS, RUN, STAGES, WindowWithStages
from hasty_reel.desk.strip import ReelStrip
from hasty_reel.desk.total import ShotTotal
from hasty_reel.desk.tour import TourBanner
from hasty_reel.desk.trial import TrialBanner
from hasty_reel.desk.windowmenu import frame_menu, main_menu
from hasty_reel.errors import HastyReelError
from hasty_reel.pictures.foreign import ENDINGS as PICTURES
from hasty_reel.studio.session import Session
from hasty_reel.studio.tour import Tour

if TYPE_CHECKING:
    from hasty_reel.desk.finder import Finder
    from hasty_reel.desk.helpwindow import HelpWindow


def keep_window(window: QMainWindow) -> None:
    """Keep the only reference to the window that is open; the one before it may go."""
    QApplication.instance().setProperty("open_window", window)  # type: ignore[union-attr]


SAID = {
    "strip": (
        "Every frame of the shot: below its seconds by part, above its seen flicker as planned against the limit, proofs as marks, the "
        "playhead. Drag to go to a frame; a right click says what can be done with it."
    ),
    "total": "What the whole shot takes on one machine and on all of them, its samples and its worst frames, as planned from its proofs.",
    "clock": "When all frames are ready, how sure that is, and when they are due. A click sets the due time.",
}
SAID_OF_STAGES = (
    "The stages in the order of the work. A tick: nothing is left to do. A triangle: something wants a look; pointing at it says what."
)


class Column(QWidget):
    """The right column: one page."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFixedWidth(theme.RIGHT_COLUMN)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.PAGE)


class ReelWindow(WindowWithStages):
    """One reel, open."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._asked = False
        self.setWindowTitle("Hasty Reel")
        fit_screen(self)
        self.help: HelpWindow | None = None
        self.header = WindowHeader(session, STAGES, self._menu, partial(main_menu, self), self)
        self.notice = Notice(self)
        self.banner = DraftBanner(session, self)
        self.trial = TrialBanner(session, self)
        self.tour = Tour(session)
        self.tour_banner = TourBanner(self.tour, self.show_stage, self)
        self.stage = self.make_stack()
        self.strip = ReelStrip(session, self)
        self.clock = DeadlineClock(session, self)
        self.ledger = Ledger(session, self)
        self.total = ShotTotal(session, self)
        for part, words in SAID.items():
            getattr(self, part).setWhatsThis(words)
        self.header.stage_line.setWhatsThis(SAID_OF_STAGES)
        self._lay_out()
        self._make_actions()
        self.header.stage_line.chosen.connect(self.show_stage)
        self.strip.proof_wanted.connect(self.ask_proof)
        self.strip.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.strip.customContextMenuRequested.connect(self._frame_menu)
        follow(self, session.said, self.notice.say)
        follow(self, session.taken_elsewhere, self._say_taken)
        follow(self, session.changed_on_disk, self._say_changed)
        for signal in (session.planner.plan_changed, session.planner.evidence_changed, session.playhead.shot_changed, session.reel_changed):
            follow(self, signal, self.refresh_marks)
        app = QApplication.instance()
        assert isinstance(app, QApplication)
        app.focusChanged.connect(self._focus_moved)
        follow(self, session.planner.plan_changed, self.first_plan)
        self.show_stage(BRIEF)
        self.setAcceptDrops(True)
        self.refresh_marks()
        self.ledger.refresh()
        self.strip.setFocus()
        session.read_evidence()
        if session.read_only:
            self._say_taken()
        elif session.left_unsaved is not None:
            self.notice.ask(
                "Changes of an earlier session were not saved: it ended before they were.",
                {"Take them up": session.take_up, "Let them go": session.let_go},
            )

    def _lay_out(self) -> None:
        frames = QVBoxLayout()
        frames.setSpacing(0)
        frames.addWidget(self.header)
        frames.addWidget(self.tour_banner)
        frames.addWidget(self.notice)
        frames.addWidget(self.banner)
        frames.addWidget(self.trial)
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
        self.files = Files(self.session, self, self.open_reel)

        def action(text: str, keys: str, act) -> QAction:
            made = QAction(text, self)
            made.setShortcut(QKeySequence(keys))
            made.setShortcutContext(Qt.ShortcutContext.WindowShortcut)
            made.triggered.connect(lambda _=False: act())
            self.addAction(made)
            return made

        self.undo_action = action("Undo", "Ctrl+Z", self.session.undo)
        self.redo_action = action("Redo", "Ctrl+Shift+Z", self.session.redo)
        self.save_action = action("Save", "Ctrl+S", self.files.save)
        self.save_as_action = action("Save as …", "Ctrl+Shift+S", self.files.save_as)
        self.try_action = action("Try settings", "Ctrl+T", self._try)
        self.new_action = action("New reel …", "Ctrl+N", self.files.new)
        self.open_action = action("Open a reel …", "Ctrl+O", self.files.open)
        self.preferences_action = action("Preferences …", "Ctrl+,", self._preferences)
        self.bring_action = action("Bring in shots …", "Ctrl+I", self.files.bring_in)
        self.frames_action = action("Bring in frames as a proof …", "Ctrl+Shift+I", self.files.ask_frames)
        self.export_action = action("Export shots …", "Ctrl+E", self.files.export)
        self.help_action = action("Help for this stage", "F1", self.open_help)
        self.guide_action = action("The guide", "", lambda: self.open_help("start"))
        self.keys_action = action("Keys", "", lambda: self.open_help("keys"))
        self.tour_action = action("Guided tour", "", self.tour.begin)
        self.what_action = action("What is this?", "Shift+F1", self.what_is_this)
        self.report_action = action("Details for a report …", "", self._report)
        self.close_action = action("Close", "Ctrl+W", self.close)
        action("Menu", "F10", self.header.menu_button.click)
        self.find_action = action("Find …", "Ctrl+K", self.open_finder)
        self.stage_actions = [action(name, f"Ctrl+{k + 1}", lambda k=k: self.show_stage(k)) for k, name in enumerate(STAGES)]

    def _menu(self) -> QMenu:
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.files.fill_shots(menu)
        menu.addSeparator()
        for entry in (self.undo_action, self.redo_action):
            menu.addAction(entry)
        menu.addAction(self.try_action)
        menu.addSeparator()
        for entry in (self.new_action, self.open_action):
            menu.addAction(entry)
        self.files.fill_recent(menu.addMenu("Open recent"))
        for entry in (self.save_action, self.save_as_action):
            menu.addAction(entry)
        self.files.fill_saves(menu.addMenu("Earlier saves"))
        menu.addSeparator()
        for entry in (self.bring_action, self.frames_action, self.export_action):
            menu.addAction(entry)
        menu.addSeparator()
        menu.addAction(self.find_action)
        menu.addAction(self.preferences_action)
        menu.addAction(self.help_action)
        return menu

    def open_reel(self, path: Path) -> bool:
        """Open another reel in a window of its own place; a file that does not do is said, and this one stays."""
        # asked first: what is saved now must be what is read then, also where it is the reel that is open
        if not self._may_leave():
            return False
        same = path.resolve() == self.session.path.resolve()
        if same:
            self.session.writer.release()
        try:
            session = Session(path, QtEventLoop(QApplication.instance()))
        except HastyReelError as error:
            if same:
                self.session.writer.take()
            self.notice.say(str(error))
            return False
        window = ReelWindow(session)
        window.setGeometry(self.geometry())
        window.show()
        keep_window(window)
        self._asked = True
        self.close()
        return True

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        paths = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
        if not paths:
            self.notice.say("What was dropped is no file of this machine; expected a reel, an OpenTimelineIO file or a CSV table.")
            return
        event.acceptProposedAction()
        taken: set[str] = set()
        for path in paths:
            # of a whole sequence that is dropped one picture is enough
            kind = path.suffix.lower() if path.suffix.lower() in PICTURES else str(path)
            if kind not in taken:
                taken.add(kind)
                self.files.take(path)

    def _preferences(self) -> None:
        from hasty_reel.desk.preferences import PreferencesPage

        PreferencesPage(self).open()

    @property
    def stage_names(self) -> tuple[str, ...]:
        """Names of the stages, in the order of the work."""
        return tuple(STAGES)

    def open_finder(self) -> Finder:
        """Find anything by typing part of it."""
        from hasty_reel.desk.finder import Finder

        page = Finder(self)
        page.open()
        return page

    def open_help(self, name: str = "") -> HelpWindow:
        """Open the guide at a page; at that of the stage one is in where none is named."""
        from hasty_reel.desk.helpwindow import HelpWindow
        from hasty_reel.desk.keys import keys_html

        if self.help is None:
            self.help = HelpWindow(keys_html())
        self.help.show_page(name or self.stage_names[self.stage.currentIndex()].lower())
        return self.help

    def what_is_this(self) -> str:
        """Say what is under the pointer."""
        from hasty_reel.desk.helpwindow import show_what_this_is

        return show_what_this_is(self)

    def _report(self) -> None:
        from hasty_reel.desk.faultreport import show_details

        show_details(self)

    # -- keys that act on frames wherever one is, unless one is typing

    def _focus_moved(self, old: QWidget | None, new: QWidget | None) -> None:
        """Listen where keys go, and nowhere else: every event of the program would pass through here otherwise."""
        if new is not None:
            new.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent) and self.isActiveWindow():
            focus = QApplication.focusWidget()
            typing = isinstance(focus, QLineEdit | QAbstractSpinBox) or QApplication.activeModalWidget() is not None
            if watched is focus and not typing and self._frame_key(event, focus):
                return True
        return super().eventFilter(watched, event)

    def _frame_key(self, event: QKeyEvent, focus: QWidget | None) -> bool:
        key, shot = event.key(), self.session.shot
        if focus is not None and focus.property(OWN_ARROWS) and key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            return False
        jump = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        if key == Qt.Key.Key_Left:
            self.session.playhead.show_frame(self.session.playhead.frame - jump)
        elif key == Qt.Key.Key_Right:
            self.session.playhead.show_frame(self.session.playhead.frame + jump)
        elif key == Qt.Key.Key_Home:
            self.session.playhead.show_frame(shot.begin)
        elif key == Qt.Key.Key_End:
            self.session.playhead.show_frame(shot.past - 1)
        elif key == Qt.Key.Key_Escape and self.session.playhead.selection is not None:
            self.session.playhead.select(None)
        elif (
            key == Qt.Key.Key_Space
            and self.stage.currentIndex() in (RUN, COMPARE)
            and (focus is None or not focus.inherits("QAbstractButton"))
        ):
            self.play()
        else:
            return False
        return True

    def play(self) -> None:
        """Play or stop the film of the run, or the loop in Compare."""
        self.run.hand.toggle_film() if self.stage.currentIndex() == RUN else self.session.comparison.loop.toggle()

    # -- stages

    def show_stage(self, index: int) -> None:
        """Go to a stage."""
        self.stage.show_stage(index)
        self.header.stage_line.set_current(index)

    def ask_proof(self, frame: int) -> None:
        self.show_stage(PROOFS)
        self.proofs.ask_for(frame)

    def _frame_menu(self, place: QPoint) -> None:
        frame_menu(self, self.strip.frame_at(place.x())).popup(self.strip.mapToGlobal(place))

    def refresh_marks(self) -> None:
        """Say anew how the reel and its stages stand."""
        session = self.session
        for entry, word, name in (
            (self.undo_action, "Undo", session.history.undo_name),
            (self.redo_action, "Redo", session.history.redo_name),
        ):
            entry.setEnabled(name is not None)
            entry.setText(f"{word}: {name[0].lower() + name[1:]}" if name else word)
        more = " (not saved yet)" if session.untitled else " (read only)" if session.read_only else ""
        self.setWindowTitle(f"{session.reel.name}{' *' if session.changed else ''}{more} – Hasty Reel")
        self.header.stage_line.set_marks(session.verdicts)

    # -- the file and others who write it

    def _say_taken(self) -> None:
        self.notice.ask(
            f"This reel is open in {self.session.writer.holder}. Here it can be looked at and changed, and saved under another name.",
            {"Save as …": self.files.save_as, "Try again": self.session.try_again, "Read": self.notice.hide},
        )

    def _say_changed(self) -> None:
        self.notice.ask(
            f"'{self.session.path.name}' was changed by another program since it was read here.",
            {
                "Reload it": self.session.reload,
                "Keep both": self.session.keep_both,
                "Overwrite it": lambda: self.session.save(anyway=True),
            },
        )

    def _try(self) -> None:
        """Begin to try settings; what is tried already goes on."""
        self.session.begin_trial()

    # -- leaving

    def _may_leave(self) -> bool:
        """Ask whether to keep what is tried, and to save what is not saved yet."""
        if self._asked:
            return True
        if not self._may_end_trial():
            return False
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
            return self.files.save()
        if answer == button.Discard:
            self.session.let_go()
        return bool(answer == button.Discard)

    def _may_end_trial(self) -> bool:
        session = self.session
        if not session.trial.trying or session.reel == session.kept:
            return True
        button = QMessageBox.StandardButton
        words = f"{session.trial.words} Save keeps it, Discard drops it."
        answer = QMessageBox.question(self, "Keep what was tried?", words, button.Save | button.Discard | button.Cancel, button.Save)
        if answer == button.Save:
            session.keep_trial()
        elif answer == button.Discard:
            session.drop_trial()
        return bool(answer != button.Cancel)

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        if self.stage.there(RUN):
            self.run.hand.player.stop()
        if self.stage.there(COMPARE):
            self.session.comparison.loop.stop()
        QApplication.instance().removeEventFilter(self)  # type: ignore[union-attr]
        self.hide()
        if self.help is not None:
            self.help.close()
        self.session.background.stop_all()
        self.session.close()
        event.accept()
