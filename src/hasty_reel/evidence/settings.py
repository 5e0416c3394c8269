"""The settings that change a sample: the axes they are interpolated on, and levels taken out of a regression over them."""

from __future__ import annotations

import math

import numpy as np

from hasty_reel.bench.settings import NO_CEILING
from hasty_reel.reel.recipe import LINE, Recipe, Value

SETTINGS = (
    "bounces", "bounces_matte", "bounces_glossy", "bounces_glass", "bounces_fog", "approximate_after", "approximate_distance",
    "approximate_strength", "lamps", "brightness_ceiling", "shutter_angle", "shutter_steps", "fog_step", "fog_cut", "cache_step",
    "cache_blend",
)  # fmt: skip
"""Settings that change a sample: what it costs, and how far it strays."""


def coordinate(field: str, value: Value) -> float:
    """Return where a value of a setting stands on the axis it is interpolated on.

    Parameters
    ----------
    field : of the line of a recipe
    value : of the setting
    """
    if field == "brightness_ceiling":
        return math.log(NO_CEILING if value is None else float(value))
    if field == "shutter_steps":  # no steps at all means a random time for each sample: the finest there is
        return math.log(1025.0 if value == 0 else float(value or 1))
    if field == "fog_step":
        return math.log(float(value or 1))
    if field in ("bounces", "bounces_matte", "bounces_glossy", "bounces_glass", "bounces_fog", "approximate_after"):
        return math.log1p(65.0 if value is None else float(value))  # without a limit is more than any
    if field == "cache_step":  # off is the finest there is
        return math.log(0.5 if not value else float(value))
    return float(value or 0)


def differing(a: Recipe, b: Recipe) -> list[str]:
    """Return the settings that change a sample in which two recipes differ.

    Parameters
    ----------
    a, b : two recipes
    """
    return [f for f in SETTINGS if f in LINE and getattr(a, f) != getattr(b, f)]


def within_levels(values: np.ndarray, level: np.ndarray) -> np.ndarray:
    """Take the mean of each level out of the rows that belong to it.

    A regression on what is left gives the coefficients that one with a column for each level would
    give, and costs nothing for the levels (Frisch and Waugh 1933, Econometrica 1, 387).

    Parameters
    ----------
    values : (n,) or (n, c)
    level : (n,) whole numbers from 0 up, the level of each row

    Returns
    -------
    np.ndarray
        Of the same shape as `values`.
    """
    count = np.bincount(level)
    if values.ndim == 1:
        return values - (np.bincount(level, values) / np.maximum(count, 1))[level]
    sums = np.zeros((len(count), values.shape[1]))
    np.add.at(sums, level, values)
    return values - (sums / np.maximum(count, 1)[:, None])[level]
