"""Recipes: the render settings a shot points to, line by line.

A line is one setting. Everything that shows, prices or checks a setting (ledger,
price tags, file reader, renderer link) reads it from `LINES`.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import msgspec

from hasty_reel.errors import ReelError

Value = int | float | None


class Recipe(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """A named set of render settings.

    samples_floor, samples_ceiling : least and most samples per pixel of a frame
    bounces : light bounces after the first surface; 0 is direct light alone
    brightness_ceiling : largest value one light path may add; None for no limit
    shutter_angle : degrees; 180 at 24 fps exposes 1/48 s
    shutter_steps : moments the open shutter is sampled in; 0: a random time for each sample
    render_scale : size rendered / size delivered, in percent of the width
    fog_step : step through fog and smoke, in percent of a cell of its grid
    denoise_window : frames over which is denoised, odd, 1 to 7; 1 is off
    """

    name: str
    samples_floor: int = 8
    samples_ceiling: int = 512
    bounces: int = 6
    brightness_ceiling: float | None = 10.0
    shutter_angle: float = 180.0
    shutter_steps: int = 8
    fog_step: float = 100.0
    render_scale: float = 100.0
    denoise_window: int = 5


@dataclass(frozen=True)
class Line:
    """One setting of a recipe: its words, unit, bounds, and the value that means 'left out'."""

    field: str
    group: str
    label: str
    unit: str
    low: float
    high: float
    neutral: Value
    step: float
    whole: bool = True
    optional: bool = False
    odd: bool = False
    meaning: str = ""

    def checked(self, value: Value, where: str) -> Value:
        """The value, if this line can take it.

        Raises
        ------
        ReelError
            Says where, what was given and what was expected.
        """
        if value is None:
            if self.optional:
                return None
            raise ReelError(f"{where}: {self.label.lower()} is missing; expected {self.expected}.")
        good = isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)
        if not good or not self.low <= value <= self.high or (self.whole and value != int(value)) or (self.odd and int(value) % 2 == 0):
            raise ReelError(f"{where}: {self.label.lower()} is {value}; expected {self.expected}.")
        return int(value) if self.whole else float(value)

    @property
    def expected(self) -> str:
        """The values this line takes, in words."""
        kind = "an odd whole number" if self.odd else "a whole number" if self.whole else "a number"
        text = f"{kind} from {self.low:g} to {self.high:g}"
        return f"{text}, or none" if self.optional else text


LINES: tuple[Line, ...] = (
    Line("samples_floor", "Samples", "Floor", "", 1, 65536, 1, 1,
         meaning="The least samples per pixel a frame may get. It wins over a time cap."),
    Line("samples_ceiling", "Samples", "Ceiling", "", 1, 65536, 65536, 1,
         meaning="The most samples per pixel a frame may get."),
    Line("bounces", "Light", "Bounces", "", 0, 64, 0, 1,
         meaning="How often light is followed from surface to surface. As low as the look allows."),
    Line("brightness_ceiling", "Light", "Brightness ceiling", "", 0.01, 1e6, None, 0.1, whole=False, optional=True,
         meaning="The largest value one light path may add. Tames sparks; too low costs highlights."),
    Line("shutter_angle", "Motion blur", "Shutter angle", "°", 0, 360, 0, 1, whole=False,
         meaning="How long the shutter stands open: 180° at 24 fps is 1/48 s."),
    Line("shutter_steps", "Motion blur", "Shutter steps", "", 0, 1024, 1, 1,
         meaning="In how many moments the open shutter is sampled; 0 gives each sample a random time."),
    Line("fog_step", "Fog", "Fog step", "%", 1, 10000, 50, 50, whole=False,
         meaning="Length of a step through fog and smoke, in percent of a cell: 50 % is two steps a cell, 200 % half a step."),
    Line("render_scale", "Size", "Render scale", "%", 10, 200, 100, 1, whole=False,
         meaning="Size rendered / size delivered, in percent of the width; resized afterwards."),
    Line("denoise_window", "Denoise over time", "Window", "frames", 1, 7, 1, 2, odd=True,
         meaning="Over how many frames noise is averaged along the motion; 1 is off."),
)  # fmt: skip
LINE = {line.field: line for line in LINES}


def checked_recipe(recipe: Recipe) -> Recipe:
    """The recipe, if all its lines are within bounds and agree.

    Raises
    ------
    ReelError
        Names the recipe, the line and what was expected.
    """
    where = f"Recipe '{recipe.name}'"
    for line in LINES:
        line.checked(getattr(recipe, line.field), where)
    if recipe.samples_ceiling < recipe.samples_floor:
        raise ReelError(
            f"{where}: ceiling {recipe.samples_ceiling} lies below the floor {recipe.samples_floor}; "
            "expected the ceiling at or above the floor."
        )
    return recipe


def departing(recipe: Recipe, departures: Mapping[str, Value]) -> Recipe:
    """The recipe with some of its lines replaced."""
    return msgspec.structs.replace(recipe, **departures)


def differences(recipe: Recipe, parent: Recipe) -> list[str]:
    """What changed from a parent recipe, in words, as 'bounces 6 → 2'."""
    out = []
    for line in LINES:
        old, new = getattr(parent, line.field), getattr(recipe, line.field)
        if old != new:
            before, after = ("none" if v is None else f"{v:g}" for v in (old, new))
            out.append(f"{line.label.lower()} {before} → {after}")
    return out
