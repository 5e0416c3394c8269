"""The layers of a shot in their order, the first at the back."""

from __future__ import annotations

from functools import partial
from typing import Any

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk.fields import PickButton, PlainButton, ValueField
from hasty_reel.desk.rows import caption, discard
from hasty_reel.desk.session import Session
from hasty_reel.errors import WrongInput
from hasty_reel.reel.edits import with_layers
from hasty_reel.reel.frames import read_frames
from hasty_reel.reel.shot import Layer, Shot


def layer_frames_text(layer: Layer) -> str:
    """The frames of a layer as they are written: 'all', '1001-1020', 'held 1001'."""
    if layer.held is not None:
        return f"held {layer.held}"
    return "all" if layer.first is None else f"{layer.first}-{layer.last}"


def read_layer_frames(text: str, shot: Shot) -> dict[str, int | None]:
    """What `layer_frames_text` writes, as fields of a layer.

    Raises
    ------
    WrongInput
        When it is neither 'all', 'held' with a frame, nor a range.
    """
    plain = text.strip().lower()
    if plain in ("all", ""):
        return {"first": None, "last": None, "held": None}
    if plain.startswith("held"):
        frame = plain.removeprefix("held").strip()
        if frame and not frame.isdigit():
            raise WrongInput(f"Layer frames '{text[:40]}'; expected 'held' and a frame such as held {shot.first}.")
        return {"first": None, "last": None, "held": int(frame) if frame else shot.first}
    frames = read_frames(plain)
    if len(frames) != frames[-1] - frames[0] + 1:
        raise WrongInput(f"Layer frames '{text[:40]}'; expected one range such as {shot.first}-{shot.last}, 'held {shot.first}' or 'all'.")
    return {"first": frames[0], "last": frames[-1], "held": None}


class LayerRows(QWidget):
    """A row a layer: name, scene, frames, recipe, and what can be done with it."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._rows: list[dict[str, Any]] = []
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(2)
        self.add_button = PlainButton("Add layer", self._add, parent=self)
        self.add_button.setToolTip("Render this shot as layers; each has its own scene, frames and recipe")
        foot = QHBoxLayout()
        foot.addWidget(self.add_button)
        foot.addStretch(1)
        self._column.addLayout(foot)

    @property
    def _shot(self) -> Shot:
        return self._session.reel.shot(self._session.shot_id.partition(".")[0])

    def refresh(self) -> None:
        """Show the layers of the shot."""
        layers = self._shot.layers
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
            ("↑", "Further back", partial(self._move, k, -1)),
            ("↓", "Further to the front", partial(self._move, k, 1)),
            ("−", "Take this layer out", partial(self._drop, k)),
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

    # -- edits

    def _set(self, name: str, layers: tuple[Layer, ...]) -> None:
        shot_id = self._shot.id
        self._session.do(name, lambda reel: with_layers(reel, shot_id, layers))
        self.refresh()

    def _replace(self, k: int, name: str, **changes: Any) -> None:
        layers = self._shot.layers
        self._set(name, (*layers[:k], msgspec.structs.replace(layers[k], **changes), *layers[k + 1 :]))

    def _typed(self, k: int, name: str, text: str) -> None:
        try:
            changes = read_layer_frames(text, self._shot) if name == "frames" else {name: text}
        except WrongInput as error:
            self._session.said.emit(str(error))
            self.refresh()
            return
        self._replace(k, f"Set layer {name}", **changes)

    def _recipe_menu(self, k: int) -> QMenu:
        menu = QMenu(self)
        for name in (None, *(r.name for r in self._session.reel.recipes)):
            entry = menu.addAction(name or "as the shot")
            entry.triggered.connect(lambda _=False, n=name: self._replace(k, "Set layer recipe", recipe=n))
        return menu

    def _add(self) -> None:
        shot = self._shot
        taken = {y.id for y in shot.layers}
        name = next(n for n in ("back", "front", *(f"layer{j}" for j in range(3, len(taken) + 4))) if n not in taken)
        self._set("Add layer", (*shot.layers, Layer(id=name, scene=shot.scene)))

    def _drop(self, k: int) -> None:
        layers = self._shot.layers
        self._set("Take layer out", layers[:k] + layers[k + 1 :])

    def _move(self, k: int, way: int) -> None:
        layers = list(self._shot.layers)
        if 0 <= k + way < len(layers):
            layers[k], layers[k + way] = layers[k + way], layers[k]
            self._set("Order layers", tuple(layers))
