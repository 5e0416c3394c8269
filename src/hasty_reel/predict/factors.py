"""How a setting changes cost and variance, learnt from proofs that vary it and nothing else."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from hasty_reel.evidence.rows import ProofFrame
from hasty_reel.evidence.settings import coordinate, sample_settings, within_levels
from hasty_reel.settings.recipe import Recipe, Value


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
        """Whether the value lies within what was tried.

        Parameters
        ----------
        value : of the setting
        """
        x = coordinate(self.field, value)
        return bool(self.at[0] - 1e-9 <= x <= self.at[-1] + 1e-9)

    def log_cost(self, value: Value) -> float:
        """Logarithm of the cost at a value against the first one tried.

        Parameters
        ----------
        value : of the setting
        """
        return float(np.interp(coordinate(self.field, value), self.at, self.cost))

    def log_variance(self, value: Value) -> float:
        """Logarithm of the variance at a value against the first one tried.

        Parameters
        ----------
        value : of the setting
        """
        return float(np.interp(coordinate(self.field, value), self.at, self.variance))


def fit_factor(frames: Sequence[ProofFrame], field: str) -> Factor | None:
    """Return the factor of a setting from groups of proof frames alike in all else; None when none varies it.

    Parameters
    ----------
    frames : proof frames
    field : of the setting
    """
    groups: dict[tuple, list[ProofFrame]] = {}
    for row in frames:
        if row.recipe is not None:
            groups.setdefault((row.frame, row.pixels, _others(row.recipe, field)), []).append(row)
    varied = [rows for rows in groups.values() if len({r.recipe.value(field) for r in rows}) > 1]
    if not varied:
        return None
    values = sorted({coordinate(field, r.recipe.value(field)) for rows in varied for r in rows})
    place = {v: k for k, v in enumerate(values)}
    logs = {}
    for name in ("cost", "variance"):
        columns, sides, levels = [], [], []
        for g, rows in enumerate(varied):
            for row in rows:
                value = getattr(row, name)
                if math.isfinite(value) and value > 0:
                    columns.append(place[coordinate(field, row.recipe.value(field))])
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


@lru_cache(maxsize=65536)
def _others(recipe: Recipe, field: str) -> tuple:
    """What a recipe sets in all settings but one."""
    return tuple(recipe.value(f) for f in sample_settings(recipe.own_settings) if f != field)
