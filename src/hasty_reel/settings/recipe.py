"""Recipes: the render settings a shot points to. Each setting is declared here, once, and nowhere else.

Ledger, price tags, file reader, schema, hashes, places of renderer links, sweeps and regressions read what they need from
`SETTINGS`; settings of the artist's own (`own.OwnSetting`) come behind them.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Annotated, get_type_hints

import msgspec

from hasty_reel.errors import ReelError
from hasty_reel.settings.finishorder import USUAL, checked_order
from hasty_reel.settings.own import OWN, OwnSetting, OwnValue, is_own
from hasty_reel.settings.setting import Acts, Axis, Setting, Value

MOST_CROP = 95
"""Percent of the picture across or down that a crop may leave out."""
DENOISE_WINDOWS = (3, 5, 7, 9, 11)
"""Frames that denoising may average over."""
CROP_SIDES = ("crop_left", "crop_top", "crop_right", "crop_bottom")
"""The settings of a crop, in the order in which its sides are told."""
MOST_BOUNCES, BRIGHTEST = 64, 1e6
"""What renderers are told where bounces have no limit of their own, and where brightness has no ceiling."""
NO_LIMIT = Axis("log1p", none_as=MOST_BOUNCES + 1.0)
"""Without a limit is more than any."""


# fmt: off
class Recipe(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True, dict=True):
    """A named set of render settings.

    finish_order : steps of finishing in their order: those of `finishorder.USUAL`, and names of the artist's own steps
    own : values of the artist's own settings; one that is left out has its default
    own_settings : declarations of these, where a recipe stands without its reel: in proofs and jobs
    """

    name: str
    samples_floor: Annotated[int, Setting(
        "Samples", "Floor", "", 1, 65536, 1, 1, Acts.BUDGET, proofs=False, always=True,
        meaning="The least samples per pixel a frame may get. It wins over a time cap.",
    )] = 8
    samples_ceiling: Annotated[int, Setting(
        "Samples", "Ceiling", "", 1, 65536, 65536, 1, Acts.BUDGET, proofs=False, always=True,
        meaning="The most samples per pixel a frame may get.",
    )] = 512
    stop_noise: Annotated[float | None, Setting(
        "Samples", "Stop at noise", "", 1e-6, 1000, None, 0.001, Acts.PICTURE, whole=False, optional=True, proofs=False,
        ability="stop",
        meaning="Places of a frame whose noise is below this get no more samples. Rare bright paths escape it: where noise "
        "is sparks, it is uncertain by half.",
    )] = None
    time_cap: Annotated[float | None, Setting(
        "Samples", "Time cap", "s", 0.01, 1e6, None, 10, Acts.BUDGET, whole=False, optional=True, proofs=False, ability="cap",
        meaning="Seconds a frame may take at most; then it stops as it is. The floor wins over it.",
    )] = None
    halves: Annotated[int, Setting(
        "Samples", "In two halves", "", 0, 1, 0, 1, Acts.PICTURE, names=((0, "off"), (1, "on")),
        meaning="Finals are rendered as two pictures of half the samples and averaged: the noise of every frame is measured "
        "then. Costs a second start of each frame.",
    )] = 0
    bounces: Annotated[int, Setting(
        "Light", "Bounces", "", 0, 64, 0, 1, Acts.PICTURE, axis=NO_LIMIT, placeholder="bounces", usual=(0, 1, 2, 3, 4, 6, 8),
        always=True,
        meaning="How often light is followed from surface to surface. As low as the look allows.",
    )] = 6
    bounces_matte: Annotated[int | None, Setting(
        "Light", "– off matte", "", 0, 64, None, 1, Acts.PICTURE, optional=True, full="bounces matte", axis=NO_LIMIT,
        placeholder="bounces_matte", told_none=MOST_BOUNCES,
        meaning="Of the bounces, the most off matte surfaces; none sets no limit of its own.",
    )] = None
    bounces_glossy: Annotated[int | None, Setting(
        "Light", "– off glossy", "", 0, 64, None, 1, Acts.PICTURE, optional=True, full="bounces glossy", axis=NO_LIMIT,
        placeholder="bounces_glossy", told_none=MOST_BOUNCES,
        meaning="Of the bounces, the most off glossy surfaces; none sets no limit of its own.",
    )] = None
    bounces_glass: Annotated[int | None, Setting(
        "Light", "– through glass", "", 0, 64, None, 1, Acts.PICTURE, optional=True, full="bounces glass", axis=NO_LIMIT,
        placeholder="bounces_glass", told_none=MOST_BOUNCES,
        meaning="Of the bounces, the most at glass; too few and glass turns black.",
    )] = None
    bounces_fog: Annotated[int | None, Setting(
        "Light", "– in fog", "", 0, 64, None, 1, Acts.PICTURE, optional=True, full="bounces fog", axis=NO_LIMIT,
        placeholder="bounces_fog", told_none=MOST_BOUNCES,
        meaning="Of the bounces, the most in fog and smoke; none sets no limit of its own.",
    )] = None
    approximate_after: Annotated[int | None, Setting(
        "Light", "Approximate after", "", 0, 64, None, 1, Acts.PICTURE, optional=True, axis=NO_LIMIT,
        placeholder="approximate_after", told_none=MOST_BOUNCES,
        meaning="Bounces after which bounced light is approximated by the mean light of the scene: cheap, with darker "
        "corners.",
    )] = None
    approximate_distance: Annotated[float, Setting(
        "Light", "– open as far as", "", 0.01, 10000, 3, 0.5, Acts.PICTURE, whole=False, full="approximate distance",
        axis=Axis(), placeholder="approximate_distance",
        meaning="How far a surface must be open to get the approximated light, in units of the scene.",
    )] = 3.0
    approximate_strength: Annotated[float, Setting(
        "Light", "– strength", "%", 0, 1000, 100, 10, Acts.PICTURE, whole=False, full="approximate strength", axis=Axis(),
        placeholder="approximate_strength",
        meaning="Share of the mean light of the scene that an open surface gets.",
    )] = 100.0
    lamps: Annotated[int, Setting(
        "Light", "Lamp sampling", "", 0, 1, 1, 1, Acts.PICTURE, names=((1, "on"), (0, "off")), axis=Axis(),
        placeholder="lamps",
        meaning="On: each surface looks for the lamps. Off: paths of light hit them or not, like meshes that glow.",
    )] = 1
    brightness_ceiling: Annotated[float | None, Setting(
        "Light", "Brightness ceiling", "", 0.01, 1e6, None, 0.1, Acts.PICTURE, whole=False, optional=True,
        axis=Axis("log", none_as=BRIGHTEST), placeholder="ceiling", told_none=BRIGHTEST, usual=(1.0, 2.0, 5.0, 10.0, 30.0, None),
        always=True,
        meaning="The largest value one light path may add. Tames sparks; too low costs highlights.",
    )] = 10.0
    shutter_angle: Annotated[float, Setting(
        "Motion blur", "Shutter angle", "°", 0, 360, 0, 1, Acts.PICTURE, whole=False, axis=Axis(), placeholder="angle",
        meaning="How long the shutter stands open: 180° at 24 fps is 1/48 s.",
    )] = 180.0
    shutter_steps: Annotated[int, Setting(
        "Motion blur", "Shutter steps", "", 0, 1024, 1, 1, Acts.PICTURE, names=((0, "random"),),
        axis=Axis("log", zero_as=1025.0), placeholder="steps", usual=(1, 2, 4, 8, 16),
        meaning="In how many moments the open shutter is sampled; 0 gives each sample a random time.",
    )] = 8
    fog_step: Annotated[float, Setting(
        "Fog", "Fog step", "%", 1, 10000, 50, 50, Acts.PICTURE, whole=False, axis=Axis("log"), placeholder="fog_step",
        usual=(50.0, 100.0, 200.0, 400.0, 1000.0), coarser=True,
        meaning="Length of a step through fog and smoke, in percent of a cell: 50 % is two steps a cell, 200 % half a step.",
    )] = 100.0
    fog_cut: Annotated[float, Setting(
        "Fog", "Ray cut-off", "%", 0, 99, 0, 1, Acts.PICTURE, whole=False, axis=Axis(), placeholder="fog_cut",
        coarser=True,
        meaning="Light rays through fog end where less than this share of the light would come through.",
    )] = 0.0
    cache_step: Annotated[int, Setting(
        "Light cache", "Cache step", "frames", 0, 1000, 0, 1, Acts.PICTURE, names=((0, "off"),),
        axis=Axis("log", zero_as=0.5), placeholder="cache_step", ability="caches", usual=(0, 1, 5, 10, 20), coarser=True,
        meaning="Bounced light of matte surfaces from a grid, computed on every n-th frame: 1 is every frame, off is none.",
    )] = 0
    cache_blend: Annotated[int, Setting(
        "Light cache", "Blend nearest", "", 1, 9, 2, 1, Acts.PICTURE, axis=Axis(), placeholder="cache_blend", ability="caches",
        meaning="How many of the nearest caches a frame blends, so that the light does not jump.",
    )] = 2
    render_scale: Annotated[float, Setting(
        "Size", "Render scale", "%", 10, 200, 100, 1, Acts.PICTURE, whole=False, proofs=False, placeholder="scale",
        always=True,
        meaning="Size rendered / size delivered, in percent of the width; resized afterwards.",
    )] = 100.0
    seed_held: Annotated[int, Setting(
        "Noise pattern", "Seed", "", 0, 1, 0, 1, Acts.PICTURE, names=((0, "new"), (1, "fixed")), placeholder="seed_held",
        meaning="New: another pattern each frame, which reads as grain. Fixed: the same, which reads as a dirty window.",
    )] = 0
    despike: Annotated[int, Setting(
        "Noise pattern", "Despike", "", 0, 1, 0, 1, Acts.FINISHING, names=((0, "off"), (1, "on")),
        meaning="Isolated too-bright pixels are brought down after rendering.",
    )] = 0
    crop_left: Annotated[int, Setting(
        "Crop", "Crop left", "%", 0, 95, 0, 1, Acts.PICTURE, names=((0, "off"),), ability="crop",
        meaning="So much of the picture from the left is not rendered anew in each final frame: there the middle frame of "
        "the shot stands. For a camera that stands, where only a part of the picture moves.",
    )] = 0
    crop_top: Annotated[int, Setting(
        "Crop", "– top", "%", 0, 95, 0, 1, Acts.PICTURE, full="crop top", names=((0, "off"),), ability="crop",
        meaning="The same from the top.",
    )] = 0
    crop_right: Annotated[int, Setting(
        "Crop", "– right", "%", 0, 95, 0, 1, Acts.PICTURE, full="crop right", names=((0, "off"),), ability="crop",
        meaning="The same from the right.",
    )] = 0
    crop_bottom: Annotated[int, Setting(
        "Crop", "– bottom", "%", 0, 95, 0, 1, Acts.PICTURE, full="crop bottom", names=((0, "off"),), ability="crop",
        meaning="The same from the bottom.",
    )] = 0
    tiles: Annotated[int, Setting(
        "Start-up", "Tiles a side", "", 1, 16, 1, 1, Acts.SCHEDULE, names=((1, "off"),), ability="crop",
        meaning="Finals are rendered in so many tiles across and down and put together: where a whole frame does not fit "
        "into memory. The scene is read for each.",
    )] = 1
    keep_scene: Annotated[int, Setting(
        "Start-up", "Keep scene loaded", "", 0, 1, 0, 1, Acts.SCHEDULE, names=((0, "off"), (1, "on")),
        placeholder="keep_scene", ability="keep",
        meaning="Off: the scene is read for every frame. On: once per chunk, and only fitted to what moved.",
    )] = 0
    preroll: Annotated[int, Setting(
        "Start-up", "Pre-roll", "frames", 0, 1000, 0, 8, Acts.PICTURE, names=((0, "off"),), placeholder="preroll",
        ability="history",
        meaning="Frames simulated before a chunk begins, where the scene needs history: 32, 64, 128 in practice.",
    )] = 0
    denoise_window: Annotated[int, Setting(
        "Finish", "Denoise window", "", 1, 11, 1, 2, Acts.FINISHING, odd=True, names=((1, "off"),), proofs=False, always=True,
        meaning="Over how many frames noise is averaged along the motion; what is left is filtered over space. 1 is off.",
    )] = 5
    denoise_thorough: Annotated[int, Setting(
        "Finish", "– quality", "", 0, 1, 0, 1, Acts.FINISHING, full="denoise quality", names=((0, "quick"), (1, "thorough")),
        proofs=False,
        meaning="Thorough keeps texture better where the renderer writes the albedo, and is calmer, in up to twice the "
        "seconds.",
    )] = 1
    denoise_strength: Annotated[float, Setting(
        "Finish", "– strength", "%", 0, 100, 100, 10, Acts.FINISHING, whole=False, full="denoise strength", proofs=False,
        always=True,
        meaning="Share of the denoised picture in the finished one: as much as calms it, and no more.",
    )] = 100.0
    sharpen: Annotated[float, Setting(
        "Finish", "Sharpen", "", 0, 2, 0, 0.05, Acts.FINISHING, whole=False, proofs=False,
        meaning="Share of the finest detail that is added after resizing: 0.1 to 0.125 after enlarging is common practice.",
    )] = 0.0

    finish_order: tuple[str, ...] = USUAL
    own: tuple[OwnValue, ...] = ()
    own_settings: tuple[OwnSetting, ...] = ()
    # fmt: on

    def value(self, field: str) -> Value:
        """Return the value of a setting; None too where it is an own one that is not declared here.

        Parameters
        ----------
        field : name of the setting
        """
        if not is_own(field):
            found: Value = getattr(self, field)
            return found
        return self._own_values.get(field)

    @property
    def _own_values(self) -> dict[str, Value]:
        known = self.__dict__.get("_known")
        if known is None:
            known = {s.field: s.setting.neutral for s in self.own_settings} | {OWN + v.name: v.value for v in self.own}
            self.__dict__["_known"] = known
        return known

    @property
    def settings(self) -> tuple[Setting, ...]:
        """Declarations of all its settings in the order of the work: those that ship, then the artist's own."""
        return (*SETTINGS, *(s.setting for s in self.own_settings)) if self.own_settings else SETTINGS

    def setting(self, field: str) -> Setting:
        """Return the declaration of a setting.

        Parameters
        ----------
        field : name of the setting

        Raises
        ------
        KeyError
            When there is none of that name.
        """
        return SETTING[field] if field in SETTING else next(s.setting for s in self.own_settings if s.field == field)

    def acting(self, *kinds: Acts) -> tuple[Value, ...]:
        """Return the values of all settings that act on something, in their order.

        Parameters
        ----------
        *kinds : what they act on
        """
        return tuple(self.value(s.field) for s in self.settings if s.acts in kinds)

    def declared(self, settings: Iterable[OwnSetting]) -> Recipe:
        """Return this recipe with the declarations of own settings, and a value of each of them.

        Parameters
        ----------
        settings : of the reel, or of the proofs beside which it stands
        """
        settings = tuple(settings)
        if not settings and not self.own and not self.own_settings:
            return self
        values = {v.name: v.value for v in self.own}
        own = tuple(OwnValue(s.name, values.get(s.name, s.default)) for s in settings)
        return msgspec.structs.replace(self, own=own, own_settings=settings)

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


def _declared_in(kind: type[Recipe]) -> tuple[Setting, ...]:
    """The settings that a recipe declares beside its fields, in their order."""
    hints = get_type_hints(kind, include_extras=True)
    told = ((f, next((m for m in getattr(hints[f], "__metadata__", ()) if isinstance(m, Setting)), None)) for f in kind.__struct_fields__)
    return tuple(replace(setting, field=f) for f, setting in told if setting is not None)


SETTINGS: tuple[Setting, ...] = _declared_in(Recipe)
"""All settings that ship, in the order of the work."""
SETTING = {setting.field: setting for setting in SETTINGS}


def checked_recipe(recipe: Recipe) -> Recipe:
    """Return the recipe, if all its settings are within bounds and agree.

    Parameters
    ----------
    recipe : the recipe

    Raises
    ------
    ReelError
        Names the recipe, the setting and what was expected.
    """
    where = f"Recipe '{recipe.name}'"
    for setting in recipe.settings:
        setting.checked(recipe.value(setting.field), where)
    checked_order(recipe.finish_order, where)
    for one, other in zip(CROP_SIDES[:2], CROP_SIDES[2:], strict=True):
        both = getattr(recipe, one) + getattr(recipe, other)
        if both > MOST_CROP:
            sides = f"{SETTING[one].words} and {SETTING[other].words}"
            raise ReelError(f"{where}: {sides} come to {both} %; expected at most {MOST_CROP} %, so that something is left.")
    if recipe.samples_ceiling < recipe.samples_floor:
        raise ReelError(
            f"{where}: ceiling {recipe.samples_ceiling} lies below the floor {recipe.samples_floor}; "
            "expected the ceiling at or above the floor."
        )
    return recipe


def departing(recipe: Recipe, departures: Mapping[str, Value]) -> Recipe:
    """Return the recipe with some of its settings replaced.

    Parameters
    ----------
    recipe : the recipe
    departures : names of settings and their values, own ones too
    """
    ours = {field: value for field, value in departures.items() if not is_own(field)}
    if len(ours) == len(departures):
        return msgspec.structs.replace(recipe, **ours)
    own = {v.name: v.value for v in recipe.own}
    for field, value in departures.items():
        if is_own(field) and value is not None:
            own[field.removeprefix(OWN)] = float(value)
    return msgspec.structs.replace(recipe, **ours, own=tuple(OwnValue(*pair) for pair in own.items()))


def differences(recipe: Recipe, parent: Recipe) -> list[str]:
    """Return what changed from a parent recipe, in words, as 'bounces 6 → 2'.

    Parameters
    ----------
    recipe : the recipe
    parent : the recipe it is compared with

    Examples
    --------
    >>> usual = Recipe(name="Final")
    >>> differences(departing(usual, {"bounces": 2, "denoise_thorough": 0}), usual)
    ['bounces 6 → 2', 'denoise quality thorough → quick']
    """
    out = []
    for setting in {s.field: s for s in (*parent.settings, *recipe.settings)}.values():
        old, new = parent.value(setting.field), recipe.value(setting.field)
        if is_own(setting.field):  # one that is not declared yet has its default
            old, new = (setting.neutral if v is None else v for v in (old, new))
        if old != new:
            out.append(f"{setting.words} {setting.text(old)} → {setting.text(new)}")
    if recipe.finish_order != parent.finish_order:
        out.append(f"finishing {', '.join(recipe.finish_order)}")
    return out
