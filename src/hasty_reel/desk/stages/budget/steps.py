"""The smallest steps under the bundles, a button each: calm where it is not, in time where it is late, calmer where time is spare."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QWidget

from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow
from hasty_reel.studio.budget.alternatives import AlternativesModel


class StepRow(QWidget):
    """Buttons, as many as there are steps; not there where there is none.

    Parameters
    ----------
    model : finds them
    parent : the widget it belongs to
    """

    def __init__(self, model: AlternativesModel, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.model = model
        self.buttons: list[PlainButton] = []
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(13, 2, 16, 2)
        self._row.setSpacing(6)
        self._row.addStretch(1)
        follow(self, model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what was found."""
        words = [self.model.step_words(step) for step in self.model.steps]
        if [b.text() for b in self.buttons] != words:
            for button in self.buttons:
                self._row.removeWidget(button)
                button.hide()
                button.deleteLater()
            self.buttons = [PlainButton(text, partial(self._take, k), parent=self) for k, text in enumerate(words)]
            for k, button in enumerate(self.buttons):
                button.setToolTip(f"Plan this shot so. {button.text()}, nine times in ten.")
                self._row.insertWidget(k, button)
        for button in self.buttons:
            button.setEnabled(not self.model.stale)
        self.setVisible(bool(self.buttons))

    def _take(self, k: int) -> None:
        if not self.model.stale and k < len(self.model.steps):
            self.model.take_step(self.model.steps[k])
