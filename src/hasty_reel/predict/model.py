"""One shot with one recipe, before its samples are known: arrays over its frames."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.errors import CannotSolve
from hasty_reel.predict.carry import LONE_ERROR, carry, spread_of
from hasty_reel.predict.evidence import SAMPLE_GRID, Evidence, ProofFrame
from hasty_reel.predict.factors import SETTINGS, Factor, differing, learn
from hasty_reel.predict.proof import DenoiseEffect
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
    """Learns from the evidence of a shot once; gives a `FrameModel` for any recipe quickly."""

    def __init__(self, evidence: Evidence, frames: Sequence[int]) -> None:
        """Take the evidence of a shot.

        Raises
        ------
        CannotSolve
            When no frame of the shot has a proof with two seeds.
        """
        self.frames = np.asarray(frames, np.int64)
        self.rows = _within(evidence.frames, int(self.frames[0]), int(self.frames[-1]))
        if not self.rows:
            raise CannotSolve("No proof with two seeds yet: render one, so that seconds and noise are known.")
        self.effects = {e.window: e for e in _averaged(evidence.effects)}
        self.factors: dict[str, Factor | None] = {f: learn(self.rows, f) for f in SETTINGS}
        self._cache: dict[tuple, FrameModel] = {}

    def proven(self, field: str, value) -> bool:
        """Whether proofs cover this value of a setting that changes a sample."""
        factor = self.factors[field]
        if factor is not None:
            return factor.covers(value)
        return all(getattr(r.recipe, field) == value for r in self.rows)

    def at(self, recipe: Recipe) -> FrameModel:
        """Cost and noise of a recipe over the frames."""
        key = tuple(getattr(recipe, f) for f in (*SETTINGS, "keep_scene"))
        if key not in self._cache:
            if len(self._cache) > 64:
                self._cache.clear()
            self._cache[key] = self._build(recipe)
        return self._cache[key]

    def _build(self, recipe: Recipe) -> FrameModel:
        at: dict[int | float, list[tuple[float, float, float, np.ndarray, np.ndarray]]] = {}
        for row in self._closest_rows(recipe):
            to_cost, to_variance = self._towards(row, recipe)
            tables = [_with_variance(t, np.exp(to_variance)) for t in (row.lightness_noise, row.contrast_noise)]
            entry = (row.samples, row.cost * np.exp(to_cost), row.variance * np.exp(to_variance), *tables)
            at.setdefault(row.frame, []).append(entry)
        frames = np.array(sorted(at), np.float64)
        cost, variance, lightness, contrast = [], [], [], []
        for frame in frames:
            entries = at[float(frame)]
            weights = np.array([e[0] for e in entries], np.float64)  # more samples, surer figures
            weights /= weights.sum()
            cost.append(np.exp(weights @ np.log([e[1] for e in entries])))
            variance.append(weights @ np.array([e[2] for e in entries]))
            lightness.append(weights @ np.array([e[3] for e in entries]))
            contrast.append(weights @ np.array([e[4] for e in entries]))
        unproven = tuple(f for f in SETTINGS if not self.proven(f, getattr(recipe, f)))
        own = spread_of(frames, np.array(cost))
        shared = np.sqrt(LEAST_SPREAD**2 + own**2 / len(frames) + len(unproven) * UNPROVEN_SPREAD**2)
        if len(frames) < 3:
            shared = float(np.hypot(shared, LONE_ERROR))
        wanted = self.frames.astype(np.float64)
        return FrameModel(
            self.frames,
            carry(frames, np.array(cost), wanted),
            carry(frames, np.array(variance), wanted),
            carry(frames, np.array(lightness), wanted),
            carry(frames, np.array(contrast), wanted),
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
        first = {p: min(r.frame for r in kept if r.proof == p) for p in {r.proof for r in kept}}
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

    def _closest_rows(self, recipe: Recipe) -> list[ProofFrame]:
        """Of each frame the rows whose settings differ least from the recipe's."""
        best: dict[int | float, tuple[int, list[ProofFrame]]] = {}
        for row in self.rows:
            off = len(differing(row.recipe, recipe))
            seen = best.get(row.frame)
            if seen is None or off < seen[0]:
                best[row.frame] = (off, [row])
            elif off == seen[0]:
                seen[1].append(row)
        return [row for _, rows in best.values() for row in rows]

    def _towards(self, row: ProofFrame, recipe: Recipe) -> tuple[float, float]:
        """Logarithms of what the recipe's settings change against those of a row: cost, variance."""
        cost = variance = 0.0
        for field in differing(row.recipe, recipe):
            factor = self.factors[field]
            if factor is not None:
                here, there = getattr(row.recipe, field), getattr(recipe, field)
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
    """Noise per frame at its sample count from a table (f, grid) over `SAMPLE_GRID`, on log axes."""
    x = np.clip(np.log2(np.maximum(samples, 1e-9)), 0.0, np.log2(SAMPLE_GRID[-1]))
    k = np.minimum(x.astype(int), len(SAMPLE_GRID) - 2)
    rows = np.arange(len(table))
    low, high = np.log(table[rows, k] + 1e-12), np.log(table[rows, k + 1] + 1e-12)
    return np.exp(low + (x - k) * (high - low))


def _with_variance(table: np.ndarray, factor: float) -> np.ndarray:
    """A table over `SAMPLE_GRID` when the variance changes by a factor: noise at n is that at n/factor."""
    logs = np.log(table + 1e-12)
    return np.exp(np.interp(np.log(SAMPLE_GRID / factor), np.log(SAMPLE_GRID), logs))


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
