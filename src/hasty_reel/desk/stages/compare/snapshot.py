"""A comparison kept as a PNG: the picture as it is seen, and under it what was compared and how."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QByteArray
from PySide6.QtGui import QImage, QImageWriter
from PySide6.QtWidgets import QWidget

from hasty_reel.desk.clip import captioned
from hasty_reel.errors import PictureError
from hasty_reel.wholefile import whole_file


def snapshot(view: QWidget, lines: list[str]) -> QImage:
    """The view with lines of words under it."""
    return captioned(view.grab().toImage(), lines)


def save_snapshot(path: Path, image: QImage) -> None:
    """Write it as a PNG, never half.

    Raises
    ------
    PictureError
        When it cannot be written.
    """
    try:
        with whole_file(path) as part:
            if not QImageWriter(str(part), QByteArray(b"PNG")).write(image):
                raise PictureError(f"Cannot write {path}: the folder does not take files.")
    except OSError as error:
        raise PictureError(f"Cannot write {path}: {error.strerror or error}.") from error
