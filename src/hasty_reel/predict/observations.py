"""Proof frames as observations of cost and variance: alike ones taken together, their errors from repeated pictures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np

from hasty_reel.evidence.rows import ProofFrame
from hasty_reel.evidence.settings import sample_settings
from hasty_reel.predict.process import Observed
from hasty_reel.settings.recipe import Recipe

TIME_ERROR, TIME_WORTH = 0.03, 4.0
"""Standard deviation of the logarithm of a time before any was repeated, and how many repetitions that is worth."""
NOISE_ERROR = 0.06
"""The same of the variance that two seeds of one frame tell."""


@dataclass(frozen=True)
class Figures:
    """The figures of proof frames as arrays (n,); tables (n, grid); recipe : index among the different ones.

    sight : (n, `DEGREES`, `SIGHT_GRID`) what the picture leaves of seen flicker
    seconds : of the samples; version : of how noise was measured
    apart : logarithm of the seconds of one seed over those of the other, nan with one
    """

    frame: np.ndarray
    recipe: np.ndarray
    pixels: np.ndarray
    samples: np.ndarray
    seconds: np.ndarray
    apart: np.ndarray
    variance: np.ndarray
    worst: np.ndarray
    lightness: np.ndarray
    contrast: np.ndarray
    sparks: np.ndarray
    shares: np.ndarray
    spark_share: np.ndarray
    sight: np.ndarray
    version: np.ndarray

    def at(self, rows: np.ndarray) -> Figures:
        """Some of the rows.

        Parameters
        ----------
        rows : their indices, or a mask (n,)
        """
        return Figures(*(getattr(self, f.name)[rows] for f in fields(self)))


def figures_of(rows: Sequence[ProofFrame]) -> tuple[list[Recipe], Figures]:
    """Return the different settings of some rows, and their figures as arrays.

    Parameters
    ----------
    rows : proof frames
    """
    known: dict[tuple, int] = {}
    recipes: list[Recipe] = []
    recipe = []
    for row in rows:
        key = tuple(row.recipe.value(f) for f in sample_settings(row.recipe.own_settings))
        if key not in known:
            known[key] = len(recipes)
            recipes.append(row.recipe)
        recipe.append(known[key])

    def _column(name: str) -> np.ndarray:
        return np.array([getattr(r, name) for r in rows], np.float64)

    return recipes, Figures(
        _column("frame"), np.array(recipe), _column("pixels"), _column("samples"), _column("sample_seconds"), _column("apart"),
        _column("variance"), _column("worst_variance"), _column("lightness_noise"), _column("contrast_noise"), _column("spark_noise"),
        _column("variance_shares"), _column("spark_share"), _column("sight"), _column("version"),
    )  # fmt: skip


def time_error(apart: np.ndarray) -> float:
    """Return the standard deviation of the logarithm of the seconds of two seeds together.

    They share the drift of the machine, so it is too small; what a frame has of its own takes up the rest.

    Parameters
    ----------
    apart : (n,) logarithm of the seconds of one seed over those of the other; nan is left out
    """
    apart = apart[np.isfinite(apart)]
    pooled = (TIME_WORTH * TIME_ERROR**2 + float(np.sum(apart**2)) / 2.0) / (TIME_WORTH + len(apart))
    return float(np.sqrt(pooled / 2.0))


@dataclass(frozen=True)
class Grouped:
    """Observations of the frames, sizes and sample counts that differ.

    observed : where and how well; place : (n,) which of them a row belongs to; weights : (n,) its share in it
    """

    observed: Observed
    place: np.ndarray
    weights: np.ndarray

    def mean(self, values: np.ndarray) -> np.ndarray:
        """Return the weighted means of rows by observation.

        Parameters
        ----------
        values : (n,) or (n, k)
        """
        out = np.zeros((len(self.observed.frames), *values.shape[1:]))
        np.add.at(out, self.place, values * self.weights.reshape(-1, *(1,) * (values.ndim - 1)))
        return out


def grouped(rows: Figures, pixels: float, error: float | np.ndarray, scan: np.ndarray) -> Grouped:
    """Take rows of one frame, size and sample count together.

    Parameters
    ----------
    rows : figures of proof frames
    pixels : that are planned
    error : standard deviation of the logarithm of one row; (n,) where they differ
    scan : (n,) the centred scan at their frames

    Returns
    -------
    Grouped
        In the order of the frames.
    """
    keys = np.stack([rows.frame, rows.pixels, rows.samples])
    found, place = np.unique(keys, axis=1, return_inverse=True)
    place = place.ravel()
    at = np.zeros(int(place.max()) + 1)
    at[place] = scan
    told = 1.0 / np.broadcast_to(np.asarray(error, np.float64), place.shape) ** 2
    together = np.bincount(place, told)
    observed = Observed(found[0], 1.0 / np.sqrt(together), at, np.log(found[1] / pixels), 1.0 / found[2])
    return Grouped(observed, place, told / together[place])
