"""Colours, type and lines of the window. Pictures and what stands near them are neutral grey."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QBrush, QColor, QFont, QFontDatabase, QPainter, QPalette, QPen, QPixmap
from PySide6.QtWidgets import QApplication

SHELL, PAGE, STAGE, MAT = QColor("#1F1D1B"), QColor("#272421"), QColor("#2B2B2B"), QColor("#3A3A3A")
WELL, RAISED, PRESSED = QColor("#191816"), QColor("#2E2B28"), QColor("#232120")
RULE, STRONG_RULE = QColor("#393632"), QColor("#5A554E")
NEUTRAL_RULE, MAT_RULE, NEUTRAL_STRONG = QColor("#414141"), QColor("#4A4A4A"), QColor("#757575")
INK, INK2, INK3, OFF = QColor("#F0ECE5"), QColor("#C2BCB2"), QColor("#A19B91"), QColor("#98928A")
MAT_INK, MAT_INK2, MAT_INK3 = QColor("#F0F0F0"), QColor("#C0C0C0"), QColor("#A6A6A6")
LAGOON, LAGOON_DEEP, ON_LAGOON = QColor("#48C0B8"), QColor("#1F4243"), QColor("#0A1E1F")
AMBER, CORAL, CORAL_HATCH = QColor("#EDB84E"), QColor("#F4846B"), QColor("#3A150B")
LIFTED, HOVER = QColor("#363636"), QColor("#303030")
FREE, FREE_CHOSEN = QColor("#3F4F50"), QColor("#4C6A6A")
BAND = (QColor("#4A4A4A"), QColor("#555555"))
PART_COLOURS = {
    "load": QColor("#574F82"),
    "cache": QColor("#7D77A6"),
    "sample": QColor("#8F959C"),
    "denoise": QColor("#BDB193"),
    "write": QColor("#EADFC2"),
}
PART_WORDS = {"load": "Load", "cache": "Light cache", "sample": "Sampling", "denoise": "Denoise", "write": "Write"}

MARGIN = 16
RIGHT_COLUMN, HEADER_HEIGHT, STRIP_HEIGHT = 300, 56, 172
PLOT_LEFT = 64

FONTS = Path(__file__).parent.parent / "fonts"


def words(size: int = 13, weight: int = 500) -> QFont:
    """The face for words, size in pixels."""
    font = QFont("Lato")
    font.setPixelSize(size)
    font.setWeight(QFont.Weight(weight))
    font.setHintingPreference(QFont.HintingPreference.PreferVerticalHinting)
    _feature(font, "liga", 0)
    return font


def figures(size: int = 12, weight: int = 400) -> QFont:
    """The face for bare figures in columns, axes and tags, size in pixels."""
    font = QFont("Fira Code")
    font.setPixelSize(size)
    font.setWeight(QFont.Weight(weight))
    font.setHintingPreference(QFont.HintingPreference.PreferVerticalHinting)
    for tag, value in (("calt", 0), ("liga", 0), ("cv11", 1)):
        _feature(font, tag, value)
    return font


def _feature(font: QFont, tag: str, value: int) -> None:
    font.setFeature(QFont.Tag(tag), value)


@lru_cache(maxsize=32)
def _hatch_tile(colour: str, step: int, line: float, cross: bool) -> QPixmap:
    tile = QPixmap(step, step)
    tile.fill(Qt.GlobalColor.transparent)
    painter = QPainter(tile)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(colour), line))
    for shift in (-step, 0, step):
        painter.drawLine(shift, step, shift + step, 0)
        if cross:
            painter.drawLine(shift, 0, shift + step, step)
    painter.end()
    return tile


def hatch(colour: QColor, step: int = 6, line: float = 1.4, cross: bool = False) -> QBrush:
    """A hatched brush: 'not solid'."""
    return QBrush(_hatch_tile(colour.name(QColor.NameFormat.HexArgb), step, line, cross))


def set_surround(which: str) -> None:
    """Lay something else around pictures, before any window is made: 'grey', or 'dark' as it ships."""
    if which == "grey":
        MAT.setRgb(0x5E, 0x5E, 0x5E)
        for ink in (MAT_INK2, MAT_INK3):
            ink.setRgb(0xF0, 0xF0, 0xF0)
        MAT_RULE.setRgb(0x78, 0x78, 0x78)


def apply(app: QApplication) -> None:
    """Give the application its faces, palette and rules."""
    for path in sorted(FONTS.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(path))
    app.setStyle("Fusion")
    role = QPalette.ColorRole
    palette = QPalette()
    for which, colour in (
        (role.Window, STAGE),
        (role.Base, WELL),
        (role.AlternateBase, RAISED),
        (role.Button, QColor("#383633")),
        (role.ToolTipBase, QColor("#1C1A18")),
        (role.Light, QColor("#484540")),
        (role.Midlight, QColor("#403D39")),
        (role.Mid, QColor("#242220")),
        (role.Dark, QColor("#1A1917")),
        (role.Shadow, QColor("#0E0E0E")),
        (role.WindowText, INK),
        (role.Text, INK),
        (role.ButtonText, INK),
        (role.ToolTipText, INK),
        (role.PlaceholderText, OFF),
        (role.Highlight, LAGOON_DEEP),
        (role.HighlightedText, INK),
        (role.Accent, LAGOON),
        (role.Link, LAGOON),
        (role.LinkVisited, LAGOON),
    ):
        palette.setColor(which, colour)
    for which in (role.WindowText, role.Text, role.ButtonText):
        palette.setColor(QPalette.ColorGroup.Disabled, which, OFF)
    app.setPalette(palette)
    app.setFont(words())
    app.setStyleSheet(
        f"""
        QToolTip {{ color: {INK.name()}; background: #1C1A18; border: 1px solid {STRONG_RULE.name()}; padding: 4px; }}
        QMenu {{ background: {PAGE.name()}; border: 1px solid {STRONG_RULE.name()}; padding: 4px; }}
        QMenu::item {{ padding: 5px 28px 5px 12px; }}
        QMenu::item:selected {{ background: {LAGOON_DEEP.name()}; }}
        QMenu::item:disabled {{ color: {OFF.name()}; }}
        QMenu::separator {{ height: 1px; background: {RULE.name()}; margin: 4px 8px; }}
        QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
        QScrollBar::handle:vertical {{ background: {STRONG_RULE.name()}; border-radius: 2px; min-height: 24px; }}
        QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
        QScrollArea {{ background: transparent; border: 0; }}
        """
    )
