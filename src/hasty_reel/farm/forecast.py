"""What an order of a proof will take, by the plan of its shot."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hasty_reel.farm.job import whole_steps
from hasty_reel.farm.order import ProofOrder
from hasty_reel.image.size import scaled_size
from hasty_reel.plan.shot import ShotPlan


def order_seconds(orders: Sequence[ProofOrder], plan: ShotPlan, size: tuple[int, int]) -> float:
    """Return the seconds of all pictures of the orders on a machine of speed 1; a time cap is taken at its word.

    Parameters
    ----------
    orders : of proofs
    plan : of the shot
    size : pixels of the delivered picture, across and down

    Notes
    -----
    Cost per pixel and sample and the load of each frame are those of the plan: what an order sets otherwise is not priced.
    """
    total = 0.0
    for order in orders:
        pixels = float(np.prod(scaled_size(size, order.scale)))
        k = np.array([plan.index(int(f)) for f in order.frames])
        cost = plan.sample[k] / plan.taken[k] / plan.pixels[k]
        start = plan.at.load_seconds + plan.at.fixed.mean
        each = plan.load[k] + (order.tiles**2 - plan.recipe.starts) * start + cost * pixels * whole_steps(order.samples, order.recipe)
        total += float(order.seeds * np.sum(each if order.cap is None else np.minimum(each, order.cap)))
    return total
