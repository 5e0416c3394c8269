"""The reel: one frozen document; every edit makes a new one."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from datetime import datetime
from fractions import Fraction
from pathlib import PurePosixPath
from typing import Any

import msgspec

from hasty_reel.errors import ReelError
from hasty_reel.reel.machine import Machine
from hasty_reel.reel.recipe import LINE, Recipe, Value, checked_recipe, departing
from hasty_reel.reel.shot import Hold, Shot

MOST_FRAMES = 1_000_000
_ID = re.compile(r"[A-Za-z0-9][A-Za-z0-9_-]{0,63}\Z")


class Reel(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """The whole job.

    rate : frames per second as numerator and denominator, (24000, 1001) for 23.976
    width, height : delivered size in pixels
    due : when everything must be ready, ISO 8601 with zone
    proofs : folder of the proofs, beside the reel file
    """

    reel_format: int = 1
    name: str
    rate: tuple[int, int] = (24, 1)
    width: int = 1920
    height: int = 1080
    due: str
    proofs: str = "proofs"
    shots: tuple[Shot, ...]
    recipes: tuple[Recipe, ...]
    machines: tuple[Machine, ...]

    @property
    def fps(self) -> Fraction:
        """Frames per second, exactly."""
        return Fraction(*self.rate)

    @property
    def due_time(self) -> datetime:
        """The due time with its zone."""
        return datetime.fromisoformat(self.due)

    def shot(self, shot_id: str) -> Shot:
        """The shot of that id.

        Raises
        ------
        ReelError
            When there is none; lists those there are.
        """
        for shot in self.shots:
            if shot.id == shot_id:
                return shot
        raise ReelError(f"Reel '{self.name}': no shot '{shot_id}'; expected one of {', '.join(s.id for s in self.shots)}.")

    def recipe(self, name: str) -> Recipe:
        """The recipe of that name.

        Raises
        ------
        ReelError
            When there is none; lists those there are.
        """
        for recipe in self.recipes:
            if recipe.name == name:
                return recipe
        known = ", ".join(f"'{r.name}'" for r in self.recipes)
        raise ReelError(f"Reel '{self.name}': no recipe '{name}'; expected one of {known}.")

    def recipe_of(self, shot: Shot) -> Recipe:
        """The recipe of a shot with its departures."""
        return departing(self.recipe(shot.recipe), shot.departures)

    @property
    def frame_speed(self) -> float:
        """Frames rendered in the time one takes on a machine of speed 1."""
        return sum(m.speed * m.workers for m in self.machines)


def checked_reel(reel: Reel) -> Reel:
    """The reel, if it does not contradict itself.

    Raises
    ------
    ReelError
        One sentence with the path of the field and what was expected.
    """
    _need(reel.reel_format == 1, "$.reel_format", reel.reel_format, "1")
    _need(bool(reel.name.strip()), "$.name", repr(reel.name), "a name")
    _need(
        reel.rate[0] > 0 and reel.rate[1] > 0 and 1 <= reel.fps <= 1000,
        "$.rate",
        list(reel.rate),
        "1 to 1000 frames a second",
    )
    for side in ("width", "height"):
        _need(16 <= getattr(reel, side) <= 16384, f"$.{side}", getattr(reel, side), "16 to 16384 pixels")
    try:
        good = reel.due_time.tzinfo is not None
    except ValueError:
        good = False
    _need(good, "$.due", repr(reel.due), "a time with its zone such as 2026-11-25T09:00:00+00:00")
    folder = PurePosixPath(reel.proofs)
    inside = not folder.is_absolute() and ".." not in folder.parts and reel.proofs.strip() not in ("", ".")
    _need(inside, "$.proofs", repr(reel.proofs), "a folder beside the reel file")
    _need(len(reel.shots) > 0, "$.shots", "empty", "at least one shot")
    _need(len(reel.recipes) > 0, "$.recipes", "empty", "at least one recipe")
    _need(len(reel.machines) > 0, "$.machines", "empty", "at least one machine")
    for k, machine in enumerate(reel.machines):
        at = f"$.machines[{k}]"
        _need(math.isfinite(machine.speed) and 0.001 <= machine.speed <= 1000, f"{at}.speed", machine.speed, "0.001 to 1000")
        _need(1 <= machine.workers <= 1024, f"{at}.workers", machine.workers, "1 to 1024")
    names = [r.name for r in reel.recipes]
    _need(len(set(names)) == len(names), "$.recipes", "two of one name", "different names")
    for recipe in reel.recipes:
        checked_recipe(recipe)
    ids = [s.id for s in reel.shots]
    _need(len(set(ids)) == len(ids), "$.shots", "two of one id", "different ids")
    for k, shot in enumerate(reel.shots):
        _check_shot(reel, shot, f"$.shots[{k}]")
    return reel


def _check_shot(reel: Reel, shot: Shot, at: str) -> None:
    _need(bool(_ID.match(shot.id)), f"{at}.id", repr(shot.id), "letters, digits, - and _, such as sh010")
    _need(shot.first >= 0, f"{at}.first", shot.first, "0 or more")
    _need(shot.last >= shot.first, f"{at}.last", shot.last, f"the first frame {shot.first} or a later one")
    _need(shot.last - shot.first < MOST_FRAMES, f"{at}.last", shot.last, f"at most {MOST_FRAMES:,} frames")
    _need(any(r.name == shot.recipe for r in reel.recipes), f"{at}.recipe", repr(shot.recipe), "a recipe of this reel")
    for field, value in shot.departures.items():
        _need(field in LINE, f"{at}.departures", repr(field), f"one of {', '.join(LINE)}")
        LINE[field].checked(value, f"{at}.departures")
    checked_recipe(reel.recipe_of(shot))
    _need(math.isfinite(shot.hold.value) and shot.hold.value > 0, f"{at}.hold.value", shot.hold.value, "a number above 0")
    for frame, samples in shot.pins.items():
        _need(shot.first <= frame <= shot.last, f"{at}.pins", frame, "a frame of the shot")
        _need(1 <= samples <= 65536, f"{at}.pins.{frame}", samples, "1 to 65536 samples")


def _need(good: bool, at: str, value: object, expected: str) -> None:
    if not good:
        raise ReelError(f"{at}: {value}; expected {expected}.")


def with_shot(reel: Reel, shot_id: str, change: Callable[[Shot], Shot]) -> Reel:
    """The reel with one shot changed, checked."""
    old = reel.shot(shot_id)
    return checked_reel(msgspec.structs.replace(reel, shots=tuple(change(s) if s is old else s for s in reel.shots)))


def with_line(reel: Reel, shot_id: str, field: str, value: Value) -> Reel:
    """The reel with one line of a shot's recipe changed, for every shot of that recipe.

    Where the shot departs from its recipe in this line, its departure is changed instead.
    """
    shot = reel.shot(shot_id)
    value = LINE[field].checked(value, f"Shot {shot_id}")
    if field in shot.departures:
        return with_shot(reel, shot_id, lambda s: msgspec.structs.replace(s, departures={**s.departures, field: value}))
    changes: dict[str, Any] = {field: value}
    recipes = tuple(msgspec.structs.replace(r, **changes) if r.name == shot.recipe else r for r in reel.recipes)
    return checked_reel(msgspec.structs.replace(reel, recipes=recipes))


def with_hold(reel: Reel, shot_id: str, hold: Hold) -> Reel:
    """The reel with what the budget of a shot holds."""
    return with_shot(reel, shot_id, lambda s: msgspec.structs.replace(s, hold=hold))
