"""What helps against each cause of unrest, in the order of the trade (common practice, no source)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from hasty_reel.settings.recipe import SETTING, Recipe, Value

Kind = Literal["line", "noise", "advice"]


@dataclass(frozen=True)
class Remedy:
    """One thing that helps.

    words : its name; kind : whether it moves a line of the recipe, holds less noise, or is done outside the recipe
    field : the line that is moved, and pick : its new value, from the recipe as it is
    advice : where it is done, of what no recipe holds
    """

    words: str
    kind: Kind = "noise"
    field: str = ""
    pick: Callable[[Recipe], Value] = lambda recipe: None
    advice: str = ""


def _line(words: str, field: str, pick: Callable[[Recipe], Value]) -> Remedy:
    return Remedy(words, "line", SETTING[field].field, pick)


def _raised(field: str) -> Callable[[Recipe], Value]:
    """One step of the line up, as far as the line goes."""
    line = SETTING[field]
    return lambda recipe: line.nearest(getattr(recipe, field) + line.step)


def _doubled(field: str, least: int) -> Callable[[Recipe], Value]:
    """Twice as much, at least some, as far as the line goes."""
    line = SETTING[field]
    return lambda recipe: line.nearest(max(least, 2 * getattr(recipe, field)))


def _more_steps(recipe: Recipe) -> Value:
    """Twice the shutter steps; random times stay random."""
    return _doubled("shutter_steps", 1)(recipe) if recipe.shutter_steps else 0


def _half_ceiling(recipe: Recipe) -> Value:
    """Half the ceiling, or 5 where there is none."""
    ceiling = recipe.brightness_ceiling
    return SETTING["brightness_ceiling"].nearest(5.0 if ceiling is None else ceiling / 2.0)


SAMPLES = Remedy("samples")
SAMPLES_THERE = Remedy("samples there")
EVEN_NOISE = Remedy("even noise")
RATIO_LIMIT = Remedy("ratio limit")
DENOISE = _line("denoise over time", "denoise_window", _raised("denoise_window"))
LIGHT_CACHE = _line("shared light cache", "cache_step", lambda recipe: recipe.cache_step or 5)
BRIGHTNESS_CEILING = _line("brightness ceiling", "brightness_ceiling", _half_ceiling)
DESPIKE = _line("despike", "despike", lambda recipe: 1)
LIGHT_PATHS = _line("light paths", "lamps", lambda recipe: 1)
NEW_SEED = _line("new seed each frame", "seed_held", lambda recipe: 0)
HELD_SEED = _line("held seed", "seed_held", lambda recipe: 1)
LARGER_SCALE = _line("render scale above 100 %", "render_scale", lambda recipe: max(125.0, recipe.render_scale))
SOFTER_FILTER = Remedy("softer pixel filter", "advice", advice="set it in the renderer: the recipe has no line for it")
SHUTTER_STEPS = _line("shutter steps", "shutter_steps", _more_steps)
RANDOM_TIMES = _line("random shutter times", "shutter_steps", lambda recipe: 0)
PREROLL = _line("pre-roll", "preroll", _doubled("preroll", 8))

REMEDIES: dict[str, tuple[Remedy, ...]] = {
    "grain": (SAMPLES, DENOISE),
    "blotches": (DENOISE, LIGHT_CACHE),
    "sparks": (BRIGHTNESS_CEILING, DESPIKE, LIGHT_PATHS),
    "pinned_pattern": (NEW_SEED,),
    "shimmer": (LARGER_SCALE, SOFTER_FILTER),
    "strobing": (SHUTTER_STEPS, RANDOM_TIMES),
    "pumping": (RATIO_LIMIT, LIGHT_CACHE, EVEN_NOISE),
    "settling": (PREROLL,),
    "lens_noise": (SAMPLES_THERE, HELD_SEED, DENOISE),
}
"""By the name of the cause; each cause has some."""


def remedy_words(cause: str) -> str:
    """Return what helps against a cause, in words.

    Parameters
    ----------
    cause : its name

    Returns
    -------
    str
        Names of the remedies, in the order of the trade.
    """
    return ", ".join(r.words for r in REMEDIES[cause])
