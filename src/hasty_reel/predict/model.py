"""One shot with one recipe, before its samples are known: arrays over its frames."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields

import numpy as np

from hasty_reel.errors import CannotSolve
from hasty_reel.evidence.proof import DenoiseEffect
from hasty_reel.evidence.rows import SAMPLE_GRID, Evidence, ProofFrame
from hasty_reel.evidence.settings import SETTINGS, differing
from hasty_reel.predict.factors import Factor, fit_factor
from hasty_reel.predict.interpolation import LONE_ERROR, interpolate_log, spread_of
from hasty_reel.reel.recipe import Recipe

LEAST_SPREAD = 0.03
"""Shared spread that stays with any number of proofs: another day, a warmer machine, another size."""
UNPROVEN_SPREAD = 0.20
"""Added (in squares) for each setting of the recipe that no proof has tried."""


@dataclass(frozen=True)
class FrameModel:
    """What a recipe costs and how noisy it is, per frame of a shot, all (f,) but the tables.

    cost : seconds per rendered pixel and sample
    variance : of linear luminance at one sample per pixel, in a rendered pixel
    lightness_table, contrast_table : (f, grid) noise at `SAMPLE_GRID` samples
    load_seconds : per frame; first_load_seconds : of the first frame of a chunk; cache_seconds : per light cache
    write_seconds_per_pixel : per rendered pixel
    shared_spread, own_spread : standard deviations of the logarithm of the seconds
    unproven : settings of the recipe that no proof has tried
    """

    frames: np.ndarray
    cost: np.ndarray
    variance: np.ndarray
    lightness_table: np.ndarray
    contrast_table: np.ndarray
    load_seconds: float
    first_load_seconds: float
    cache_seconds: float
    write_seconds_per_pixel: float
    shared_spread: float
    own_spread: float
    unproven: tuple[str, ...]


class ShotModel:
    """Learns from the evidence of a shot once; gives a `FrameModel` for any recipe quickly.

    Parameters
    ----------
    evidence : what the proofs say
    frames : numbers of the frames of the shot

    Raises
    ------
    CannotSolve
        When no frame of the shot has a proof with two seeds.
    """

    def __init__(self, evidence: Evidence, frames: Sequence[int]) -> None:
        self.frames = np.asarray(frames, np.int64)
        self.rows = _within(evidence.frames, int(self.frames[0]), int(self.frames[-1]))
        if not self.rows:
            raise CannotSolve("No proof with two seeds yet: render one, so that seconds and noise are known.")
        self.effects = {e.window: e for e in _averaged(evidence.effects)}
        self.factors: dict[str, Factor | None] = {f: fit_factor(self.rows, f) for f in SETTINGS}
        self._recipes, self._figures = _figures(self.rows)
        self._cache: dict[tuple, FrameModel] = {}

    def proven(self, field: str, value) -> bool:
        """Whether proofs cover this value of a setting that changes a sample.

        Parameters
        ----------
        field : of the setting
        value : of the setting
        """
        factor = self.factors[field]
        if factor is not None:
            return factor.covers(value)
        return all(getattr(r, field) == value for r in self._recipes)

    def at(self, recipe: Recipe) -> FrameModel:
        """Cost and noise of a recipe over the frames.

        Parameters
        ----------
        recipe : with its departures
        """
        key = tuple(getattr(recipe, f) for f in (*SETTINGS, "keep_scene"))
        if key not in self._cache:
            if len(self._cache) > 64:
                self._cache.clear()
            self._cache[key] = self._build(recipe)
        return self._cache[key]

    def _build(self, recipe: Recipe) -> FrameModel:
        frames, rows, to_cost, to_variance = self._closest(recipe)
        places, place = np.unique(frames, return_inverse=True)
        weights = rows.samples / np.bincount(place, rows.samples)[place]  # more samples, surer figures
        cost = np.exp(np.bincount(place, weights * (np.log(rows.cost) + to_cost)))
        variance = np.bincount(place, weights * rows.variance * np.exp(to_variance))
        lightness, contrast = (
            _summed(place, weights[:, None] * _with_variance(table, np.exp(to_variance))) for table in (rows.lightness, rows.contrast)
        )
        frames = places
        unproven = tuple(f for f in SETTINGS if not self.proven(f, getattr(recipe, f)))
        own = spread_of(frames, cost)
        shared = np.sqrt(LEAST_SPREAD**2 + own**2 / len(frames) + len(unproven) * UNPROVEN_SPREAD**2)
        if len(frames) < 3:
            shared = float(np.hypot(shared, LONE_ERROR))
        wanted = self.frames.astype(np.float64)
        return FrameModel(
            self.frames,
            interpolate_log(frames, cost, wanted),
            interpolate_log(frames, variance, wanted),
            interpolate_log(frames, lightness, wanted),
            interpolate_log(frames, contrast, wanted),
            *self._load_seconds(bool(recipe.keep_scene)),
            self._cache_seconds() if recipe.cache_step else 0.0,
            float(np.median([r.write_seconds / r.pixels for r in self.rows])),
            float(shared),
            own,
            unproven if self._keep_proven(recipe) else (*unproven, "keep_scene"),
        )

    def _kept_rows(self) -> list[ProofFrame]:
        """Rows whose scene was loaded already: not the first of their proof."""
        kept = [r for r in self.rows if r.recipe.keep_scene]
        first: dict[str, float] = {}
        for row in kept:
            first[row.proof] = min(row.frame, first.get(row.proof, row.frame))
        return [r for r in kept if r.frame != first[r.proof]]

    def _keep_proven(self, recipe: Recipe) -> bool:
        return not recipe.keep_scene or bool(self._kept_rows())

    def _load_seconds(self, keep: bool) -> tuple[float, float]:
        """Of a frame, and of the first of a chunk; a scene that no proof kept loaded is promised nothing."""
        fresh = [r.load_seconds for r in self.rows if not r.recipe.keep_scene] or [max(r.load_seconds for r in self.rows)]
        full = float(np.median(fresh))
        kept = self._kept_rows()
        return (float(np.median([r.load_seconds for r in kept])) if keep and kept else full), full

    def _cache_seconds(self) -> float:
        """Of one light cache; 0 while no proof computed one."""
        found = [r.cache_seconds for r in self.rows if r.cache_seconds > 0]
        return float(np.median(found)) if found else 0.0

    def _closest(self, recipe: Recipe) -> tuple[np.ndarray, _Rows, np.ndarray, np.ndarray]:
        """Of each frame the rows whose settings differ least from the recipe's.

        Returns
        -------
        Their frames, themselves, and by row the logarithms of what the recipe's settings change: cost, variance.
        """
        rows = self._figures
        off = np.array([len(differing(r, recipe)) for r in self._recipes])[rows.recipe]
        frames, place = np.unique(rows.frame, return_inverse=True)
        least = np.full(len(frames), np.iinfo(np.int64).max)
        np.minimum.at(least, place, off)
        taken = np.flatnonzero(off == least[place])
        rows = rows.at(taken)
        used = np.unique(rows.recipe)
        to = np.zeros((len(self._recipes), 2))
        for k in used:
            to[k] = self._towards(self._recipes[k], recipe)
        return rows.frame, rows, to[rows.recipe, 0], to[rows.recipe, 1]

    def _towards(self, proven: Recipe, recipe: Recipe) -> tuple[float, float]:
        """Logarithms of what a recipe's settings change against those of a proof's: cost, variance."""
        cost = variance = 0.0
        for field in differing(proven, recipe):
            factor = self.factors[field]
            if factor is not None:
                here, there = getattr(proven, field), getattr(recipe, field)
                cost += factor.log_cost(there) - factor.log_cost(here)
                variance += factor.log_variance(there) - factor.log_variance(here)
        return cost, variance


def _within(rows: Sequence[ProofFrame], first: int, last: int) -> list[ProofFrame]:
    """Rows with two seeds inside a shot, and the nearest on both sides of it: a shot that was split loses none at its cut."""
    rows = [r for r in rows if np.isfinite(r.variance) and r.cost > 0]
    before = max((r.frame for r in rows if r.frame < first), default=None)
    after = min((r.frame for r in rows if r.frame > last), default=None)
    return [r for r in rows if first <= r.frame <= last or r.frame in (before, after)]


def table_at(table: np.ndarray, samples: np.ndarray) -> np.ndarray:
    """Noise per frame at its sample count from a table (f, grid) over `SAMPLE_GRID`, on log axes.

    Parameters
    ----------
    table : (f, grid) over `SAMPLE_GRID`
    samples : (f,) per pixel
    """
    x = np.clip(np.log2(np.maximum(samples, 1e-9)), 0.0, np.log2(SAMPLE_GRID[-1]))
    k = np.minimum(x.astype(int), len(SAMPLE_GRID) - 2)
    rows = np.arange(len(table))
    low, high = np.log(table[rows, k] + 1e-12), np.log(table[rows, k + 1] + 1e-12)
    return np.exp(low + (x - k) * (high - low))


def _with_variance(tables: np.ndarray, factors: np.ndarray) -> np.ndarray:
    """Tables (n, grid) over `SAMPLE_GRID` when the variance of each changes by a factor: noise at n is that at n/factor."""
    logs, grid = np.log(tables + 1e-12), np.log(SAMPLE_GRID)
    out = np.empty_like(logs)
    changes, which = np.unique(factors, return_inverse=True)
    for k, change in enumerate(changes):
        rows = which == k
        at = np.clip(grid - np.log(change), grid[0], grid[-1])
        low = np.clip(np.searchsorted(grid, at, side="right") - 1, 0, len(grid) - 2)
        share = (at - grid[low]) / (grid[low + 1] - grid[low])
        out[rows] = logs[rows][:, low] * (1 - share) + logs[rows][:, low + 1] * share
    return np.exp(out)


def _summed(place: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Sums of rows (n, c) by place."""
    out = np.zeros((int(place.max()) + 1, values.shape[1]))
    np.add.at(out, place, values)
    return out


@dataclass(frozen=True)
class _Rows:
    """The figures of proof frames as arrays (n,); tables (n, grid); recipe : index among the different ones."""

    frame: np.ndarray
    recipe: np.ndarray
    samples: np.ndarray
    cost: np.ndarray
    variance: np.ndarray
    lightness: np.ndarray
    contrast: np.ndarray

    def at(self, rows: np.ndarray) -> _Rows:
        """Some of the rows."""
        return _Rows(*(getattr(self, f.name)[rows] for f in fields(self)))


def _figures(rows: Sequence[ProofFrame]) -> tuple[list[Recipe], _Rows]:
    """The different settings of some rows, and their figures as arrays."""
    known: dict[tuple, int] = {}
    recipes: list[Recipe] = []
    recipe = []
    for row in rows:
        key = tuple(getattr(row.recipe, f) for f in SETTINGS)
        if key not in known:
            known[key] = len(recipes)
            recipes.append(row.recipe)
        recipe.append(known[key])
    figures = _Rows(
        np.array([r.frame for r in rows], np.float64),
        np.array(recipe),
        np.array([r.samples for r in rows], np.float64),
        np.array([r.cost for r in rows]),
        np.array([r.variance for r in rows]),
        np.array([r.lightness_noise for r in rows]),
        np.array([r.contrast_noise for r in rows]),
    )
    return recipes, figures


def _averaged(effects: Sequence[DenoiseEffect]) -> list[DenoiseEffect]:
    """One effect per window: ratios and seconds averaged over the runs it was measured on."""
    out = []
    for window in sorted({e.window for e in effects}):
        same = [e for e in effects if e.window == window]

        def mean(name: str, same=same) -> float:
            return float(np.mean([getattr(e, name) for e in same]))

        out.append(
            DenoiseEffect(
                window=window,
                noise_ratio=mean("noise_ratio"),
                flicker_ratio=mean("flicker_ratio"),
                seconds_per_pixel=mean("seconds_per_pixel"),
                resize_seconds_per_pixel=mean("resize_seconds_per_pixel"),
            )
        )
    return out
