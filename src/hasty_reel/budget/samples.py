"""Samples per frame under a promise: seen flicker at most J, noise at most S, total at most T, at most C seconds a frame, or all alike.

Samples are whole and a multiple of the shutter steps. A noise promise rounds up; a
time promise rounds down and then spends what is left, the noisiest frame (or the
largest gain per second) first. The floor wins over the cap.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from hasty_reel.budget.relax import relax
from hasty_reel.budget.scaling import scale_to_total
from hasty_reel.viewers import who_sees

EASE = 1e-9
"""Relative allowance before rounding, so that 480 computed as 479.9999999999 stays 480."""

ROUNDS, SPENT = 40, 0.003
"""How often time that smoothing left is given out again, and the share of the total that may stay."""

OCTAVES, STEPS, TINY = 24, 12, 1e-12
"""Samples are looked for up to two to the power of this; steps within an octave; seen flicker that is none."""
UNREACHED = 2.0**OCTAVES

Goal = Literal["even", "total"]


@dataclass(frozen=True)
class Problem:
    """What a budget is solved for, all arrays (f,).

    variance : at one sample per pixel; noise at n samples is sqrt(variance/n)
    cost : seconds per sample; fixed : seconds a frame takes without samples
    floor, ceiling : least and most samples; steps : samples come in multiples of this
    weight : importance of a frame for the goal 'total'; pins : samples fixed by hand, 0 for none
    ratio : the most by which noise may differ between neighbours; None for no limit
    cap : seconds a frame may take at most, where its floor (or a pin) allows it; None for no limit
    frames : numbers by which words name the frames; None: counted from 1
    """

    variance: np.ndarray
    cost: np.ndarray
    fixed: np.ndarray
    floor: int = 1
    ceiling: int = 65536
    steps: int = 1
    weight: np.ndarray | None = None
    pins: np.ndarray | None = None
    ratio: float | None = None
    cap: float | None = None
    frames: np.ndarray | None = None

    @property
    def bounds(self) -> tuple[np.ndarray, np.ndarray]:
        """Least and most samples of each frame, as multiples of the steps; pins are both.

        Returns
        -------
        least, most : (n,) int64
            Samples of each frame.
        """
        k = max(1, self.steps)
        low = np.full(len(self.variance), -(-max(1, self.floor) // k) * k, np.int64)
        high = np.maximum(low, self.ceiling // k * k)
        if self.cap is not None:
            room = np.maximum(0.0, self.cap - self.fixed) / np.maximum(self.cost, 1e-300)
            high = np.clip(_down(room, self.steps), low, high)
        if self.pins is not None:
            pinned = np.maximum(k, np.rint(self.pins / k).astype(np.int64) * k)
            low, high = np.where(self.pins > 0, pinned, low), np.where(self.pins > 0, pinned, high)
        return low, high

    def noise(self, samples: np.ndarray) -> np.ndarray:
        """Noise at a sample count per frame.

        Parameters
        ----------
        samples : (f,) per pixel
        """
        return np.sqrt(self.variance / samples)

    def seconds(self, samples: np.ndarray) -> np.ndarray:
        """Return the seconds at a sample count per frame.

        Parameters
        ----------
        samples : (f,) per pixel
        """
        return self.fixed + self.cost * samples


@dataclass(frozen=True)
class Budget:
    """An answer: samples (f,) int64, whether the promise holds, and if not, why not.

    level : the noise the frames between floor and ceiling were brought to; nan where no level was sought
    needed : (f,) samples that would keep what is held, inf where none do; None where that was not sought
    """

    samples: np.ndarray
    solved: bool
    why: str
    level: float
    needed: np.ndarray | None = None


def hold_noise(problem: Problem, level: float) -> Budget:
    """Return the fewest samples with noise at most `level` in every frame.

    Parameters
    ----------
    problem : what is solved for
    level : standard deviation of linear light

    Examples
    --------
    Variance falls with the samples, so four times the variance takes four times the samples:

    >>> frames = Problem(variance=np.array([0.02, 0.08]), cost=np.ones(2), fixed=np.zeros(2), floor=4, ceiling=1024, steps=1)
    >>> hold_noise(frames, level=0.02).samples
    array([ 50, 200])
    """
    low, high = problem.bounds
    wanted = _up(problem.variance / level**2, problem.steps)
    samples = np.clip(wanted, low, high)
    samples, unkept = _smooth(problem, samples, strict=level)
    short = np.flatnonzero(problem.noise(samples) > level * (1 + EASE))
    why = ""
    if len(short):
        worst = float(problem.noise(samples)[short].max())
        bound = "the ceiling (or a pin)" if problem.cap is None else f"the ceiling, the cap of {problem.cap:.6g} s or a pin"
        what = f"{bound} keeps 1 frame" if len(short) == 1 else f"{bound} keeps {len(short)} frames"
        why = f"{what} above the noise {level:.4g}; the worst reaches {worst:.4g}"
    over = _over_cap(problem, samples)
    return Budget(samples, not len(short) and not over, _joined(why, over, unkept), level)


def hold_clean(problem: Problem, seen: Callable[[np.ndarray], np.ndarray], limit: float) -> Budget:
    """Return the fewest samples with seen flicker at most `limit` in every frame.

    Parameters
    ----------
    problem : what is solved for; its variance does not count
    seen : gives seen flicker in JND at samples (f,); it falls with them, or stays
    limit : in JND
    """
    needed = fewest(seen, limit, len(problem.cost))
    # seen flicker comes down to the limit at `needed` as the noise of such frames to 1
    alike = replace(problem, variance=np.minimum(needed, UNREACHED))
    low, high = alike.bounds
    samples, unkept = _smooth(alike, np.clip(_up(alike.variance, problem.steps), low, high), strict=1.0)
    reached = seen(samples.astype(np.float64))
    short = reached > limit * (1 + EASE)
    why = ""
    if short.any():
        never = short & ~np.isfinite(needed)
        most = round(float(needed[short & ~never].max())) if (short & ~never).any() else 0
        parts = [f"{_frames(short)} less calm than {who_sees(limit)}: seen by up to {who_sees(float(reached[short].max()))}"]
        if most:
            parts.append(f"{'others' if never.any() else 'they'} take up to {most} samples, and a ceiling, cap or pin does not let them")
        if never.any():
            parts.append(f"{_frames(never)} with any samples")
        why = "; ".join(parts)
    over = _over_cap(problem, samples)
    return Budget(samples, not short.any() and not over, _joined(why, over, unkept), np.nan, needed)


def fewest(seen: Callable[[np.ndarray], np.ndarray], limit: float, count: int) -> np.ndarray:
    """Return the fewest samples at which seen flicker comes down to a limit, (f,); inf where `UNREACHED` are not enough.

    Parameters
    ----------
    seen : gives seen flicker in JND at samples (f,)
    limit : in JND
    count : frames
    """
    wanted = np.log(limit)
    low, high = np.zeros(count), np.full(count, float(OCTAVES))  # between which powers of two it lies
    for _ in range(OCTAVES.bit_length()):
        middle = np.floor((low + high) / 2.0)
        enough = np.log(np.maximum(seen(2.0**middle), TINY)) <= wanted
        low, high = np.where(enough, low, middle), np.where(enough, middle, high)
    above, below = (np.log(np.maximum(seen(2.0**x), TINY)) - wanted for x in (low, high))
    out = np.where(above <= 0, 2.0**low, np.where(below <= 0, 2.0**high, np.inf))
    for _ in range(STEPS):  # within one, flicker falls as a power of the samples, or nearly so: regula falsi, halved where it hangs
        share = np.clip(above / np.where(above > below, above - below, 1.0), 0.02, 0.98)
        middle = low + share * (high - low)
        at = np.log(np.maximum(seen(2.0**middle), TINY)) - wanted
        enough = at <= 0
        out = np.where(enough & (out > 1.0) & np.isfinite(out), np.minimum(out, 2.0**middle), out)
        above, below = np.where(enough, above * 0.5, at), np.where(enough, at, below * 0.5)
        low, high = np.where(enough, low, middle), np.where(enough, middle, high)
    return out


def _frames(which: np.ndarray) -> str:
    count = int(which.sum())
    return "1 frame stays" if count == 1 else f"{count} frames stay"


def hold_total(problem: Problem, total: float, goal: Goal = "even") -> Budget:
    """Return the cleanest frames that take at most `total` seconds together.

    goal : 'even' brings all frames to one noise; 'total' makes the weighted sum of variances least

    Parameters
    ----------
    problem : what is solved for
    total : seconds
    goal : 'even' noise, or the least variance in 'total'
    """
    low, high = problem.bounds
    room = total - float(problem.fixed.sum())
    least = float(problem.seconds(low).sum())
    if least > total * (1 + EASE):
        why = f"even at the floor the frames take {least:.6g} s, {least - total:.6g} s more than the {total:.6g} s given"
        return Budget(low, False, why, np.nan)
    weight = np.ones(len(low)) if problem.weight is None else problem.weight
    if goal == "even":
        shape = problem.variance
    else:
        shape = np.sqrt(weight * problem.variance / np.maximum(problem.cost, 1e-300))
    x, n = scale_to_total(shape, problem.cost, low.astype(np.float64), high.astype(np.float64), room)
    k = max(1, problem.steps)
    samples = np.clip((np.floor(n / k * (1 + EASE)) * k).astype(np.int64), low, high)
    samples = _within(problem, samples, low, total)
    samples = _spend(problem, samples, high, total, goal, weight)
    samples, unkept = _smooth(problem, samples, strict=None)
    samples, unkept = _spend_what_smoothing_left(problem, samples, unkept, total, goal, weight)
    level = float(1 / np.sqrt(x)) if goal == "even" and 0 < x < np.inf else np.nan
    over = _over_cap(problem, samples)
    return Budget(samples, not over, _joined(over, unkept), level)


def hold_cap(problem: Problem, cap: float) -> Budget:
    """As many samples as fit into `cap` seconds a frame; never fewer than the floor, which wins.

    Parameters
    ----------
    problem : what is solved for
    cap : seconds a frame may take
    """
    problem = replace(problem, cap=cap if problem.cap is None else min(cap, problem.cap))
    samples, unkept = _smooth(problem, problem.bounds[1], strict=None)
    over = _over_cap(problem, samples)
    return Budget(samples, not over, _joined(over, unkept), np.nan)


def hold_flat(problem: Problem, samples: float) -> Budget:
    """Return the same samples in every frame, but for pins; the floor, the ceiling and a cap win over them.

    Parameters
    ----------
    problem : what is solved for
    samples : per pixel
    """
    low, high = problem.bounds
    wanted = _up(np.full(len(low), samples), problem.steps)
    given = np.clip(wanted, low, high)
    pinned = np.zeros(len(low), bool) if problem.pins is None else problem.pins > 0
    short = np.flatnonzero((given != wanted) & ~pinned)
    frames = "1 frame" if len(short) == 1 else f"{len(short)} frames"
    why = f"the floor, the ceiling or a cap keeps {frames} from {samples:.6g} samples" if len(short) else ""
    over = _over_cap(problem, given)
    return Budget(given, not len(short) and not over, _joined(why, over), np.nan)


def _over_cap(problem: Problem, samples: np.ndarray) -> str:
    """Which frames take longer than the cap, or ''."""
    if problem.cap is None:
        return ""
    over = np.flatnonzero(problem.seconds(samples) > problem.cap * (1 + EASE))
    if not len(over):
        return ""
    frames = "1 frame takes" if len(over) == 1 else f"{len(over)} frames take"
    return f"{frames} longer than {problem.cap:.6g} s at the floor (or a pin), up to {problem.seconds(samples).max():.6g} s"


def _up(n: np.ndarray, steps: int) -> np.ndarray:
    k = max(1, steps)
    return (np.ceil(np.minimum(n, 1e15) / k * (1 - EASE)) * k).astype(np.int64)


def _down(n: np.ndarray, steps: int) -> np.ndarray:
    k = max(1, steps)
    return (np.floor(np.minimum(n, 1e15) / k * (1 + EASE)) * k).astype(np.int64)


def _within(problem: Problem, samples: np.ndarray, low: np.ndarray, total: float) -> np.ndarray:
    """Take single steps back until the promise holds (the allowance in rounding may have overspent)."""
    k = max(1, problem.steps)
    over = float(problem.seconds(samples).sum()) - total
    if over > 0:
        samples = samples.copy()
        for f in np.argsort(-problem.cost, kind="stable"):
            if over <= 0:
                break
            if samples[f] - k >= low[f]:
                samples[f] -= k
                over -= float(problem.cost[f]) * k
    return samples


def _spend(problem: Problem, samples: np.ndarray, high: np.ndarray, total: float, goal: Goal, weight: np.ndarray) -> np.ndarray:
    """Spend the rest, one step a frame, the most useful first, without ever overspending."""
    k = max(1, problem.steps)
    price = problem.cost * k
    samples = samples.copy()
    while True:
        left = total - float(problem.seconds(samples).sum())
        open_frames = np.flatnonzero((samples + k <= high) & (price <= left) & (price > 0) & (problem.variance > 0))
        if not len(open_frames):
            return samples
        n = samples[open_frames]
        if goal == "even":
            gain = problem.variance[open_frames] / n
        else:
            gain = weight[open_frames] * problem.variance[open_frames] * k / (n * (n + k)) / price[open_frames]
        order = open_frames[np.argsort(-gain, kind="stable")]
        fits = np.cumsum(price[order]) <= left * (1 - 1e-12)
        chosen = order[fits]
        if not len(chosen):
            # a dear frame stands first: give the step to the most useful one that fits
            chosen = order[:1]
            if float(problem.seconds(samples).sum()) + float(price[chosen[0]]) > total:
                return samples
        samples[chosen] += k


def _spend_what_smoothing_left(
    problem: Problem, samples: np.ndarray, unkept: str, total: float, goal: Goal, weight: np.ndarray
) -> tuple[np.ndarray, str]:  # fmt: skip
    """Give the time that cleaner frames gave up to all frames alike, as long as the ratio keeps what is given."""
    low, high = problem.bounds
    k = max(1, problem.steps)
    for _ in range(ROUNDS):
        left = total - float(problem.seconds(samples).sum())
        grows = samples < high
        price = float(np.sum(problem.cost[grows] * samples[grows]))
        if problem.ratio is None or price <= 0 or left <= SPENT * total:
            break
        more = np.clip((samples * (1.0 + left / price) // k).astype(np.int64) * k, samples, high)
        more = np.where(grows, more, samples)
        more = _spend(problem, _within(problem, more, low, total), high, total, goal, weight)
        smooth, words = _smooth(problem, more, strict=None)
        if float(problem.seconds(smooth).sum()) <= float(problem.seconds(samples).sum()):
            break
        samples, unkept = smooth, words
    return samples, unkept


def _smooth(problem: Problem, samples: np.ndarray, strict: float | None) -> tuple[np.ndarray, str]:
    """Relax cleaner neighbours towards noisier frames so that noise changes by at most the ratio."""
    if problem.ratio is None or len(samples) < 2:
        return samples, ""
    low, _ = problem.bounds
    samples = samples.copy()
    relax(samples, problem.variance, low, max(1, problem.steps), problem.ratio, np.inf if strict is None else strict)
    noise = problem.noise(samples)
    jump = np.maximum(noise[1:] / noise[:-1], noise[:-1] / noise[1:])
    breaks = np.flatnonzero(jump > problem.ratio * (1 + EASE)) + 1
    names = np.arange(1, len(samples) + 1) if problem.frames is None else problem.frames
    if not len(breaks):
        return samples, ""
    places = ", ".join(f"{names[k]:.10g}" for k in breaks[:5]) + (" ..." if len(breaks) > 5 else "")
    return samples, f"noise changes by more than {problem.ratio:g} times before frame {places}"


def _joined(*parts: str) -> str:
    return "; ".join(p for p in parts if p)
