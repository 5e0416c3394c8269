"""How long a run still takes, told anew after every frame, without jumps: how much slower or faster than planned it goes.

The logarithm of real / planned seconds of a frame is a level that all share and that drifts a little from frame to frame,
what its machine adds to that, and what the frame strays by itself. Level and machines are followed by a Kalman filter (local
level model: J. Durbin and S. J. Koopman, Time Series Analysis by State Space Methods, chapter 2, from memory). Frames stray
alike in stretches: what is correlated counts as fewer. A frame under way that takes longer than expected is evidence too,
though it has not ended: it is censored, and the state is moved to mean and variance of the truncated normal distribution.
"""

from __future__ import annotations

import heapq
import math
from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass

import numpy as np
from scipy.stats import norm

SHARED, MACHINE, OWN, DRIFT = 0.12, 0.06, 0.10, 0.012
"""Standard deviations of the logarithm: of the level before anything is known, of what a machine adds to it, of a frame by itself,
and of the drift from frame to frame."""
OWN_WEIGHT = 4.0
"""Frames' worth of trust in `OWN`, before what frames show outweighs it."""
TELLING, STRAIGHT = 0.15, 0.3
"""Share of a frame that must be done before its progress tells anything of its end; how far what is left may stray from it."""
LAST = 0.25
"""Standard deviation of the end, as a share of one frame, where several workers share the last ones."""
HIGH = 0.9
"""Quantile of the upper end of the spread that is shown."""
MOST_ALIKE = 0.8
"""Correlation of neighbours that is believed at most: with it nine frames count as one, beyond it a handful tell nothing at all."""
HUNG = 2.0
"""Standard deviations beyond which a frame is rather hung than slow: waiting longer for it tells nothing more of the others."""


@dataclass(frozen=True)
class TimeLeft:
    """Seconds of the clock until all frames are ready: even chance, and between which it is eight times in ten.

    spread : standard deviation of the logarithm of the middle
    """

    middle: float
    low: float
    high: float
    spread: float = 0.0


@dataclass(frozen=True)
class UnderWay:
    """A frame that is being rendered.

    machine : that has it, and its speed; seconds : since it began; planned : of it on a machine of speed 1
    share : of it that is done; 0 where that is not told
    bound : seconds after which it is given up and begun again; 0 where that is not told
    """

    machine: str
    speed: float
    seconds: float
    planned: float
    share: float = 0.0
    bound: float = 0.0


class Pace:
    """How much slower than planned frames are rendered, as it is known so far. drift : of the level, as it was given

    Parameters
    ----------
    shared : standard deviation of the level before anything is known
    own : of the logarithm of a frame by itself, as the plan expects it
    drift : of the level from one frame to the next
    """

    def __init__(self, shared: float = SHARED, own: float = OWN, drift: float = DRIFT) -> None:
        self._mean, self._cov = np.zeros(1), np.array([[shared**2]])
        self._machines: dict[str, int] = {}
        self.drift, self._own = drift, own**2
        self._squares, self._count = 0.0, 0
        self._last, self._products = 0.0, 0.0

    @property
    def own(self) -> float:
        """Standard deviation of the logarithm of a frame by itself, as frames show it."""
        return math.sqrt((OWN_WEIGHT * self._own + self._squares) / (OWN_WEIGHT + self._count))

    @property
    def alike(self) -> float:
        """Correlation of a frame with the one before, as frames show it, 0 to 0.8."""
        expected = (OWN_WEIGHT + self._count) * self.own**2
        return min(MOST_ALIKE, max(0.0, self._products / expected)) if self._count > 2 else 0.0

    def factor(self, machine: str = "") -> float:
        """Return real seconds / planned ones, median.

        Parameters
        ----------
        machine : its name; '' for what all share
        """
        k = self._machines.get(machine, 0)
        return math.exp(float(self._mean[0] + (self._mean[k] if k else 0.0)))

    def _row(self, machine: str) -> np.ndarray:
        """Which parts of the state the frames of a machine show, (1 + machines,)."""
        if machine not in self._machines:
            self._machines[machine] = len(self._mean)
            self._mean = np.append(self._mean, 0.0)
            wider = np.zeros((len(self._mean), len(self._mean)))
            wider[:-1, :-1] = self._cov
            wider[-1, -1] = MACHINE**2
            self._cov = wider
        row = np.zeros(len(self._mean))
        row[0] = row[self._machines[machine]] = 1.0
        return row

    def ended(self, real: float, planned: float, machine: str = "") -> None:
        """Take in a frame that ended.

        Parameters
        ----------
        real : seconds it took
        planned : seconds of it on that machine
        machine : its name
        """
        told = math.log(max(real, 1e-6) / max(planned, 1e-6))
        row = self._row(machine)
        self._cov[0, 0] += self.drift**2
        rho = self.alike
        noise = self.own**2 * (1.0 + rho) / (1.0 - rho)
        away = told - float(row @ self._mean)
        gain = self._cov @ row / float(row @ self._cov @ row + noise)
        self._mean = self._mean + gain * away
        self._cov = self._cov - np.outer(gain, row @ self._cov)
        left = told - float(row @ self._mean)
        self._squares += min(away**2, 9.0 * self.own**2) * noise / (noise + float(row @ self._cov @ row))
        self._products += self._last * left
        self._last = left
        self._count += 1

    def with_under_way(self, under_way: Sequence[UnderWay]) -> Pace:
        """Return the pace when frames under way are taken in as well; this one stays as it is.

        Parameters
        ----------
        under_way : frames that are being rendered
        """
        out = copy(self)
        out._machines, own = dict(self._machines), self.own**2
        for frame in under_way:
            planned = frame.planned / frame.speed
            if frame.seconds <= 0 or planned <= 0:
                continue
            row = out._row(frame.machine)
            shown = float(row @ out._cov @ row)
            if frame.share >= TELLING:  # what is done tells the whole, the surer the more is done
                told = math.log(frame.seconds / frame.share / planned)
                gain = out._cov @ row / (shown + own + ((1.0 - frame.share) * STRAIGHT) ** 2)
                out._mean = out._mean + gain * (told - float(row @ out._mean))
                out._cov = out._cov - np.outer(gain, row @ out._cov)
                continue
            spread = math.sqrt(shown + own)
            z = (math.log(frame.seconds / planned) - float(row @ out._mean)) / spread
            z = min(z, HUNG)
            if z > -3.0:
                hazard = float(np.exp(norm.logpdf(z) - norm.logsf(z)))
                gain = out._cov @ row / spread
                out._mean = out._mean + gain * hazard
                out._cov = out._cov - np.outer(gain, gain) * hazard * (hazard - z)
        return out

    def spread_of(self, shares: dict[str, float]) -> float:
        """Return the standard deviation of the mean level of machines.

        Parameters
        ----------
        shares : of the work, by machine
        """
        whole = sum(shares.values()) or 1.0
        row = np.zeros(len(self._mean))
        extra = 0.0
        for machine, share in shares.items():
            k = self._machines.get(machine)
            if k is None:
                extra += (share / whole * MACHINE) ** 2
            else:
                row[k] += share / whole
        row[0] = 1.0
        return math.sqrt(max(float(row @ self._cov @ row) + extra, 1e-10))


def _rest(frame: UnderWay, pace: Pace) -> float:
    """Seconds that a frame under way still takes: of one that hangs those until it is given up, and then all of it anew."""
    takes = frame.planned / frame.speed * pace.factor(frame.machine)
    if frame.share >= TELLING:
        return max(0.1 * takes, frame.seconds * (1.0 / frame.share - 1.0))
    spread = math.sqrt(pace.spread_of({frame.machine: 1.0}) ** 2 + pace.own**2)
    if takes > 0 and frame.seconds > takes * math.exp(HUNG * spread):
        # without a bound: what has taken so long takes as long again
        return takes + (max(0.0, frame.bound - frame.seconds) if frame.bound > 0 else frame.seconds)
    return max(0.1 * takes, takes - frame.seconds)


def time_left(
    pace: Pace,
    left: Sequence[float],
    hands: Sequence[tuple[str, float]],
    under_way: Sequence[UnderWay] = (),
    after: float = 0.0,
) -> TimeLeft:
    """Return how long a run still takes: each worker that is free takes the next frame.

    Parameters
    ----------
    pace : of the run so far
    left : planned seconds of the frames that have not begun, on a machine of speed 1, in their order
    hands : machine and speed of each worker
    under_way : frames that are being rendered
    after : planned seconds of work that comes beside or after rendering, shared by all workers

    Returns
    -------
    TimeLeft
        Seconds of the clock from now on.
    """
    if not len(left) and not under_way and after <= 0:
        return TimeLeft(0.0, 0.0, 0.0)
    now = pace.with_under_way(under_way)
    free: list[tuple[float, int, str, float]] = []
    idle = list(hands)
    for k, frame in enumerate(under_way):
        hand = next((h for h in idle if h[0] == frame.machine), None)
        if hand is not None:
            idle.remove(hand)
        free.append((_rest(frame, now), k, frame.machine, frame.speed))
    free += [(0.0, len(free) + k, machine, speed) for k, (machine, speed) in enumerate(idle)]
    work = [f.planned for f in under_way] + list(left)
    shares = {machine: 0.0 for _, _, machine, _ in free}
    if not free:
        return TimeLeft(math.inf, math.inf, math.inf)
    heapq.heapify(free)
    factors = {machine: now.factor(machine) for machine in shares}
    for seconds in left:
        at, k, machine, speed = free[0]
        heapq.heapreplace(free, (at + seconds / speed * factors[machine], k, machine, speed))
        shares[machine] += seconds
    if not left:
        shares = {f.machine: 1.0 for f in under_way} or shares
    power = sum(speed / factors[machine] for _, _, machine, speed in free)
    span = max(f[0] for f in free) + after / power
    total = float(np.sum(work)) or 1.0
    own = now.own**2 * float(np.sum(np.square(work))) / total**2 * (1 + now.alike) / (1 - now.alike)
    later = now.drift**2 * len(work) / 3.0  # the mean of what the level drifts until the end
    # which worker gets the last frames is chance: the end moves by a share of one of them; none is where finishing alone is left
    last = LAST * total / len(work) / (power / len(free)) / max(span, 1e-9) if work and len(free) > 1 and span > 0 else 0.0
    spread = math.sqrt(now.spread_of(shares) ** 2 + own + later + last**2)
    z = float(norm.ppf(HIGH))
    return TimeLeft(span, span * math.exp(-z * spread), span * math.exp(z * spread), spread)
