"""What the machines of a reel take one by one: frames, or whole chunks where the scene is kept loaded or needs history."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from hasty_reel.plan.frames.chunks import chunk_starts
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.plan.time.capacity import Capacity
from hasty_reel.plan.time.schedule import Ahead, Hours, Schedule, Worker, scheduled
from hasty_reel.reel.machine import Machine

MOST, LAST = 120, 40
"""Units that are laid out; of more, neighbours are laid out together, but for the last ones, whose ends count."""


def units_of(plans: Iterable[ShotPlan], chunks: int) -> np.ndarray:
    """Return the seconds of what a worker takes at once, in the order of the shots, (u,) at speed 1.

    Parameters
    ----------
    plans : by shot or layer
    chunks : that a shot falls into, where its frames go together
    """
    out = []
    for plan in plans:
        seconds = plan.seconds
        if plan.recipe.keep_scene or plan.recipe.preroll:
            seconds = np.add.reduceat(seconds, chunk_starts(len(seconds), max(1, min(chunks, len(seconds)))))
        out.append(seconds)
    found = np.concatenate(out)
    if len(found) > MOST:
        head, tail = found[:-LAST], found[-LAST:]
        found = np.concatenate([np.add.reduceat(head, chunk_starts(len(head), MOST - LAST)), tail])
    return found


def played(units: np.ndarray, machines: Sequence[Machine], hours: Capacity, factors: np.ndarray) -> Schedule:
    """Return how units are rendered on the machines of a reel, once for each factor on all their seconds.

    Parameters
    ----------
    units : (u,) seconds at speed 1, in their order
    machines : of the reel; each of their workers takes units by itself
    hours : their free hours, laid out
    factors : (runs,) on all seconds
    """
    workers = [Worker(k, m.frame_speed / m.workers) for k, m in enumerate(machines) for _ in range(m.workers)]
    none = np.zeros(len(units))
    return scheduled(Ahead(units, none, 0.0, none), workers, Hours(hours.at, hours.free), 1, len(factors), factors=factors)
