"""The layers of a shot in their order, the first at the back: as they are written, and edits of them."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.reel.edits import with_layers
from hasty_reel.reel.frames import read_frames
from hasty_reel.reel.shot import Layer, Shot

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


def layer_frames_text(layer: Layer) -> str:
    """Return the frames of a layer as they are written: 'all', '1001-1020', 'held 1001'.

    Parameters
    ----------
    layer : the layer

    Returns
    -------
    str
        Words.
    """
    if layer.held is not None:
        return f"held {layer.held}"
    return "all" if layer.first is None else f"{layer.first}-{layer.last}"


def read_layer_frames(text: str, shot: Shot) -> dict[str, int | None]:
    """Read what `layer_frames_text` writes.

    Parameters
    ----------
    text : as typed
    shot : the layer belongs to

    Returns
    -------
    dict[str, int | None]
        Fields of a layer: first, last, held.

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


class LayersModel:
    """Edits of the layers of the shot; what makes no sense is said, and nothing changes.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        self._session = session

    @property
    def shot(self) -> Shot:
        """The whole shot."""
        return self._session.reel.shot(self._session.playhead.whole_id)

    def _set(self, name: str, layers: tuple[Layer, ...]) -> None:
        shot_id = self.shot.id
        self._session.do(name, lambda reel: with_layers(reel, shot_id, layers))

    def change(self, k: int, name: str, **changes: Any) -> None:
        """Change fields of a layer.

        Parameters
        ----------
        k : index of the layer
        name : of the edit, for undo
        **changes : fields of the layer
        """
        layers = self.shot.layers
        self._set(name, (*layers[:k], msgspec.structs.replace(layers[k], **changes), *layers[k + 1 :]))

    def type_value(self, k: int, name: str, text: str) -> None:
        """Set a field of a layer as it is typed.

        Parameters
        ----------
        k : index of the layer
        name : 'id', 'scene' or 'frames'
        text : as typed
        """
        try:
            changes = read_layer_frames(text, self.shot) if name == "frames" else {name: text}
        except WrongInput as error:
            self._session.said.emit(str(error))
            return
        self.change(k, f"Set layer {name}", **changes)

    def add(self) -> None:
        """Add a layer in front of the others."""
        shot = self.shot
        taken = {y.id for y in shot.layers}
        name = next(n for n in ("back", "front", *(f"layer{j}" for j in range(3, len(taken) + 4))) if n not in taken)
        self._set("Add layer", (*shot.layers, Layer(id=name, scene=shot.scene)))

    def drop(self, k: int) -> None:
        """Take a layer out.

        Parameters
        ----------
        k : index of the layer
        """
        layers = self.shot.layers
        self._set("Take layer out", layers[:k] + layers[k + 1 :])

    def move(self, k: int, way: int) -> None:
        """Move a layer.

        Parameters
        ----------
        k : index of the layer
        way : -1 further back, 1 further to the front
        """
        layers = list(self.shot.layers)
        if 0 <= k + way < len(layers):
            layers[k], layers[k + way] = layers[k + way], layers[k]
            self._set("Order layers", tuple(layers))
