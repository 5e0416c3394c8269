"""Shots: a run of frames of a scene, its recipe, and what its budget holds."""

from __future__ import annotations

from typing import Literal

import msgspec

from hasty_reel.reel.recipe import Value

Kind = Literal["noise", "total", "cap"]


class Hold(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What the samples of a shot are solved for.

    kind : 'noise': at most `value` of noise in every frame (linear light, 0 to 1);
        'total': at most `value` seconds for all frames; 'cap': at most `value` seconds a frame
    """

    kind: Kind = "noise"
    value: float = 0.02


class Shot(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """A run of frames first..last of a scene, all of one recipe.

    departures : lines of the recipe this shot replaces
    pins : frame -> samples per pixel fixed by hand
    """

    id: str
    name: str
    scene: str
    first: int
    last: int
    recipe: str
    departures: dict[str, Value] = {}
    hold: Hold = Hold()
    pins: dict[int, int] = {}

    @property
    def frames(self) -> range:
        """All frames of the shot."""
        return range(self.first, self.last + 1)
