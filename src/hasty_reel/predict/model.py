"""One shot with one recipe, before its samples are known: arrays over its frames."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hasty_reel.errors import CannotSolve
from hasty_reel.evidence.rows import Evidence, ProofFrame
from hasty_reel.evidence.seentable import seen_table
from hasty_reel.evidence.settings import differing, sample_settings
from hasty_reel.predict.effects import Effects
from hasty_reel.predict.factors import Factor, fit_factor
from hasty_reel.predict.growth import FixedPart, fixed_part
from hasty_reel.predict.observations import NOISE_ERROR, Figures, Grouped, figures_of, grouped, time_error
from hasty_reel.predict.process import COST, VARIANCE, Carried, Cells, likely_cells
from hasty_reel.predict.scan import Scan, scan_of
from hasty_reel.predict.tables import falling, with_variance
from hasty_reel.settings.recipe import Recipe

LEAST_TOLD = 0.2
"""Share of the seconds that are expected to grow which are taken at least, where a time erred below that."""
MOST_ERROR, LINEAR = 0.15, 2.0
"""Error of a logarithm from which on it is taken to first order, and how far that goes."""
UNPROVEN_SPREAD = 0.20
"""Added (in squares) for each setting of the recipe that no proof has tried."""
CLEAR_SAMPLES = (16, 4)
"""Samples from which on the two pictures of a proof tell best what noise does on the display, and from which on they tell it at all.

Where most of the noise is sparks, pictures of 4 samples tell 8 to 19 % too much of 64, of 16 samples 1 to 8 %; of fewer than 4 only the
variance counts.
"""
LEAST_SIGHT = 1e-3
"""Share of seen flicker that a picture leaves at least: where a proof has no noise there is none to be told."""
ASKED_GAP = 10
"""Frames between two proofs from which on it is said that nothing has looked between them."""


@dataclass(frozen=True)
class FrameModel:
    """What a recipe costs and how noisy it is, per frame of a shot, all (f,) but the tables.

    cost : expected seconds per rendered pixel and sample
    variance : as likely less as more, of linear luminance at one sample per pixel, in a rendered pixel
    variance_spread : standard deviation of its logarithm
    worst_variance : the same of the 95th percentile of its blocks
    lightness_table, contrast_table, spark_table : (f, grid) noise at `SAMPLE_GRID` samples; contrast as on an even grey
    sight : (f, `DEGREES`, `SIGHT_GRID`) what the picture leaves of that in sight
    load_seconds : per frame; first_load_seconds : of the first frame of a chunk; cache_seconds : per light cache
    history_seconds : of going through a frame before a chunk; None where no proof told it
    write_seconds_per_pixel : per rendered pixel
    fixed : seconds without a single sample, where the renderer does not tell its parts
    unproven_spread : standard deviation of the logarithm of the seconds that settings without a proof add
    unproven : settings of the recipe that no proof has tried
    unseen : most frames in a row that no proof and no scan has looked at, where they are many
    blind_scan : there is a scan, and nearly all of its seconds are fixed, so that it tells nothing of them
    shares : (f, bins) variance of shares of the pixels / their mean (see `variance_shares`)
    spark_share : of the variance, 0 to 1
    draw : makes `cost_draws`
    """

    frames: np.ndarray
    cost: np.ndarray
    variance: np.ndarray
    variance_spread: np.ndarray
    worst_variance: np.ndarray
    lightness_table: np.ndarray
    contrast_table: np.ndarray
    spark_table: np.ndarray
    sight: np.ndarray
    load_seconds: float
    first_load_seconds: float
    cache_seconds: float
    history_seconds: float | None
    write_seconds_per_pixel: float
    fixed: FixedPart
    unproven_spread: float
    unproven: tuple[str, ...]
    unseen: int
    shares: np.ndarray
    spark_share: np.ndarray
    blind_scan: bool
    draw: Callable[[], np.ndarray]

    @cached_property
    def cost_draws(self) -> np.ndarray:
        """Cost as it may be, (draws, f) float32; of draw k the fixed part is `fixed_draws[k]`."""
        return self.draw()

    def seen_table(self, degrees: float) -> np.ndarray:
        """Return the contrast of grain on an even grey that is seen as much as the noise of each frame, (f, grid) at `SAMPLE_GRID`.

        Parameters
        ----------
        degrees : height of the picture as it is seen: what it hides depends on that
        """
        if degrees not in self._seen:
            self._seen[degrees] = falling(seen_table(self.contrast_table, self.sight, degrees))
        return self._seen[degrees]

    @cached_property
    def _seen(self) -> dict[float, np.ndarray]:
        return {}

    @property
    def fixed_draws(self) -> np.ndarray:
        """Seconds without a sample as they may be, (draws,)."""
        return np.resize(self.fixed.values, len(self.cost_draws))


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
        self.evidence = evidence
        self.frames = np.asarray(frames, np.int64)
        self.rows = _within([r for r in evidence.frames if not r.scan], int(self.frames[0]), int(self.frames[-1]))
        if not any(np.isfinite(r.variance) for r in self.rows):
            raise CannotSolve("No proof with two seeds yet: render one, so that seconds and noise are known.")
        self._largest = float(max(r.pixels for r in self.rows))
        self._recipes, self._figures = figures_of(self.rows)
        self._error = time_error(self._figures.apart)
        self._fixed_parts: dict[bytes, FixedPart] = {}
        self._scans = [r for r in evidence.frames if r.scan and r.cost > 0]
        self.scan: Scan | None = scan_of(self._scans, self._fixed_of(np.zeros(len(self.rows) + len(self._scans))).mean)
        self.blind_scan = self.scan is None and scan_of(self._scans) is not None
        self._own = self.rows[0].recipe.own_settings
        self.settings = sample_settings(self._own)
        self.effects = Effects(tuple(evidence.effects))
        self.factors: dict[str, Factor | None] = {f: fit_factor(self.rows, f) for f in self.settings}
        self._noisy = np.isfinite(self._figures.variance)
        self._cells: dict[str, Cells] = {}
        self._carried: dict[tuple, Carried] = {}
        self._cache: dict[tuple, FrameModel] = {}

    def proven(self, field: str, value) -> bool:
        """Whether proofs cover this value of a setting that changes a sample.

        Parameters
        ----------
        field : of the setting
        value : of the setting
        """
        if field not in self.factors:  # no proof knows it: they were rendered with what it leaves out
            return False
        factor = self.factors[field]
        if factor is not None:
            return factor.covers(value)
        return all(r.value(field) == value for r in self._recipes)

    def at(self, recipe: Recipe, pixels: float | None = None) -> FrameModel:
        """Cost and noise of a recipe over the frames.

        Parameters
        ----------
        recipe : with its departures
        pixels : of a frame as it is planned; None: as many as the largest proof has
        """
        pixels = self._largest if pixels is None else float(pixels)
        recipe = self._with_own_of_proofs(recipe)
        own = tuple(s.name for s in recipe.own_settings)
        key = (pixels, own, *(recipe.value(f) for f in (*sample_settings(recipe.own_settings), "keep_scene")))
        if key not in self._cache:
            if len(self._cache) > 64:
                self._cache.clear()
            self._cache[key] = self._build(recipe, pixels)
        return self._cache[key]

    def _with_own_of_proofs(self, recipe: Recipe) -> Recipe:
        """The recipe that declares the own settings of the proofs, too: those that it has not are left out in it."""
        here = {s.name for s in recipe.own_settings}
        lacking = [s for s in self._own if s.name not in here]
        return recipe.declared((*recipe.own_settings, *lacking)) if lacking else recipe

    def _build(self, recipe: Recipe, pixels: float) -> FrameModel:
        # seconds: of each frame the rows nearest to the recipe, brought to its settings, less the part that does not grow
        rows, to_cost, _ = self._closest(recipe, self._figures)
        fixed = self._fixed(recipe)
        work = np.log(rows.pixels * rows.samples)
        growing, error = _growing(rows, fixed, to_cost, self._error)
        group = self._group(rows, error, pixels)
        # carried to all frames; the mean of exp(x) is exp(mean + variance / 2), over what the fixed part may be
        curve = self._carry("cost", group)
        over = 0.0 if self.scan is None else self.scan.at(self.frames)
        logs = [group.mean(_log_growing(rows.seconds - v, growing, error) - work + to_cost) - group.observed.scan for v in fixed.values]
        cost = np.mean([np.exp(curve.mean(y) + over + 0.5 * curve.variance(y)) for y in logs], axis=0)

        # noise: the same of the rows with two seeds, without the scan, which has one
        rows, _, to_variance = self._closest(recipe, self._figures.at(self._noisy))
        noisy = self._group(rows, NOISE_ERROR, pixels, scanned=False)
        even = self._carry("variance", noisy, scanned=False)
        log_variance = noisy.mean(np.log(rows.variance) + to_variance)
        spread = np.sqrt(even.variance(log_variance))
        lightness, contrast, sparks, sight = self._tables(rows, np.interp(rows.frame, self.frames, even.mean(log_variance)), pixels)
        worst = even.mean(noisy.mean(np.log(rows.worst + 1e-20) + to_variance))
        # what no proof has tried widens the band of the seconds and is named
        unproven = tuple(f for f in sample_settings(recipe.own_settings) if not self.proven(f, recipe.value(f)))
        return FrameModel(
            self.frames,
            cost,
            np.exp(even.mean(log_variance)),
            spread,
            np.exp(worst),
            lightness,
            contrast,
            sparks,
            sight,
            *self._load_seconds(bool(recipe.keep_scene)),
            self._cache_seconds() if recipe.cache_step else 0.0,
            self._history_seconds(),
            float(np.median([r.write_seconds / r.pixels for r in self.rows])),
            fixed,
            float(np.sqrt(len(unproven)) * UNPROVEN_SPREAD),
            unproven if self._keep_proven(recipe) else (*unproven, "keep_scene"),
            self._unseen(group),
            *self._shares(rows),
            self.blind_scan,
            lambda: _cost_draws(curve, logs, over),
        )

    def _group(self, rows: Figures, error: float | np.ndarray, pixels: float, scanned: bool = True) -> Grouped:
        scan = np.zeros(len(rows.frame)) if self.scan is None or not scanned else self.scan.at(rows.frame)
        return grouped(rows, pixels, error, scan)

    def _carry(self, what: str, group: Grouped, scanned: bool = True) -> Carried:
        """From the observed frames to all, kept for settings that were observed at the same ones."""
        key = (what, *group.observed.key)
        if key not in self._carried:
            if len(self._carried) > 64:
                self._carried.clear()
            scan = None if self.scan is None or not scanned else self.scan.at(self.frames)
            self._carried[key] = Carried(group.observed, self._likely(what), self.frames, scan, humps=what == "cost")
        return self._carried[key]

    def _likely(self, what: str) -> Cells:
        """Likely curves, from all rows as if they had the settings that most of them have."""
        if what not in self._cells:
            common = self._recipes[int(np.bincount(self._figures.recipe).argmax())]
            rows = self._figures if what == "cost" else self._figures.at(self._noisy)
            to = np.array([self._towards(r, common) for r in self._recipes])[rows.recipe]
            if what == "cost":
                group = self._group(rows, self._error, self._largest)
                value = np.log(rows.seconds) - np.log(rows.pixels * rows.samples) + to[:, 0]
                logs = group.mean(value) - group.observed.scan
                self._cells[what] = likely_cells(group.observed, logs, COST)
            else:
                group = self._group(rows, NOISE_ERROR, self._largest, scanned=False)
                self._cells[what] = likely_cells(group.observed, group.mean(np.log(rows.variance) + to[:, 1]), VARIANCE)
        return self._cells[what]

    def _fixed(self, recipe: Recipe) -> FixedPart:
        return self._fixed_of(-np.array([self._towards(r.recipe, recipe)[0] for r in (*self.rows, *self._scans)]))

    def _fixed_of(self, log_cost: np.ndarray) -> FixedPart:
        # what settings change for all alike changes nothing of it
        key = np.round(log_cost - log_cost.mean(), 6).tobytes()
        if key not in self._fixed_parts:
            self._fixed_parts[key] = fixed_part((*self.rows, *self._scans), log_cost, np.sqrt(2.0) * self._error)
        return self._fixed_parts[key]

    def _tables(self, rows: Figures, log_variance: np.ndarray, pixels: float) -> list[np.ndarray]:
        """Noise on the display over sample counts, (f, grid) each, and what is in sight of it.

        Of the proofs that tell it best, at the variance that is planned.
        """
        clear = _clear(rows)
        rows, log_variance = rows.at(clear), log_variance[clear]
        group = self._group(rows, NOISE_ERROR, pixels, scanned=False)
        curve = self._carry("variance", group, scanned=False)
        change = np.exp(log_variance - np.log(rows.variance))
        tables = (rows.lightness, falling(rows.contrast), rows.sparks)
        out = [np.exp(curve.mean(group.mean(np.log(with_variance(t, change) + 1e-12)))) for t in tables]
        flat = np.log(np.maximum(rows.sight, LEAST_SIGHT)).reshape(len(rows.sight), -1)
        return [*out, np.exp(curve.mean(group.mean(flat))).reshape(-1, *rows.sight.shape[1:])]

    def _shares(self, rows: Figures) -> tuple[np.ndarray, np.ndarray]:
        """How unevenly noise lies over the pictures, (f, bins), and how much of it is sparks, (f,): in proportion between proof frames."""
        rows = rows.at(_clear(rows))
        frames, place = np.unique(rows.frame, return_inverse=True)
        columns = np.column_stack([rows.shares, rows.spark_share])
        sums = np.zeros((len(frames), columns.shape[1]))
        np.add.at(sums, place, columns)
        means = sums / np.bincount(place)[:, None]
        over = np.stack([np.interp(self.frames, frames, column) for column in means.T], axis=1)
        return over[:, :-1], over[:, -1]

    def _unseen(self, group: Grouped) -> int:
        """Most frames in a row that nothing has looked at; 0 where they are few or there is a scan."""
        if self.scan is not None:
            return 0
        marks = np.concatenate([[self.frames[0] - 1], np.unique(group.observed.frames), [self.frames[-1] + 1]])
        gap = int(np.diff(np.clip(marks, self.frames[0] - 1, self.frames[-1] + 1)).max()) - 1
        return gap if gap >= ASKED_GAP else 0

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
        fresh = [r.load_seconds for r in self.rows if not r.recipe.keep_scene] or [
            max(max(r.load_seconds, r.longest_load) for r in self.rows)
        ]
        full = float(np.median(fresh))
        kept = self._kept_rows()
        return (float(np.median([r.load_seconds for r in kept])) if keep and kept else full), full

    def _cache_seconds(self) -> float:
        """Of one light cache; 0 while no proof computed one."""
        # a frame by itself computes all that it blends
        found = [r.cache_seconds / max(1.0, r.caches_made) for r in self.rows if r.cache_seconds > 0]
        return float(np.median(found)) if found else 0.0

    def _history_seconds(self) -> float | None:
        """Of one frame that is gone through for its history; None where no proof told it."""
        found = [r.history_each for r in self.rows if r.history_each > 0]
        return float(np.median(found)) if found else None

    def _closest(self, recipe: Recipe, rows: Figures) -> tuple[Figures, np.ndarray, np.ndarray]:
        """Of each frame the rows whose settings differ least from the recipe's.

        Returns
        -------
        Themselves, and by row the logarithms of what the recipe's settings change: cost, variance.
        """
        off = np.array([len(differing(r, recipe)) for r in self._recipes])[rows.recipe]
        frames, place = np.unique(rows.frame, return_inverse=True)
        least = np.full(len(frames), np.iinfo(np.int64).max)
        np.minimum.at(least, place, off)
        rows = rows.at(np.flatnonzero(off == least[place]))
        used = np.unique(rows.recipe)
        to = np.zeros((len(self._recipes), 2))
        to[used] = [self._towards(self._recipes[k], recipe) for k in used]
        return rows, *to[rows.recipe].T

    def _towards(self, proven: Recipe, recipe: Recipe) -> tuple[float, float]:
        """Logarithms of what a recipe's settings change against those of a proof's: cost, variance."""
        cost = variance = 0.0
        for field in differing(proven, recipe):
            factor = self.factors[field]
            if factor is not None:
                here, there = proven.value(field), recipe.value(field)
                cost += factor.log_cost(there) - factor.log_cost(here)
                variance += factor.log_variance(there) - factor.log_variance(here)
        return cost, variance


def _growing(rows: Figures, fixed: FixedPart, to_cost: np.ndarray, error: float) -> tuple[np.ndarray, np.ndarray | float]:
    """Seconds that are expected to grow of each row, (n,), and the standard deviation of their logarithm.

    A time errs by a share of all of it. What grows is expected by the work of a row and the cost that the rows with most work tell, not
    by its own time: else a row that erred upwards would count for more.
    """
    if not fixed.values.any():
        return rows.seconds, error
    work = rows.pixels * rows.samples * np.exp(-to_cost)
    most = np.argsort(work)[-1 - len(work) // 4 :]
    cost = max(float(np.sum(rows.seconds[most] - fixed.mean)), LEAST_TOLD * float(np.sum(rows.seconds[most]))) / float(np.sum(work[most]))
    growing = np.minimum(cost * work, rows.seconds)
    return growing, error * rows.seconds / growing


def _log_growing(seconds: np.ndarray, expected: np.ndarray, error: np.ndarray | float) -> np.ndarray:
    """Logarithm of seconds that grow, which may have erred below nothing: where errors are large, to first order about what is expected.

    The logarithm of what errs by much of itself is too low in the mean, its first order is not.
    """
    logs = np.log(np.maximum(seconds, LEAST_TOLD * expected))
    return np.where(np.asarray(error) > MOST_ERROR, np.log(expected) + np.clip(seconds / expected - 1.0, -LINEAR, LINEAR), logs)


def _cost_draws(curve: Carried, logs: Sequence[np.ndarray], over: np.ndarray | float) -> np.ndarray:
    """Cost as it may be, (draws, f): with several fixed parts each serves the draws that are its own."""
    whole = curve.draws(logs[0])
    for k in range(1, len(logs)):
        whole[k :: len(logs)] = curve.draws(logs[k])[k :: len(logs)]
    return np.exp(whole + np.asarray(over, np.float32))


def _within(rows: Sequence[ProofFrame], first: int, last: int) -> list[ProofFrame]:
    """Rows inside a shot, and the nearest on both sides of it: a shot that was split loses none at its cut."""
    rows = [r for r in rows if r.cost > 0]
    before = max((r.frame for r in rows if r.frame < first), default=None)
    after = min((r.frame for r in rows if r.frame > last), default=None)
    return [r for r in rows if first <= r.frame <= last or r.frame in (before, after)]


def _clear(rows: Figures) -> np.ndarray:
    """Which rows tell best how noise falls with the samples, (n,) bool: measured as it is today where any is, and of enough samples.

    Figures of two ways of measuring are never mixed: pictures that are kept small hold on to those of the day they were rendered.
    """
    today = rows.version == rows.version.max()
    enough = (today & (rows.samples >= least) for least in CLEAR_SAMPLES)
    return next((found for found in enough if found.any()), today)
