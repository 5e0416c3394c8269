"""Loops to show somebody: what is looked at, frame by frame, with or without words under it, as a film or as pictures."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QMenu, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.asking import ask_target
from hasty_reel.studio.session import Session

LINE = 20
SMALLEST = 480
"""Pixels across up to which small pictures are shown enlarged, by whole numbers."""
Frames = Callable[[], Sequence[tuple[QImage, list[str]]]]
"""Gives the frames of a loop, and the words that stand under each."""


def captioned(picture: QImage, lines: list[str]) -> QImage:
    """A picture with lines of words under it."""
    ratio = picture.devicePixelRatio()
    width, height = round(picture.width() / ratio), round(picture.height() / ratio)
    out = QImage(QSize(picture.width(), round((height + 16 + LINE * len(lines)) * ratio)), QImage.Format.Format_RGB32)
    out.setDevicePixelRatio(ratio)
    out.fill(theme.MAT)
    painter = QPainter(out)
    painter.drawImage(0, 0, picture)
    painter.setPen(theme.MAT_INK)
    for k, line in enumerate(lines):
        painter.setFont(theme.words(13, 600 if k == 0 else 500))
        text = painter.fontMetrics().elidedText(line, Qt.TextElideMode.ElideRight, width - 32)
        painter.drawText(QRectF(16, height + 8 + LINE * k, width - 32, LINE), Qt.AlignmentFlag.AlignVCenter, text)
    painter.end()
    return out


def codes_of(picture: QImage) -> np.ndarray:
    """The pixels of a picture, (h, w, 3) uint8 display codes."""
    plain = picture.convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(plain.constBits(), np.uint8).reshape(plain.height(), plain.bytesPerLine())
    return rows[:, : 3 * plain.width()].reshape(plain.height(), plain.width(), 3).copy()


def enlarged(picture: QImage) -> QImage:
    """A small picture as large as one can look at it, each pixel a square."""
    times = max(1, -(-SMALLEST // max(1, picture.width())))
    return picture if times == 1 else picture.scaled(picture.size() * times)


def clip_menu(parent: QWidget, session: Session, name: str, frames: Frames) -> QMenu:
    """Choices of a clip: with its caption, or the picture alone."""
    menu = QMenu(parent)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    for words, caption in (("With samples and hours under it …", True), ("The picture alone …", False)):
        menu.addAction(words).triggered.connect(lambda _=False, c=caption: ask_clip(parent, session, name, frames, c))
    return menu


def ask_clip(parent: QWidget, session: Session, name: str, frames: Frames, caption: bool) -> None:
    """Ask for a file and write the loop there."""
    from hasty_reel.handover.clips import ENDINGS  # brings the video library along

    folder = Path.home() if session.untitled else session.path.parent
    path = ask_target(parent, "Write clip", folder / f"{name}.mp4", ENDINGS)
    if path is not None:
        keep_clip(session, path, frames(), caption)


def keep_clip(session: Session, path: Path, frames: Sequence[tuple[QImage, list[str]]], caption: bool) -> None:
    """Write a loop beside everything else; what was written, or a fault, is said."""
    from hasty_reel.handover.clips import write_clip

    codes = [codes_of(captioned(picture, lines) if caption else picture) for picture, lines in frames]
    fps = session.reel.fps
    task = session.background.start(lambda task: write_clip(path, codes, fps))
    task.done.connect(lambda words: session.said.emit(f"Written: {words}."))
    task.failed.connect(session.said)
