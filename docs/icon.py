"""Draw the icon in the sizes that desktops ask for: `python docs/icon.py` writes them beside hasty-reel.svg."""

from __future__ import annotations

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QGuiApplication, QImage, QPainter
from PySide6.QtSvg import QSvgRenderer

from hasty_reel.share.integration import DATA, ICON_SIZES

if __name__ == "__main__":
    app = QGuiApplication([])
    icons = Path(DATA) / "icons"
    drawing = QSvgRenderer(str(icons / "hasty-reel.svg"))
    for size in ICON_SIZES:
        picture = QImage(size, size, QImage.Format.Format_ARGB32)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        drawing.render(painter, QRectF(0, 0, size, size))
        painter.end()
        picture.save(str(icons / f"hasty-reel-{size}.png"))
