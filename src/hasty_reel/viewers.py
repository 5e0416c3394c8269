"""Unrest on a human scale: how much worse a film is judged for it, and how many viewers see it.

Side by side with a still version of the same film, one of two viewers who see no difference picks either by chance. A loss
of one JOD (just objectionable difference; Perez-Ortiz and others, IEEE Transactions on Image Processing 29, 2020) means that 75 of 100
choose the calmer one: half of them by chance, so 50 of 100 see it. The curve from seen flicker to JOD was fitted to ColorVideoVDP
(`benchmarks/judged.py`) on even greys, photographs and edges; no rendered picture had a part in it.
"""

from __future__ import annotations

import math
from functools import cache
from statistics import NormalDist

import numpy as np

KNEE, POWER, BEGINS, WORST = 11.82, 1.171, 0.89, 10.0
"""Of the curve: loss = WORST x / (1 + x), x = (E / KNEE)^POWER, E = sqrt(J^2 + BEGINS^2) - BEGINS: faint unrest counts by its square."""
ONE_JOD = 0.6745
"""Standard deviations that one JOD is: the normal distribution holds three quarters below."""
IMPAIRMENT = (
    (0.1, "imperceptible"), (0.5, "perceptible, not annoying"), (1.5, "slightly annoying"), (3.0, "annoying"), (math.inf, "very annoying"),
)  # fmt: skip
"""Loss in JOD below which a grade of the impairment scale of ITU-R BT.500 is named; where one ends is our own choice."""


LEAST_SHARE, MOST_SHARE = 0.02, 0.95
"""Shares of viewers below and above which no number is named: a panel of some dozen people tells no finer."""


def loss_of(seen: float) -> float:
    """Return the loss in JOD of a film with unrest.

    Parameters
    ----------
    seen : seen flicker in JND
    """
    if math.isnan(seen):
        return seen
    x = ((math.hypot(max(0.0, seen), BEGINS) - BEGINS) / KNEE) ** POWER
    return WORST * x / (1.0 + x)


def limit_of(share: float) -> float:
    """Return the seen flicker in JND that a share of viewers sees, the inverse of `loss_of` and `share_of_viewers`.

    Parameters
    ----------
    share : of viewers, above 0 and below 1

    Examples
    --------
    >>> round(limit_of(0.25), 2)
    1.56
    """
    loss = NormalDist().inv_cdf((1.0 + share) / 2.0) / ONE_JOD
    return math.sqrt((KNEE * (loss / (WORST - loss)) ** (1.0 / POWER) + BEGINS) ** 2 - BEGINS**2)


def seen_by(seen: float) -> float:
    """Return the share of viewers who see unrest, 0 to 1.

    Parameters
    ----------
    seen : seen flicker in JND
    """
    return share_of_viewers(loss_of(seen))


def percent_who_see(seen: np.ndarray) -> np.ndarray:
    """Return the percent of viewers who see unrest, (f,).

    Parameters
    ----------
    seen : (f,) seen flicker in JND

    Examples
    --------
    >>> percent_who_see(np.array([0.93, 1.56, 2.55])).round()
    array([10., 25., 50.])
    """
    places, percent = _percent_table()
    return np.interp(seen, places, percent)


@cache
def _percent_table() -> tuple[np.ndarray, np.ndarray]:
    """Seen flicker in JND, denser where little is seen, and the percent of viewers who see it: straight lines between are exact to 0.01."""
    places = 100.0 * np.linspace(0.0, 1.0, 4001) ** 2
    return places, np.array([100.0 * seen_by(float(j)) for j in places])


def share_of_viewers(loss: float) -> float:
    """Return the share of viewers who see it, 0 to 1: those who choose the calmer film, less as many as choose it by chance.

    Parameters
    ----------
    loss : in JOD
    """
    return math.erf(ONE_JOD * loss / math.sqrt(2.0))


def viewers_words(share: float) -> str:
    """Return a share of viewers in words: 'nearly nobody', '1 in 12', '7 in 10', 'nearly all'.

    Parameters
    ----------
    share : 0 to 1
    """
    if share < LEAST_SHARE:
        return "nearly nobody"
    if share <= 0.5:
        return f"1 in {round(1.0 / share)}"
    if share < MOST_SHARE:
        return f"{round(share * 10)} in 10"
    return "nearly all"


def who_sees(seen: float) -> str:
    """Return how many viewers see unrest, as a table says it: '1 in 4', 'nearly nobody'; '–' where it is not known.

    Parameters
    ----------
    seen : seen flicker in JND
    """
    return "–" if math.isnan(seen) else viewers_words(seen_by(seen))


def seen_words(seen: float) -> str:
    """Return who sees unrest, and how it is judged: 'seen by 1 in 4 (perceptible, not annoying)'; 'not known' where it is not.

    Parameters
    ----------
    seen : seen flicker in JND
    """
    if math.isnan(seen):
        return "not known"
    loss = loss_of(seen)
    return f"seen by {viewers_words(share_of_viewers(loss))} ({impairment(loss)})"


def impairment(loss: float) -> str:
    """Return the word of the impairment scale.

    Parameters
    ----------
    loss : in JOD
    """
    return next(word for most, word in IMPAIRMENT if loss < most)
