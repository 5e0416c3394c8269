"""The window while no reel is open: what one can do next, and the demo reel's film along the bottom."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path

from PySide6.QtCore import QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QFontMetrics, QImage, QKeySequence, QPainter, QPaintEvent, QPen, QShortcut
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMainWindow,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from hasty_reel.demo import FILM, NAME, SOURCE, copy_demo, demo_folder
from hasty_reel.desk import theme
from hasty_reel.desk.eventloop import QtEventLoop
from hasty_reel.desk.follow import follow
from hasty_reel.desk.notice import Notice
from hasty_reel.desk.placement import fit_screen
from hasty_reel.errors import HastyReelError, one_line
from hasty_reel.own.recentreels import recent_path, recent_reels
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.fresh import FIRST_SCENE, fresh_reel
from hasty_reel.reel.untitled import UNTITLED, keep_untitled, left_untitled
from hasty_reel.studio.background import Background

MOST_LISTED = 8
FILM_HEIGHT, FILM_LEAST = 220, 130


class Entry(QAbstractButton):
    """One thing to do, with a line under it that says what comes of it."""

    def __init__(self, title: str, caption: str, act: Callable[[], object], ink=theme.INK, small: bool = False) -> None:
        super().__init__()
        self.setText(title)
        self._caption, self._ink = caption, ink
        self._size = 13 if small else 15
        self.setFixedHeight(44 if small else 58)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAttribute(Qt.WidgetAttribute.WA_Hover)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleDescription(caption)
        self.clicked.connect(lambda _=False: act())

    def sizeHint(self) -> QSize:
        return QSize(240, self.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.underMouse():
            painter.fillRect(self.rect(), theme.RAISED)
        painter.fillRect(QRectF(0, self.height() - 1, self.width(), 1), theme.NEUTRAL_RULE)
        width = self.width() - 24
        middle = self.height() / 2
        for font, ink, text, top in (
            (theme.words(self._size, 700), self._ink, self.text(), middle - 21),
            (theme.words(12), theme.INK2, self._caption, middle),
        ):
            painter.setFont(font)
            painter.setPen(ink)
            shown = QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideMiddle, width)
            painter.drawText(QRectF(12, top, width, 20), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, shown)
        if self.hasFocus():
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -2), 3, 3)


class FilmOfDemo(QWidget):
    """Frames of the demo reel, one a shot, side by side in true proportion."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(FILM_LEAST)
        self.setMaximumHeight(FILM_HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self._images: list[QImage] = []
        QTimer.singleShot(0, self._load)

    def _load(self) -> None:
        self._images = [QImage(str(path)) for path in sorted(FILM.glob("*.png"))]
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.MAT)
        x, height = 24.0, self.height() - 64.0
        for image in self._images:
            width = height * image.width() / image.height()
            if x > self.width():
                break
            painter.drawImage(QRectF(x, 24, width, height), image)
            x += width + 8
        painter.setFont(theme.words(12))
        painter.setPen(theme.MAT_INK2)
        words = "Frames of the demo reel, rendered by the bench renderer that ships with the program, and finished" if self._images else ""
        painter.drawText(QRectF(24, self.height() - 34, self.width() - 48, 20), Qt.AlignmentFlag.AlignVCenter, words)


class StartWindow(QMainWindow):
    """No reel yet: the demo reel, a new reel, one from a folder of frames, and those there are.

    Parameters
    ----------
    opened : called with the path of the reel to open and words to say then; gives whether it could be opened
    """

    def __init__(self, opened: Callable[[Path, str], bool]) -> None:
        super().__init__()
        self._opened = opened
        self.background = Background(QtEventLoop(self))
        self.setWindowTitle("Hasty Reel")
        fit_screen(self)
        self.notice = Notice(self)
        self.entries: dict[str, Entry] = {}
        for name, title, caption, act in (
            ("demo", "Open the demo reel", _demo_words(), self.open_demo),
            (
                "tour",
                "Guided tour",
                "Seven short steps over the demo reel; left at any time",
                partial(self.open_demo, tour=True),
            ),
            ("new", "New reel", "One shot to begin with; where it is kept is asked when you save it", self.new),
            (
                "frames",
                "Start from a folder of frames …",
                "Frames that exist already: shots, rate and size are read, their times can plan the rest",
                self.ask_frames,
            ),
            ("open", "Open a reel …", "A .reel file", self.ask_reel),
        ):
            self.entries[name] = Entry(title, caption, act)
        self._lay_out()
        for keys, act in (("Ctrl+N", self.new), ("Ctrl+O", self.ask_reel)):
            QShortcut(QKeySequence(keys), self, act)
        self.entries["demo"].setFocus()

    def _lay_out(self) -> None:
        head = QLabel("Hasty Reel")
        head.setFont(theme.words(15, 700))
        head.setFixedHeight(theme.HEADER_HEIGHT)
        head.setContentsMargins(36, 0, 0, 0)
        head.setStyleSheet(f"background: {theme.SHELL.name()}")
        title = QLabel("From a few test frames: what your frames take, whether they will flicker, and when all are ready.")
        title.setFont(theme.words(20, 700))
        title.setWordWrap(True)
        title.setContentsMargins(36, 32, 36, 20)
        choices = QVBoxLayout()
        choices.setContentsMargins(24, 0, 24, 0)
        choices.setSpacing(0)
        for entry in self.entries.values():
            choices.addWidget(entry)
        frames = QVBoxLayout()
        frames.setSpacing(0)
        for widget in (head, self.notice, title):
            frames.addWidget(widget)
        frames.addLayout(choices)
        frames.addStretch(1)
        frames.addWidget(FilmOfDemo(), 100)
        whole = QWidget(self)
        row = QHBoxLayout(whole)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addLayout(frames, 1)
        row.addWidget(self._lists())
        self.setCentralWidget(whole)

    def _lists(self) -> QWidget:
        """The right column: reels without a name, and those opened lately."""
        page = QWidget()
        page.setFixedWidth(theme.RIGHT_COLUMN)
        page.setAutoFillBackground(True)
        palette = page.palette()
        palette.setColor(palette.ColorRole.Window, theme.PAGE)
        page.setPalette(palette)
        column = QVBoxLayout(page)
        column.setContentsMargins(4, 16, 4, 16)
        column.setSpacing(0)
        self.nameless = [(path, _untitled_words(path, reel)) for path, reel in left_untitled()[:MOST_LISTED]]
        self.recent = recent_reels(recent_path())[:MOST_LISTED]
        for title, rows in (
            ("Not saved under a name yet", self.nameless),
            ("Opened lately", [(p, (p.stem, str(p.parent))) for p in self.recent]),
        ):
            if rows:
                label = QLabel(title)
                label.setFont(theme.words(12, 700))
                label.setStyleSheet(f"color: {theme.INK2.name()}")
                label.setContentsMargins(12, 12, 0, 6)
                column.addWidget(label)
            for path, (name, caption) in rows:
                column.addWidget(Entry(name, caption, partial(self.open, path), small=True))
        if not (self.nameless or self.recent):
            label = QLabel("Reels that you open are listed here.")
            label.setFont(theme.words(12))
            label.setStyleSheet(f"color: {theme.INK3.name()}")
            label.setContentsMargins(12, 12, 0, 0)
            column.addWidget(label)
        column.addStretch(1)
        return page

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)

    # -- what one can do

    def open(self, path: Path, words: str = "") -> bool:
        """Open a reel in place of this window; a file that does not do is said, and this one stays."""
        try:
            done = self._opened(path, words)
        except HastyReelError as error:
            self.notice.say(one_line(str(error)))
            return False
        if done:
            self.close()
        return done

    def open_demo(self, tour: bool = False) -> None:
        """Open the demo reel, copied to where it may be changed; with the guided tour over it."""
        try:
            opened = self.open(copy_demo(demo_folder(), datetime.now().astimezone()))
            window = QApplication.instance().property("open_window")  # type: ignore[union-attr]
            if opened and tour and window is not None:
                window.tour.begin()
        except HastyReelError as error:
            self.notice.say(one_line(str(error)))

    def new(self) -> None:
        """Begin a reel that has no name yet."""
        now = datetime.now().astimezone()
        self._keep(lambda: fresh_reel(UNTITLED, FIRST_SCENE, now), "")

    def ask_reel(self) -> None:
        """Ask for a reel and open it."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a reel", str(Path.home()), "Reels (*.reel)")
        if name:
            self.open(Path(name))

    def ask_frames(self) -> None:
        """Ask for a folder of frames and begin a reel with them."""
        name = QFileDialog.getExistingDirectory(self, "A folder of frames", str(Path.home()))
        if name:
            self.from_frames(Path(name))

    def from_frames(self, folder: Path) -> None:
        """Begin a reel with the frames of a folder, read beside the window's thread."""
        from hasty_reel.farm.fromframes import FromFrames, reel_from_frames

        def have(found: FromFrames) -> None:
            count = len(found.reel.shots)
            first = next(iter(found.patterns.values()))
            words = f"{count} {'shot' if count == 1 else 'shots'} from {folder.name}. {' '.join(found.words[:3])}"
            self._keep(lambda: found.reel, f"{words.strip()}\n{first.path(found.reel.shots[0].first)}")

        self.notice.say(f"Reading {folder} …")
        task = self.background.start(lambda task: reel_from_frames(folder, datetime.now().astimezone()))
        follow(self, task.done, have)
        follow(self, task.failed, lambda words: self.notice.say(one_line(words)))

    def _keep(self, make: Callable[[], Reel], words: str) -> None:
        try:
            path = keep_untitled(make(), datetime.now())
        except HastyReelError as error:
            self.notice.say(one_line(str(error)))
            return
        self.open(path, words)

    def closeEvent(self, event) -> None:
        self.hide()
        self.background.stop_all()
        self.background.close()
        event.accept()


def _demo_words() -> str:
    reel = read_reel(SOURCE / NAME)
    return f"{reel.name}: {len(reel.shots)} shots with their proofs, to try everything on"


def _untitled_words(path: Path, reel: Reel) -> tuple[str, str]:
    when = datetime.strptime(path.parent.name[:19], "%Y-%m-%dT%H-%M-%S")
    count = len(reel.shots)
    return reel.name, f"begun {when:%a %d %b %H:%M}, {count} {'shot' if count == 1 else 'shots'}"
