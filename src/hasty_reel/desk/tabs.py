"""Pages behind choices: the column at the right of a stage, or the lower part of one."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Generic, TypeVar

from PySide6.QtCore import Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from hasty_reel.desk.fields import Choice

Page = TypeVar("Page", bound=QWidget)


class LazyPage(QWidget, Generic[Page]):
    """A page that is made when it is first looked at: charts take a moment each."""

    def __init__(self, make: Callable[[], Page]) -> None:
        super().__init__()
        self._make: Callable[[], Page] = make
        self._page: Page | None = None
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)

    @property
    def page(self) -> Page:
        """The page, made now where it is not there yet."""
        if self._page is None:
            self._page = self._make()
            self._column.addWidget(self._page)
        return self._page

    @property
    def made(self) -> bool:
        """Whether it is there."""
        return self._page is not None

    def showEvent(self, event: QShowEvent) -> None:
        _ = self.page
        super().showEvent(event)


class TabbedPages(QWidget):
    """Choices in a row, and under them the page of the one that is chosen; turned(int) : another page is in sight."""

    turned = Signal(int)

    def __init__(self, pages: Sequence[tuple[str, QWidget]], width: int | None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        if width is not None:
            self.setFixedWidth(width)
        self.choices = [Choice(name, self) for name, _ in pages]
        self.pages = QStackedWidget(self)
        row = QHBoxLayout()
        row.setContentsMargins(11, 5, 8, 1)
        row.setSpacing(11)
        for k, (choice, (_, page)) in enumerate(zip(self.choices, pages)):
            self.pages.addWidget(page)
            choice.clicked.connect(lambda _=False, k=k: self.show_page(k))
            row.addWidget(choice)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.pages, 1)

    @property
    def index(self) -> int:
        """Which page is in sight."""
        return self.pages.currentIndex()

    def show_page(self, index: int) -> None:
        """Turn to a page."""
        self.pages.setCurrentIndex(index)
        for k, choice in enumerate(self.choices):
            choice.setChecked(k == index)
        self.turned.emit(index)
