"""Shots and their layers: runs of frames of a scene, their recipe, and what their budget holds."""

from __future__ import annotations

from typing import Annotated, Any, Literal, TypeVar

import msgspec

from hasty_reel.reel.calm import Calm
from hasty_reel.reel.moves import Move
from hasty_reel.settings.recipe import Value

Number = TypeVar("Number", int, float)
"""Of a frame; between two frames it has a fraction."""

Kind = Literal["clean", "noise", "total", "cap", "flat"]
LARGEST_WEIGHT = 1e6
Weight = Annotated[float, msgspec.Meta(gt=0, le=LARGEST_WEIGHT)]
CUSTOMARY_FIRST = 1001
"""Shots begin at frame 1001 by custom: room for handles below, four digits above."""


class Hold(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What the samples of a shot are solved for.

    kind : 'clean': no more viewers see unrest than the shot or the reel says, in every frame; it has no value;
        'noise': at most `value` of noise in every frame (linear light, 0 to 1);
        'total': at most `value` seconds for all frames; 'cap': at most `value` seconds a frame;
        'flat': `value` samples per pixel in every frame
    of : where the noise of a frame is held: its 'mean', or its 'worst' places (95th percentile)
    goal : what a total is spent for: 'even' noise, or the least variance of all frames in 'total'
    """

    kind: Kind = "noise"
    value: float = 0.02
    of: Literal["mean", "worst"] = "mean"
    goal: Literal["even", "total"] = "even"


HOLD_BOUNDS: dict[str, tuple[float, float]] = {
    "clean": (0.0, 0.0), "noise": (1e-6, 100.0), "total": (0.01, 1e10), "cap": (0.01, 1e6), "flat": (1.0, 65536.0),
}  # fmt: skip
"""The least and the most of what each kind holds: nothing, linear light, seconds, seconds, samples."""
CLEAN = Hold(kind="clean", value=0.0)
"""What a new shot holds: it plays as calm as it is to be."""


class Layer(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """A part of a shot rendered on its own; layers lie in their order, the first at the back.

    scene : what is rendered
    recipe : its own; None for the shot's
    first, last : its own stretch of frames; None for the shot's
    held : a plate that does not change: this one frame is rendered and held
    departures, hold, pins, weights, caches : as of a shot
    """

    id: str
    scene: str
    recipe: str | None = None
    first: int | None = None
    last: int | None = None
    held: int | None = None
    departures: dict[str, Value] = {}
    hold: Hold | None = None
    pins: dict[int, int] = {}
    weights: dict[int, Weight] = {}
    caches: tuple[int, ...] = ()


class ProofMark(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What the artist decided about a proof: starred, noted, put away (then it is no evidence any more)."""

    star: bool = False
    note: str = ""
    away: bool = False


class Shot(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """A run of frames of a scene, all of one recipe.

    first, last : the cut, as it plays in the film
    step : every step-th frame is rendered, and held until the next
    offset : how much higher its frames are numbered than those of the scene
    handle_in, handle_out : frames rendered before and after the cut
    move : what the frames follow from; None where the range is told
    enabled : counts in the plan and the film
    priority : shots of a higher one are rendered before others; those of the same one in the order of the film
    departures : lines of the recipe this shot replaces
    calm : how many viewers in a hundred may see unrest; None: as many as the reel says
    pins : frame -> samples per pixel fixed by hand
    weights : frame -> how often it counts where the least noise in all is sought; 1 where none is told
    caches : frames that own a light cache, where they do not follow each other by the recipe's step; with none they do
    evidence : id of the shot whose proofs hold for this one, after a split or a copy; '' for its own
    layers : where there are any, the shot is rendered as these
    marks : proof -> what was decided about it
    """

    id: str
    name: str
    scene: str
    first: int
    last: int
    recipe: str
    step: int = 1
    offset: int = 0
    handle_in: int = 0
    handle_out: int = 0
    move: Move | None = None
    enabled: bool = True
    priority: Annotated[int, msgspec.Meta(ge=-100, le=100)] = 0
    note: str = ""
    departures: dict[str, Value] = {}
    hold: Hold = Hold()
    calm: Calm | None = None
    pins: dict[int, int] = {}
    weights: dict[int, Weight] = {}
    caches: tuple[int, ...] = ()
    evidence: str = ""
    layers: tuple[Layer, ...] = ()
    marks: dict[str, ProofMark] = {}

    @property
    def frames(self) -> range:
        """The frames to render, handles and step counted."""
        return range(self.first - self.handle_in, self.last + self.handle_out + 1, self.step)

    @property
    def begin(self) -> int:
        """First frame to render."""
        return self.first - self.handle_in

    @property
    def end(self) -> int:
        """Last frame to render."""
        return self.frames[-1]

    @property
    def loop(self) -> tuple[int, int] | None:
        """First and last frame of a shot that goes on with its first frame after its last one; None where it ends."""
        goes_on = self.move is not None and self.move.goes_on
        return (self.first, self.last) if goes_on and self.step == 1 and not (self.handle_in or self.handle_out) else None

    @property
    def past(self) -> int:
        """One past the last frame, handles counted."""
        return self.last + self.handle_out + 1

    @property
    def length(self) -> int:
        """Frames of the cut, as it plays."""
        return self.last - self.first + 1

    def nearest(self, frame: int) -> int:
        """Return the frame to render at or before a frame, within the shot.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        frame = min(max(frame, self.begin), self.end)
        return frame - (frame - self.begin) % self.step

    @property
    def middle(self) -> int:
        """The frame in the middle: where a crop is rendered, this one is whole and stands around the others."""
        return self.nearest((self.begin + self.end) // 2)

    def scene_frame(self, frame: Number) -> Number:
        """Return the frame of the scene that a frame of the shot shows.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        return frame - self.offset

    def index(self, frame: int) -> int:
        """Return the place of a frame among those to render.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        return (frame - self.begin) // self.step

    @property
    def put_away(self) -> frozenset[str]:
        """The proofs that are no evidence any more."""
        return frozenset(k for k, m in self.marks.items() if m.away)

    @property
    def proofs(self) -> str:
        """Name of its folder of proofs."""
        return self.evidence or self.id

    def as_layers(self) -> tuple[Shot, ...]:
        """Return what is rendered of this shot: itself, or each of its layers as a shot of its own, 'sh010.beam'."""
        return tuple(layer_shot(self, layer) for layer in self.layers) if self.layers else (self,)


def layer_shot(shot: Shot, layer: Layer) -> Shot:
    """Return a layer as a shot of its own: it can be proved, planned and rendered like one.

    Parameters
    ----------
    shot : the shot or layer
    layer : the layer
    """
    own = layer.first is not None or layer.held is not None
    first = layer.held if layer.held is not None else shot.first if layer.first is None else layer.first
    last = layer.held if layer.held is not None else shot.last if layer.last is None else layer.last
    return Shot(
        id=f"{shot.id}.{layer.id}",
        name=f"{shot.name}, {layer.id}",
        scene=layer.scene,
        first=first,
        last=last,
        recipe=layer.recipe or shot.recipe,
        step=1 if layer.held is not None else shot.step,
        offset=shot.offset,
        handle_in=0 if own else shot.handle_in,
        handle_out=0 if own else shot.handle_out,
        move=None if own else shot.move,
        enabled=shot.enabled,
        departures=layer.departures,
        hold=layer.hold or shot.hold,
        calm=shot.calm,
        pins=layer.pins,
        weights=layer.weights,
        caches=layer.caches,
        marks={k.removeprefix(f"{layer.id}--"): m for k, m in shot.marks.items() if k.startswith(f"{layer.id}--")},
        evidence=f"{shot.evidence}.{layer.id}" if shot.evidence else "",
    )


def with_layer_shot(shot: Shot, layer: Layer, old: Shot, new: Shot) -> Layer:
    """Return the layer after its shot `old` was changed to `new`: recipe, departures, hold, pins, weights and caches are the layer's own.

    Parameters
    ----------
    shot : the shot or layer
    layer : the layer
    old : the shot of the layer before the edit
    new : the same after it
    """
    own = ("recipe", "departures", "hold", "pins", "weights", "caches")
    changes: dict[str, Any] = {name: getattr(new, name) for name in own if getattr(new, name) != getattr(old, name)}
    return msgspec.structs.replace(layer, **changes)
