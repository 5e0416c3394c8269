"""Stop at noise, seen: the samples each place of a frame takes, the share that ends by noise, the value that balances both."""

from __future__ import annotations

from dataclasses import dataclass, replace

import msgspec
import numpy as np

from hasty_reel.evidence.places import Places
from hasty_reel.plan.shot import ShotPlan, stopping_of


@dataclass(frozen=True)
class StopMap:
    """Samples of the places of a frame.

    places : of the proof frame it is told by
    samples : (h, w) each takes; low, high : the fewest and the most a place can have; stop : noise it stops at
    measured : they were counted by the renderer, not foretold
    ended : share of the shot's picture that ends by its noise; balance : value at which half of it would
    """

    places: Places
    samples: np.ndarray
    low: float
    high: float
    stop: float
    measured: bool
    ended: float
    balance: float


def map_of(plan: ShotPlan, places: Places | None, asked: float | None) -> StopMap | None:
    """Return the samples of places; None where nothing is known of them.

    Parameters
    ----------
    plan : of the shot
    places : of a proof frame of it
    asked : noise to stop at; None for the recipe's, and where it has none for the one that is in balance
    """
    if places is None:
        return None
    samples = plan.samples.astype(np.float64)
    recipe = plan.recipe

    unit = stopping_of(msgspec.structs.replace(recipe, stop_noise=1.0), plan.frame_model)
    assert unit is not None
    balance = unit.balance(samples)
    stop = asked or recipe.stop_noise or float(f"{balance:.3g}")
    stopping = replace(unit, stop=stop)
    at = plan.index(plan.shot.nearest(round(places.frame)))
    most = float(samples[at])
    ended = float(stopping.ended(samples).mean())
    if places.took is not None and places.stop == stop:
        return StopMap(places, places.took, float(places.took.min()), float(places.took.max()), stop, True, ended, balance)
    counts = stopping.counts_of(places.variance, most)
    return StopMap(places, counts, float(min(recipe.samples_floor, most)), most, stop, False, ended, balance)
