"""How a setting changes cost and variance, learnt from proofs that vary it and nothing else."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from hasty_reel.predict.evidence import ProofFrame
from hasty_reel.reel.recipe import LINE, Recipe, Value

SETTINGS = (
    "bounces", "bounces_matte", "bounces_glossy", "bounces_glass", "bounces_fog", "approximate_after", "approximate_distance",
    "approximate_strength", "lamps", "brightness_ceiling", "shutter_angle", "shutter_steps", "fog_step", "fog_cut", "cache_step",
    "cache_blend", "despike",
)  # fmt: skip
"""Settings that change a sample: what it costs, and how far it strays."""
NO_CEILING = 1e6


@dataclass(frozen=True)
class Factor:
    """Logarithm of cost and of variance over the values of one setting.

    at : (n,) increasing coordinates; cost, variance : (n,), 0 at the first
    """

    field: str
    at: np.ndarray
    cost: np.ndarray
    variance: np.ndarray

    def covers(self, value: Value) -> bool:
        """Whether the value lies within what was tried."""
        x = coordinate(self.field, value)
        return bool(self.at[0] - 1e-9 <= x <= self.at[-1] + 1e-9)

    def log_cost(self, value: Value) -> float:
        """Logarithm of the cost at a value against the first one tried."""
        return float(np.interp(coordinate(self.field, value), self.at, self.cost))

    def log_variance(self, value: Value) -> float:
        """Logarithm of the variance at a value against the first one tried."""
        return float(np.interp(coordinate(self.field, value), self.at, self.variance))


def coordinate(field: str, value: Value) -> float:
    """Where a value of a setting stands on the axis it is interpolated on."""
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


def learn(frames: Sequence[ProofFrame], field: str) -> Factor | None:
    """The factor of a setting from groups of proof frames alike in all else; None when none varies it."""
    groups: dict[tuple, list[ProofFrame]] = {}
    for row in frames:
        if row.recipe is not None:
            groups.setdefault((row.frame, row.pixels, _others(row.recipe, field)), []).append(row)
    varied = [rows for rows in groups.values() if len({getattr(r.recipe, field) for r in rows}) > 1]
    if not varied:
        return None
    values = sorted({coordinate(field, getattr(r.recipe, field)) for rows in varied for r in rows})
    place = {v: k for k, v in enumerate(values)}
    logs = {}
    for name in ("cost", "variance"):
        columns, sides, levels = [], [], []
        for g, rows in enumerate(varied):
            for row in rows:
                value = getattr(row, name)
                if math.isfinite(value) and value > 0:
                    columns.append(place[coordinate(field, getattr(row.recipe, field))])
                    sides.append(math.log(value))
                    levels.append(g)
        if not columns:
            logs[name] = np.zeros(len(values))
            continue
        design = np.zeros((len(columns), len(values)))
        design[np.arange(len(columns)), columns] = 1.0
        level = np.array(levels)
        found = np.linalg.lstsq(within_levels(design, level), within_levels(np.array(sides), level), rcond=None)[0]
        logs[name] = found - found[0]
    return Factor(field, np.array(values), logs["cost"], logs["variance"])


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
    Of the same shape as `values`.
    """
    count = np.bincount(level)
    if values.ndim == 1:
        return values - (np.bincount(level, values) / np.maximum(count, 1))[level]
    sums = np.zeros((len(count), values.shape[1]))
    np.add.at(sums, level, values)
    return values - (sums / np.maximum(count, 1)[:, None])[level]


@lru_cache(maxsize=65536)
def _others(recipe: Recipe, field: str) -> tuple:
    """What a recipe sets in all settings but one."""
    return tuple(getattr(recipe, f) for f in SETTINGS if f != field)


def differing(a: Recipe, b: Recipe) -> list[str]:
    """The settings that change a sample in which two recipes differ."""
    return [f for f in SETTINGS if f in LINE and getattr(a, f) != getattr(b, f)]
