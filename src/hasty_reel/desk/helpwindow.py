"""Help: the guide beside its list of pages, searched by typing, and what a thing on the screen is."""

from __future__ import annotations

import re
from html import escape
from pathlib import Path

from PySide6.QtCore import QPoint, Qt, QUrl
from PySide6.QtGui import QCursor, QImage, QKeySequence, QShortcut, QTextBlockFormat, QTextCursor, QTextDocument
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QTextBrowser,
    QVBoxLayout,
    QWhatsThis,
    QWidget,
)

from hasty_reel.desk import theme
from hasty_reel.studio.guide import FOLDER, found, meant_by, page

PICTURES = FOLDER.parents[2] / "docs" / "screenshots"
"""Pictures of the guide; an installed program ships it without them."""
PICTURE = re.compile(r"^!\[[^\]]*\]\(([^)]*)\)\s*$", re.MULTILINE)
LIST_WIDTH, PICTURE_WIDTH = 230, 610
PICTURE_SIGN = "\ufffc"
"""What stands in a text for a picture."""
LEVELS = 6
"""Widgets around one that are looked at for what is said of it."""


def _placed(match: re.Match[str]) -> str:
    """A picture where it is, or nothing."""
    file = PICTURES / Path(match[1]).name
    return f"![picture]({file.as_uri()})" if file.is_file() else ""


class GuideText(QTextBrowser):
    """A page; its pictures are as wide as there is room for."""

    def loadResource(self, kind: int, name: QUrl | str):
        """A picture, made smaller; anything else is not loaded."""
        if int(kind) == QTextDocument.ResourceType.ImageResource.value:
            picture = QImage(QUrl(name).toLocalFile())
            return picture if picture.isNull() else picture.scaledToWidth(PICTURE_WIDTH, Qt.TransformationMode.SmoothTransformation)
        return None


class HelpWindow(QWidget):
    """A window of its own: it may stay open beside the work."""

    def __init__(self, keys_html: str) -> None:
        super().__init__(None, Qt.WindowType.Window)
        self._keys = keys_html
        self.setWindowTitle("Help – Hasty Reel")
        self.resize(900, 680)
        self.field = QLineEdit(self)
        self.field.setPlaceholderText("Search the guide")
        self.field.setAccessibleName("Search the guide")
        self.field.setClearButtonEnabled(True)
        self.field.setFont(theme.words(13))
        self.field.textChanged.connect(self._search)
        self.list = QListWidget(self)
        self.list.setAccessibleName("Pages of the guide")
        self.list.setFont(theme.words(13))
        self.list.setStyleSheet("QListWidget::item { padding: 4px 6px; }")
        self.list.currentRowChanged.connect(self._chosen)
        self.text = GuideText(self)
        self.text.setAccessibleName("Page of the guide")
        self.text.setOpenLinks(False)
        self.text.anchorClicked.connect(self._follow)
        self.text.document().setDocumentMargin(18)
        self.text.document().setDefaultFont(theme.words(14))
        side = QVBoxLayout()
        side.addWidget(self.field)
        side.addWidget(self.list, 1)
        left = QWidget(self)
        left.setFixedWidth(LIST_WIDTH)
        side.setContentsMargins(8, 8, 0, 8)
        left.setLayout(side)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(left)
        row.addWidget(self.text, 1)
        self._names: list[str] = []
        for keys, act in (("Ctrl+F", self.field.setFocus), ("Esc", self.close)):
            QShortcut(QKeySequence(keys), self, act)
        self._search("")

    def _search(self, text: str) -> None:
        pages = found(text)
        shown = self._names[self.list.currentRow()] if 0 <= self.list.currentRow() < len(self._names) else ""
        self._names = [p.name for p in pages] + ([] if text.strip() and "key" not in text.lower() else ["keys"])
        self.list.blockSignals(True)
        self.list.clear()
        self.list.addItems([*(p.title for p in pages), *(["Keys"] if "keys" in self._names else [])])
        self.list.blockSignals(False)
        if self._names:
            self.list.setCurrentRow(self._names.index(shown) if shown in self._names else 0)
        else:
            self.text.setPlainText(f"Nothing in the guide holds '{text.strip()[:60]}'.")

    def _chosen(self, row: int) -> None:
        if 0 <= row < len(self._names):
            self._show(self._names[row])

    def show_page(self, name: str) -> None:
        """Open a page by its name, and the word in it that is looked for."""
        if self.field.text():
            self.field.clear()
        if name in self._names:
            self.list.setCurrentRow(self._names.index(name))
        self.show()
        self.raise_()
        self.activateWindow()

    def _show(self, name: str) -> None:
        if name == "keys":
            self.text.setHtml(self._keys)
            return
        self.text.document().setMarkdown(PICTURE.sub(_placed, page(name).text), QTextDocument.MarkdownFeature.MarkdownDialectGitHub)
        self._space()
        self.text.moveCursor(QTextCursor.MoveOperation.Start)
        if self.field.text().strip():
            self.text.find(self.field.text().strip().split()[0])

    def _space(self) -> None:
        """Air around headings and paragraphs, and no picture wider than the page."""
        block = self.text.document().begin()
        while block.isValid():
            cursor = QTextCursor(block)
            form = block.blockFormat()
            level = form.headingLevel()
            form.setTopMargin(18.0 if level == 2 else 6.0 if block.textList() is None else 3.0)
            form.setBottomMargin(6.0 if level else 3.0)
            if PICTURE_SIGN not in block.text():
                form.setLineHeight(125.0, QTextBlockFormat.LineHeightTypes.ProportionalHeight.value)
            cursor.setBlockFormat(form)
            block = block.next()

    def _follow(self, link: QUrl) -> None:
        self.show_page(link.fileName().removesuffix(".md"))


def said_of(widget: QWidget | None, place: QPoint) -> tuple[str, list[tuple[str, str]]]:
    """What a widget says of itself at a place of the screen, and the words of the guide in that.

    What it shows, its name and what it says when it is pointed at count; of one that says nothing the one around it is asked.
    """
    for _ in range(LEVELS):
        if widget is None:
            break
        words = [widget.accessibleName(), widget.text() if isinstance(widget, QLabel | QAbstractButton | QLineEdit) else ""]
        said = [widget.whatsThis(), "" if widget.toolTip() == widget.whatsThis() else widget.toolTip()]
        tip = re.sub(r"<[^>]+>", " ", "\n".join(part for part in said if part))
        told = meant_by(" ".join([*words, tip]))
        if tip.strip() or told:
            name = next((w for w in words if w.strip()), "")
            return (f"{name}: {tip}" if name and tip and name != tip else tip or name), told
        widget = widget.parentWidget()
    return "", []


def show_what_this_is(window: QWidget) -> str:
    """Say what is under the pointer, else what has the keys, in a few sentences; gives what was said."""
    place = QCursor.pos()
    under = QApplication.widgetAt(place)
    widget = under if under is not None and under.window() is window else QApplication.focusWidget()
    said, told = said_of(widget, place)
    lines = [f"<p>{escape(line)}</p>" for line in said.splitlines() if line.strip()]
    lines += [f"<p><b>{escape(word)}</b>: {escape(meaning)}</p>" for word, meaning in told]
    text = "".join(lines) or "<p>Point at a figure or a heading and press Shift+F1. F1 opens the page of this stage.</p>"
    QWhatsThis.showText(place if widget is under else window.mapToGlobal(QPoint(80, 80)), text, window)
    return text
