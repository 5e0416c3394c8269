"""The stages of the window, each made when it is first needed: a window opens with one of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QStackedWidget, QWidget


class StageStack(QStackedWidget):
    """Stages by index. made(int): a stage is there now.

    Parameters
    ----------
    makers : what makes each stage
    """

    made = Signal(int)

    def __init__(self, makers: Sequence[Callable[[], QWidget]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._makers = tuple(makers)
        self._stages: dict[int, QWidget] = {}
        for _ in makers:
            self.addWidget(QWidget(self))

    def stage(self, index: int) -> QWidget:
        """The stage at an index, made now where it is not there yet."""
        if index not in self._stages:
            stage = self._makers[index]()
            self._stages[index] = stage
            placeholder = self.widget(index)
            shown = self.currentIndex() == index
            if placeholder is not None:
                self.removeWidget(placeholder)
                placeholder.deleteLater()
            self.insertWidget(index, stage)
            if shown:
                self.setCurrentIndex(index)
            self.made.emit(index)
        return self._stages[index]

    def there(self, index: int) -> bool:
        """Whether a stage was made."""
        return index in self._stages

    def show_stage(self, index: int) -> None:
        """Go to a stage."""
        self.stage(index)
        self.setCurrentIndex(index)

    def make_next(self) -> bool:
        """Make one stage that is not there yet; False when all are."""
        index = next((k for k in range(len(self._makers)) if k not in self._stages), None)
        if index is not None:
            self.stage(index)
        return index is not None
