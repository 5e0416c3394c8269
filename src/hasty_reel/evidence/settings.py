"""The settings that change a sample: the axes they are interpolated on, and levels taken out of a regression over them."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from hasty_reel.settings.own import OwnSetting, is_own
from hasty_reel.settings.recipe import SETTING, SETTINGS, Recipe
from hasty_reel.settings.setting import Value

SAMPLE_SETTINGS = tuple(setting.field for setting in SETTINGS if setting.axis is not None)
"""Settings of ours that change a sample: what it costs, and how far it strays."""


def sample_settings(own: Iterable[OwnSetting]) -> tuple[str, ...]:
    """Return the settings that change a sample, or may: ours, and the artist's own.

    Parameters
    ----------
    own : declarations of the artist's own
    """
    return (*SAMPLE_SETTINGS, *(s.field for s in own))


def coordinate(field: str, value: Value) -> float:
    """Return where a value of a setting stands on the axis it is interpolated on.

    Parameters
    ----------
    field : name of the setting
    value : of the setting
    """
    axis = None if is_own(field) else SETTING[field].axis
    return float(value or 0) if axis is None else axis.at(value)


def differing(a: Recipe, b: Recipe) -> list[str]:
    """Return the settings that change a sample in which two recipes differ; own ones where both declare them.

    Parameters
    ----------
    a, b : two recipes
    """
    ours = [f for f in SAMPLE_SETTINGS if getattr(a, f) != getattr(b, f)]
    if not a.own_settings or not b.own_settings:
        return ours
    both = {s.field for s in a.own_settings} & {s.field for s in b.own_settings}
    return ours + [f for f in sorted(both) if a.value(f) != b.value(f)]


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
