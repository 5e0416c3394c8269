"""Which change did that: how much time and unrest each changed setting accounts for, over all proofs of a shot.

A linear model of the logarithms of seconds (per pixel and sample) and of variance: one level for each frame at each
size and sample count, one step for each setting and value that differs from the first proof's. Steps that the proofs cannot tell apart,
because they always changed together, are named as such and get no figure.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from hasty_reel.evidence.rows import ProofFrame
from hasty_reel.evidence.settings import coordinate, sample_settings, within_levels
from hasty_reel.settings.recipe import Recipe, departing
from hasty_reel.settings.setting import Setting, Value

SURE = 0.95
"""Quantile at both ends of the intervals that are told: nine in ten."""
USUAL_TIME, USUAL_NOISE, WORTH = 0.03, 0.05, 3.0
"""By how much the logarithms of seconds, and of noise, of the same measured twice usually differ, and how many repeats that is worth."""
TOLERANCE = 1e-8
MOST_CHANGES = 200


@dataclass(frozen=True)
class SettingEffect:
    """One changed setting: from the first proof's value to another.

    seconds, noise : factors on the time of a sample and on noise at the same samples, with the range they lie in
        nine in ten times; None where the proofs cannot tell
    """

    setting: Setting
    before: Value
    after: Value
    seconds: float | None
    seconds_range: tuple[float, float] | None
    noise: float | None
    noise_range: tuple[float, float] | None

    @property
    def words(self) -> str:
        """The change, as 'bounces 6 → 2'."""
        return f"{self.setting.words} {self.setting.text(self.before)} → {self.setting.text(self.after)}"


@dataclass(frozen=True)
class Together:
    """Changes that always came together, and one proof that would tell them apart."""

    effects: tuple[SettingEffect, ...]
    telling: Recipe

    @property
    def words(self) -> str:
        """In one sentence."""
        names = " and ".join(s.words for s in self.effects)
        return f"Cannot tell {names} apart: they always changed together. A proof with {self.effects[0].words} alone would."


@dataclass(frozen=True)
class Attribution:
    """What each change accounts for, the surest and largest first; and what cannot be told apart."""

    effects: tuple[SettingEffect, ...]
    together: tuple[Together, ...]


def attribute(rows: Sequence[ProofFrame]) -> Attribution:
    """Attribute time and noise to changed settings.

    Parameters
    ----------
    rows : proof frames of one shot, the oldest proof first
    """
    rows = [r for r in rows if r.cost > 0]
    if not rows:
        return Attribution((), ())
    base = rows[0].recipe
    changes = _changes(rows, base)
    if not changes:
        return Attribution((), ())
    if len(changes) > MOST_CHANGES:
        rows, changes = _most_common(rows, base)
    # small pictures pay more for a pixel, and few samples more for a sample: like is compared with like
    names: dict[tuple, int] = {}
    level = np.array([names.setdefault((r.frame, r.pixels, r.samples), len(names)) for r in rows])
    # a column for each change: 1 in rows that have it
    design = np.array([[r.recipe.value(field) == value for field, value in changes] for r in rows], np.float64)
    # which of them the proofs determine alone; those they do not are named together
    known, groups = _tellable(within_levels(design, level))
    time = _fit(design, level, np.log([r.cost for r in rows]), USUAL_TIME)
    # noise by the rows that have two seeds, at equal samples
    variance = np.array([r.variance for r in rows])
    measured = np.isfinite(variance) & (variance > 0)
    noise = None
    if measured.sum() > 1:
        some, their = design[measured], level[measured]
        known_noise, _ = _tellable(within_levels(some, their))
        noise = (_fit(some, their, 0.5 * np.log(variance[measured]), USUAL_NOISE), known_noise)
    steps = []
    for j, (field, value) in enumerate(changes):
        step = SettingEffect(base.setting(field), base.value(field), value, None, None, None, None)
        if known[j]:
            seconds, at = _factor(time, j)
            step = SettingEffect(base.setting(field), base.value(field), value, seconds, at, None, None)
            if noise is not None and noise[1][j]:
                factor, span = _factor(noise[0], j)
                step = SettingEffect(base.setting(field), base.value(field), value, seconds, at, factor, span)
        steps.append(step)
    told = sorted((s for s in steps if s.seconds is not None), key=lambda s: -abs(np.log(s.seconds or 1.0)))
    together = tuple(_together([steps[j] for j in group], base) for group in groups)
    return Attribution(tuple(told), together)


def _changes(rows: Sequence[ProofFrame], base: Recipe) -> list[tuple[str, Value]]:
    found: dict[tuple[str, float], tuple[str, Value]] = {}
    for row in rows:
        for field in sample_settings(base.own_settings):
            value = row.recipe.value(field)
            if value != base.value(field):
                found.setdefault((field, coordinate(field, value)), (field, value))
    return list(found.values())


def _most_common(rows: list[ProofFrame], base: Recipe) -> tuple[list[ProofFrame], list[tuple[str, Value]]]:
    """The changes that most rows have, and the rows that have no others: of thousands of proofs these tell enough."""
    names = sample_settings(base.own_settings)
    count = Counter((f, v) for r in rows for f in names if (v := r.recipe.value(f)) != base.value(f))
    kept = [change for change, _ in count.most_common(MOST_CHANGES)]
    known = {*kept, *((f, base.value(f)) for f in names)}
    return [r for r in rows if all((f, r.recipe.value(f)) in known for f in names)], kept


def _tellable(design: np.ndarray) -> tuple[list[bool], list[list[int]]]:
    """For each change whether the proofs determine it alone, and the groups of those they do not; design (n, c) within levels."""
    count = design.shape[1]
    # the triangle of a QR has the null space of the whole, however many rows there are
    square = np.zeros((count, count))
    triangle = np.linalg.qr(design, mode="r")
    square[: len(triangle)] = triangle
    _, sizes, ways = np.linalg.svd(square)
    rank = int((sizes > max(sizes[0], 1.0) * TOLERANCE).sum())
    null = ways[rank:]
    tied = np.abs(null) > 1e-6
    known = [not tied[:, j].any() for j in range(count)]
    # changes tied by one direction of the null space belong together; so do those tied in chains
    projection = np.abs(null.T @ null) > 1e-6
    groups: list[list[int]] = []
    left = [j for j, k in enumerate(known) if not k]
    while left:
        group, border = set(), [left[0]]
        while border:
            j = border.pop()
            if j not in group:
                group.add(j)
                border += [i for i in left if projection[j, i] and i not in group]
        groups.append(sorted(group))
        left = [j for j in left if j not in group]
    return known, groups


def _fit(design: np.ndarray, level: np.ndarray, side: np.ndarray, usual: float) -> tuple[np.ndarray, np.ndarray]:
    """Least squares with a level of its own for each frame: values of the changes, and half the width of their intervals.

    With few repeats the residuals say little: their variance is pooled with the usual one, which is worth `WORTH` of them, and
    Student's t has as many degrees of freedom as both together.
    """
    from scipy.special import stdtrit  # slow to import, and not needed to open a window

    design, side = within_levels(design, level), within_levels(side, level)
    inverse = np.linalg.pinv(design, rcond=TOLERANCE)
    found = inverse @ side
    freedom = max(0, len(side) - len(np.unique(level)) - int(np.linalg.matrix_rank(design, tol=TOLERANCE)))
    residual = side - design @ found
    variance = (WORTH * usual**2 + float(residual @ residual)) / (WORTH + freedom)
    return found, float(stdtrit(WORTH + freedom, SURE)) * np.sqrt(variance * (inverse**2).sum(axis=1))


def _factor(fit: tuple[np.ndarray, np.ndarray], k: int) -> tuple[float, tuple[float, float]]:
    value, spread = float(fit[0][k]), float(fit[1][k])
    return float(np.exp(value)), (float(np.exp(value - spread)), float(np.exp(value + spread)))


def _together(steps: list[SettingEffect], base: Recipe) -> Together:
    return Together(tuple(steps), departing(base, {steps[0].setting.field: steps[0].after}))
