"""The layers of a shot in their order, the first at the back."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk.fields import PickButton, PlainButton, ValueField
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import caption, discard
from hasty_reel.studio.brief.layers import LayersModel, layer_frames_text
from hasty_reel.studio.session import Session


class LayerRows(QWidget):
    """A row a layer: name, scene, frames, recipe, and what can be done with it."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._model = session, LayersModel(session)
        self._rows: list[dict[str, Any]] = []
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self.add_button = PlainButton("Add layer", self._model.add, parent=self)
        self.add_button.setToolTip("Render this shot as layers; each has its own scene, frames and recipe")
        foot = QHBoxLayout()
        foot.addWidget(self.add_button)
        foot.addStretch(1)
        self._column.addLayout(foot)

    def refresh(self) -> None:
        """Show the layers of the shot."""
        layers = self._model.shot.layers
        while len(self._rows) > len(layers):
            discard(self._rows.pop()["widget"])
        while len(self._rows) < len(layers):
            self._rows.append(self._build(len(self._rows)))
            self._column.insertWidget(len(self._rows) - 1, self._rows[-1]["widget"])
        for row, layer in zip(self._rows, layers):
            row["id"].show_value(layer.id)
            row["scene"].show_value(layer.scene)
            row["frames"].show_value(layer_frames_text(layer))
            row["recipe"].show_value(layer.recipe or "as the shot")

    def _build(self, k: int) -> dict[str, Any]:
        widget = QWidget(self)
        first, second = QHBoxLayout(), QHBoxLayout()
        for row in (first, second):
            row.setContentsMargins(0, 0, 0, 0)
            row.setSpacing(5)
        built: dict[str, Any] = {"widget": widget}
        for name, text, width, line in (("id", "", 78, first), ("scene", "shows", 118, first), ("frames", "frames", 84, second)):
            field = ValueField("", widget)
            field.setFixedWidth(width)
            field.setAlignment(Qt.AlignmentFlag.AlignLeft)
            field.setAccessibleName(f"Layer {k + 1} {name}")
            field.committed.connect(lambda typed, n=name, k=k: self._typed(k, n, typed))
            if text:
                line.addWidget(caption(text))
            line.addWidget(field)
            built[name] = field
        built["frames"].setToolTip("all, a range such as 1001-1020, or held 1001 for a plate that does not change")
        built["recipe"] = PickButton(partial(self._recipe_menu, k), widget)
        built["recipe"].setAccessibleName(f"Layer {k + 1} recipe")
        built["recipe"].setMaximumWidth(110)
        second.addWidget(built["recipe"])
        second.addStretch(1)
        first.addStretch(1)
        for text, tip, act in (
            ("↑", "Further back", partial(self._model.move, k, -1)),
            ("↓", "Further to the front", partial(self._model.move, k, 1)),
            ("−", "Take this layer out", partial(self._model.drop, k)),
        ):
            button = PlainButton(text, act, parent=widget)
            button.setFixedSize(28, 24)
            button.setToolTip(tip)
            button.setAccessibleName(f"Layer {k + 1}: {tip}")
            (first if text == "−" else second).addWidget(button)
        column = QVBoxLayout(widget)
        column.setContentsMargins(0, 0, 0, 3)
        column.setSpacing(0)
        column.addLayout(first)
        column.addLayout(second)
        return built

    def _typed(self, k: int, name: str, text: str) -> None:
        self._model.type_value(k, name, text)
        self.refresh()

    def _recipe_menu(self, k: int) -> QMenu:
        names = (None, *(r.name for r in self._session.reel.recipes))
        entries = [(n, n or "as the shot") for n in names]
        now = self._model.shot.layers[k].recipe
        return choice_menu(self, entries, now, lambda n: self._model.change(k, "Set layer recipe", recipe=n))
