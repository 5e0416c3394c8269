"""A limit of seeing from answers of two-interval forced choice: a Weibull function with lapses, by its likelihood.

P(right) = 1/2 + (1/2 - lapse) (1 - exp(-(amount/scale)^slope)) (Wichmann and Hill 2001, Percept. Psychophys. 63).
The likelihood is summed over a grid with weak priors on slope and lapse, so that the error that is told is that of the
limit, and not that of the turns of a staircase.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

FOUND = 0.5**0.5
"""Share of right answers, without lapses, that makes the limit: where one up, two down comes to rest."""
LAPSES, LAPSE_WEIGHTS = np.array([0.0, 0.02, 0.05, 0.1]), np.array([0.45, 0.3, 0.17, 0.08])
SLOPE, SLOPE_SPREAD = 3.0, 0.3
"""Middle of the slopes, and standard deviation of their logarithm."""
USUAL_SPREAD = 1.4
"""Standard deviation of the logarithm of the limits of people, around 1 JND."""
BETTER_THAN_GUESSES = 3.0
"""Logarithm of how much likelier the answers must be by a limit than by guesses."""


@dataclass(frozen=True)
class Limit:
    """What the answers say.

    value : amount that is found `FOUND` of the time; spread : its standard error, as a factor
    guessed : the answers are hardly likelier than guesses, so there is no limit in them
    """

    value: float
    spread: float
    guessed: bool


@lru_cache(maxsize=1)
def _grid() -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    limits, slopes = np.geomspace(0.02, 100.0, 160), SLOPE * np.exp(SLOPE_SPREAD * np.linspace(-2, 2, 9))
    weight = np.exp(-0.5 * (np.log(slopes / SLOPE) / SLOPE_SPREAD) ** 2)
    limit, slope, lapse = np.meshgrid(limits, slopes, LAPSES, indexing="ij")
    usual = np.exp(-0.5 * (np.log(limits) / USUAL_SPREAD) ** 2)
    prior = usual[:, None, None] * weight[None, :, None] * LAPSE_WEIGHTS
    # the share of the Weibull function at which FOUND are right
    reached = -np.log(1.0 - 2.0 * (FOUND - 0.5))
    return limit / reached ** (1.0 / slope), slope, lapse, np.log(prior / prior.sum())


def fit_limit(amounts: Sequence[float], right: Sequence[bool]) -> Limit:
    """Return the limit that answers tell.

    Parameters
    ----------
    amounts : that were shown, in JND
    right : whether each was found
    """
    scale, slope, lapse, log_prior = _grid()
    shown, found = np.asarray(amounts, np.float64), np.asarray(right, bool)
    seen = 1.0 - np.exp(-((shown / scale[..., None]) ** slope[..., None]))
    chance = np.clip(0.5 + (0.5 - lapse[..., None]) * seen, 1e-6, 1.0 - 1e-6)
    likelihood = np.where(found, np.log(chance), np.log(1.0 - chance)).sum(axis=-1)
    posterior = np.exp(likelihood + log_prior - (likelihood + log_prior).max())
    by_limit = posterior.sum(axis=(1, 2)) / posterior.sum()
    logs = np.log(np.geomspace(0.02, 100.0, 160))
    middle = float(by_limit @ logs)
    spread = float(np.sqrt(by_limit @ (logs - middle) ** 2))
    guessed = float(likelihood.max() - len(shown) * np.log(0.5)) < BETTER_THAN_GUESSES
    return Limit(float(np.exp(middle)), float(np.exp(spread)), guessed)
