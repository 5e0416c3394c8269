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
from hasty_reel.reel.finishorder import USUAL, checked_order
from hasty_reel.reel.numbers import read_number

Value = int | float | None
MOST_CROP = 95
"""Percent of the picture across or down that a crop may leave out."""
CROP_SIDES = ("crop_left", "crop_top", "crop_right", "crop_bottom")
"""The lines of a crop, in the order in which its sides are told."""


class Recipe(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """A named set of render settings.

    samples_floor, samples_ceiling : least and most samples per pixel of a frame
    stop_noise : noise below which a place of a frame gets no more samples; None for never
    time_cap : seconds a frame may take at most, its floor allowing; None for no cap
    bounces : light bounces after the first surface; 0 is direct light alone
    bounces_matte, bounces_glossy, bounces_glass, bounces_fog : of these, the most off each kind of surface and in
        fog; None for no limit of its own
    approximate_after : bounces after which bounced light is approximated; None for never
    approximate_distance : how far a surface must be open to get it, in units of the scene
    approximate_strength : share of it, in percent
    lamps : 1 samples lamps, 0 finds them by chance as it does meshes that glow
    brightness_ceiling : largest value one light path may add; None for no limit
    shutter_angle : degrees; 180 at 24 fps exposes 1/48 s
    shutter_steps : moments the open shutter is sampled in; 0: a random time for each sample
    render_scale : size rendered / size delivered, in percent of the width
    fog_step : step through fog and smoke, in percent of a cell of its grid
    fog_cut : light rays through fog end where less than this share, in percent, would come through
    cache_step : a light cache on every n-th frame; 0 is off. cache_blend : how many nearest ones a frame blends
    seed_held : 1 keeps the noise pattern from frame to frame, 0 takes a new one each frame
    despike : 1 removes isolated too-bright pixels after rendering
    tiles : across and down, in which a frame is rendered; 1 renders it whole
    crop_left, crop_top, crop_right, crop_bottom : shares of the picture, in percent from each side, that are not rendered anew in each
        frame: there the middle frame of the shot stands
    keep_scene : 1 reads the scene once per chunk, 0 once per frame
    preroll : frames simulated before a chunk, where the scene needs history
    denoise_window : frames over which is denoised, odd, 1 to 7; 1 is off
    denoise_thorough : 1 takes more care, and about thrice the seconds
    denoise_strength : share of the denoised picture in the finished one, in percent; the rest is as rendered
    sharpen : share of the finest detail that is added to the finished picture
    finish_order : steps of finishing in their order: those of `finishorder.USUAL`, and names of the artist's own steps
    """

    name: str
    samples_floor: int = 8
    samples_ceiling: int = 512
    stop_noise: float | None = None
    time_cap: float | None = None
    halves: int = 0
    bounces: int = 6
    bounces_matte: int | None = None
    bounces_glossy: int | None = None
    bounces_glass: int | None = None
    bounces_fog: int | None = None
    approximate_after: int | None = None
    approximate_distance: float = 3.0
    approximate_strength: float = 100.0
    lamps: int = 1
    brightness_ceiling: float | None = 10.0
    shutter_angle: float = 180.0
    shutter_steps: int = 8
    fog_step: float = 100.0
    fog_cut: float = 0.0
    cache_step: int = 0
    cache_blend: int = 2
    render_scale: float = 100.0
    seed_held: int = 0
    despike: int = 0
    tiles: int = 1
    crop_left: int = 0
    crop_top: int = 0
    crop_right: int = 0
    crop_bottom: int = 0
    keep_scene: int = 0
    preroll: int = 0
    denoise_window: int = 5
    denoise_thorough: int = 1
    denoise_strength: float = 100.0
    sharpen: float = 0.0
    finish_order: tuple[str, ...] = USUAL

    @property
    def starts(self) -> int:
        """How often the scene is started for a frame: once for each tile, in each half."""
        return self.tiles**2 * (2 if self.halves else 1)

    @property
    def crop(self) -> tuple[int, int, int, int]:
        """What is not rendered anew in each frame: percent of the picture from the left, the top, the right and the bottom."""
        left, top, right, bottom = (getattr(self, field) for field in CROP_SIDES)
        return left, top, right, bottom

    def crop_box(self, width: int, height: int) -> tuple[int, int, int, int] | None:
        """Return the part of a picture that is rendered in each frame, left, top, width and height in pixels; None for all of it.

        Parameters
        ----------
        width, height : of the picture, in pixels
        """
        if not any(self.crop):
            return None
        left, top = width * self.crop_left // 100, height * self.crop_top // 100
        right, bottom = width - width * self.crop_right // 100, height - height * self.crop_bottom // 100
        return left, top, max(1, right - left), max(1, bottom - top)

    @property
    def sample_step(self) -> int:
        """Samples come in multiples of this: one for each shutter step, in each half of a frame that is rendered in halves."""
        return max(1, self.shutter_steps) * (2 if self.halves else 1)


@dataclass(frozen=True)
class Line:
    """One setting of a recipe: its words, unit, bounds, the value that means 'left out', and values that have a name."""

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
    names: tuple[tuple[Value, str], ...] = ()

    def checked(self, value: Value, where: str) -> Value:
        """Return the value, if this line can take it.

        Parameters
        ----------
        value : a value
        where : the same in words, for the message

        Raises
        ------
        ReelError
            Says where, what was given and what was expected.
        """
        if value is None:
            if self.optional:
                return None
            raise ReelError(f"{where}: {self.words} is missing; expected {self.expected}.")
        good = isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)
        if not good or not self.low <= value <= self.high or (self.whole and value != int(value)) or (self.odd and int(value) % 2 == 0):
            raise ReelError(f"{where}: {self.words} is {value}; expected {self.expected}.")
        return int(value) if self.whole else float(value)

    def nearest(self, value: float) -> int | float:
        """Return the value within the bounds of this line that is nearest to another.

        Parameters
        ----------
        value : a value
        """
        held = min(max(value, self.low), self.high)
        return int(held) if self.whole else float(held)

    @property
    def words(self) -> str:
        """Its name in a sentence."""
        if not self.label.startswith("–"):
            return self.label.lower()
        return f"{self.field.split('_')[0]} {self.label.lstrip('– ')}" if self.names else self.field.replace("_", " ")

    def text(self, value: Value) -> str:
        """Return a value as it is written: by its name where it has one.

        Parameters
        ----------
        value : a value
        """
        for named, name in self.names:
            if value == named:
                return name
        return "none" if value is None else f"{value:g}"

    def named(self, text: str) -> tuple[bool, Value]:
        """Whether a text is the name of a value, and that value.

        Parameters
        ----------
        text : as written

        Returns
        -------
        is_name : bool
            Whether the text is the name of a value.
        value : Value
            That value; None where it is none.
        """
        for value, name in self.names:
            if text.strip().lower() == name:
                return True, value
        return False, None

    def read(self, text: str) -> Value:
        """Read a value of this line as it is typed.

        Parameters
        ----------
        text : as typed

        Returns
        -------
        Value
            The value; None where the line has none.

        Raises
        ------
        ValueError
            When it is no number.
        """
        is_name, value = self.named(text)
        if is_name:
            return value
        value = read_number(text)
        return int(value) if value is not None and self.whole and value == int(value) else value

    @property
    def expected(self) -> str:
        """The values this line takes, in words."""
        kind = "an odd whole number" if self.odd else "a whole number" if self.whole else "a number"
        text = f"{kind} from {self.low:g} to {self.high:g}"
        text = f"{text}, or none" if self.optional else text
        return " or ".join(n for _, n in self.names) if len(self.names) == self.high - self.low + 1 else text


LINES: tuple[Line, ...] = (
    Line("samples_floor", "Samples", "Floor", "", 1, 65536, 1, 1,
         meaning="The least samples per pixel a frame may get. It wins over a time cap."),
    Line("samples_ceiling", "Samples", "Ceiling", "", 1, 65536, 65536, 1,
         meaning="The most samples per pixel a frame may get."),
    Line("stop_noise", "Samples", "Stop at noise", "", 1e-6, 1000, None, 0.001, whole=False, optional=True,
         meaning="Places of a frame whose noise is below this get no more samples. Rare bright paths escape it: "
         "where noise is sparks, it is uncertain by half."),
    Line("time_cap", "Samples", "Time cap", "s", 0.01, 1e6, None, 10, whole=False, optional=True,
         meaning="Seconds a frame may take at most; then it stops as it is. The floor wins over it."),
    Line("halves", "Samples", "Halves", "", 0, 1, 0, 1, names=((0, "off"), (1, "on")),
         meaning="Finals are rendered as two pictures of half the samples and averaged: the noise of every frame is measured then. "
         "Costs a second start of each frame."),
    Line("bounces", "Light", "Bounces", "", 0, 64, 0, 1,
         meaning="How often light is followed from surface to surface. As low as the look allows."),
    Line("bounces_matte", "Light", "– off matte", "", 0, 64, None, 1, optional=True,
         meaning="Of the bounces, the most off matte surfaces; none sets no limit of its own."),
    Line("bounces_glossy", "Light", "– off glossy", "", 0, 64, None, 1, optional=True,
         meaning="Of the bounces, the most off glossy surfaces; none sets no limit of its own."),
    Line("bounces_glass", "Light", "– through glass", "", 0, 64, None, 1, optional=True,
         meaning="Of the bounces, the most at glass; too few and glass turns black."),
    Line("bounces_fog", "Light", "– in fog", "", 0, 64, None, 1, optional=True,
         meaning="Of the bounces, the most in fog and smoke; none sets no limit of its own."),
    Line("approximate_after", "Light", "Approximate after", "", 0, 64, None, 1, optional=True,
         meaning="Bounces after which bounced light is approximated by the mean light of the scene: cheap, with darker corners."),
    Line("approximate_distance", "Light", "– open as far as", "", 0.01, 10000, 3, 0.5, whole=False,
         meaning="How far a surface must be open to get the approximated light, in units of the scene."),
    Line("approximate_strength", "Light", "– strength", "%", 0, 1000, 100, 10, whole=False,
         meaning="Share of the mean light of the scene that an open surface gets."),
    Line("lamps", "Light", "Lamps", "", 0, 1, 1, 1, names=((1, "sampled"), (0, "by chance")),
         meaning="Sampled: each surface looks for the lamps. By chance: they are hit or not, like meshes that glow."),
    Line("brightness_ceiling", "Light", "Brightness ceiling", "", 0.01, 1e6, None, 0.1, whole=False, optional=True,
         meaning="The largest value one light path may add. Tames sparks; too low costs highlights."),
    Line("shutter_angle", "Motion blur", "Shutter angle", "°", 0, 360, 0, 1, whole=False,
         meaning="How long the shutter stands open: 180° at 24 fps is 1/48 s."),
    Line("shutter_steps", "Motion blur", "Shutter steps", "", 0, 1024, 1, 1, names=((0, "random"),),
         meaning="In how many moments the open shutter is sampled; 0 gives each sample a random time."),
    Line("fog_step", "Fog", "Fog step", "%", 1, 10000, 50, 50, whole=False,
         meaning="Length of a step through fog and smoke, in percent of a cell: 50 % is two steps a cell, 200 % half a step."),
    Line("fog_cut", "Fog", "Cut of light rays", "%", 0, 99, 0, 1, whole=False,
         meaning="Light rays through fog end where less than this share of the light would come through."),
    Line("cache_step", "Light cache", "Cache step", "frames", 0, 1000, 0, 1, names=((0, "off"),),
         meaning="Bounced light of matte surfaces from a grid, computed on every n-th frame: 1 is every frame, off is none."),
    Line("cache_blend", "Light cache", "Blend nearest", "", 1, 9, 2, 1,
         meaning="How many of the nearest caches a frame blends, so that the light does not jump."),
    Line("render_scale", "Size", "Render scale", "%", 10, 200, 100, 1, whole=False,
         meaning="Size rendered / size delivered, in percent of the width; resized afterwards."),
    Line("seed_held", "Noise pattern", "Seed", "", 0, 1, 0, 1, names=((0, "new"), (1, "held")),
         meaning="New: another pattern each frame, which reads as grain. Held: the same, which reads as a dirty window."),
    Line("despike", "Noise pattern", "Despike", "", 0, 1, 0, 1, names=((0, "off"), (1, "on")),
         meaning="Isolated too-bright pixels are brought down after rendering."),
    Line("crop_left", "Crop", "Crop left", "%", 0, 95, 0, 1, names=((0, "off"),),
         meaning="So much of the picture from the left is not rendered anew in each final frame: there the middle frame of the shot "
         "stands. For a camera that stands, where only a part of the picture moves."),
    Line("crop_top", "Crop", "– top", "%", 0, 95, 0, 1, names=((0, "off"),), meaning="The same from the top."),
    Line("crop_right", "Crop", "– right", "%", 0, 95, 0, 1, names=((0, "off"),), meaning="The same from the right."),
    Line("crop_bottom", "Crop", "– bottom", "%", 0, 95, 0, 1, names=((0, "off"),), meaning="The same from the bottom."),
    Line("tiles", "Start-up", "Tiles a side", "", 1, 16, 1, 1, names=((1, "off"),),
         meaning="Finals are rendered in so many tiles across and down and put together: where a whole frame does not fit into memory. "
         "The scene is read for each."),
    Line("keep_scene", "Start-up", "Keep scene loaded", "", 0, 1, 0, 1, names=((0, "off"), (1, "on")),
         meaning="Off: the scene is read for every frame. On: once per chunk, and only fitted to what moved."),
    Line("preroll", "Start-up", "Pre-roll", "frames", 0, 1000, 0, 8, names=((0, "off"),),
         meaning="Frames simulated before a chunk begins, where the scene needs history: 32, 64, 128 in practice."),
    Line("denoise_window", "Finish", "Denoise window", "", 1, 7, 1, 2, odd=True, names=((1, "off"),),
         meaning="Over how many frames noise is averaged along the motion; what is left is filtered over space. 1 is off."),
    Line("denoise_thorough", "Finish", "– care", "", 0, 1, 0, 1, names=((0, "quick"), (1, "thorough")),
         meaning="Thorough keeps texture better where the renderer writes the albedo, and is calmer, in about thrice the seconds."),
    Line("denoise_strength", "Finish", "– strength", "%", 0, 100, 100, 10, whole=False,
         meaning="Share of the denoised picture in the finished one: as much as calms it, and no more."),
    Line("sharpen", "Finish", "Sharpen", "", 0, 2, 0, 0.05, whole=False,
         meaning="Share of the finest detail that is added after resizing: 0.1 to 0.125 after enlarging is common practice."),
)  # fmt: skip
LINE = {line.field: line for line in LINES}


def checked_recipe(recipe: Recipe) -> Recipe:
    """Return the recipe, if all its lines are within bounds and agree.

    Parameters
    ----------
    recipe : the recipe

    Raises
    ------
    ReelError
        Names the recipe, the line and what was expected.
    """
    where = f"Recipe '{recipe.name}'"
    for line in LINES:
        line.checked(getattr(recipe, line.field), where)
    checked_order(recipe.finish_order, where)
    for one, other in zip(CROP_SIDES[:2], CROP_SIDES[2:], strict=True):
        both = getattr(recipe, one) + getattr(recipe, other)
        if both > MOST_CROP:
            sides = f"{LINE[one].words} and {LINE[other].words}"
            raise ReelError(f"{where}: {sides} come to {both} %; expected at most {MOST_CROP} %, so that something is left.")
    if recipe.samples_ceiling < recipe.samples_floor:
        raise ReelError(
            f"{where}: ceiling {recipe.samples_ceiling} lies below the floor {recipe.samples_floor}; "
            "expected the ceiling at or above the floor."
        )
    return recipe


def departing(recipe: Recipe, departures: Mapping[str, Value]) -> Recipe:
    """Return the recipe with some of its lines replaced.

    Parameters
    ----------
    recipe : the recipe
    departures : lines and their values
    """
    return msgspec.structs.replace(recipe, **departures)


def differences(recipe: Recipe, parent: Recipe) -> list[str]:
    """Return what changed from a parent recipe, in words, as 'bounces 6 → 2'.

    Parameters
    ----------
    recipe : the recipe
    parent : the recipe it is compared with
    """
    out = []
    for line in LINES:
        old, new = getattr(parent, line.field), getattr(recipe, line.field)
        if old != new:
            before, after = line.text(old), line.text(new)
            out.append(f"{line.words} {before} → {after}")
    if recipe.finish_order != parent.finish_order:
        out.append(f"finishing {', '.join(recipe.finish_order)}")
    return out
