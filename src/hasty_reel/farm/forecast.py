"""What an order of a proof will take, by the plan of its shot."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from hasty_reel.farm.job import whole_steps
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofrun import runs_of
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.durations import spoken
from hasty_reel.scaledsize import scaled_size

GROWING = 0.3
"""Share of the seconds of a scan that should grow with its picture, where they are not told apart: a fifth is the least that tells."""
SCANS = ((4, 10.0), (16, 10.0), (16, 15.0), (16, 25.0), (64, 25.0), (256, 25.0))
"""Samples and sizes of scans, in the order of what they take."""
MOSTLY, WORTH_TELLING, FEW = 0.5, 30.0, 24
"""Share of a scan that starts must take, and their seconds, for it to be said; the frames that then do."""


MEASURING = 25e-6
"""Seconds a pixel of each picture of a run in which all ways of denoising take that are tried on it: 52 s of a picture at 1080p. By
arithmetic from the seconds of each way in docs/finish.md; it was not held against a clock by itself."""


def measuring_seconds(orders: Sequence[ProofOrder], size: tuple[int, int]) -> float:
    """Return the seconds in which is measured what denoising does on the runs among orders, on a machine like that of docs/finish.md.

    Parameters
    ----------
    orders : of proofs
    size : pixels of the delivered picture, across and down
    """
    runs = [order for order in orders if order.guides and not order.scan and runs_of(order.frames)]
    return MEASURING * sum(order.seeds * len(order.frames) * order.pixels(size) for order in runs)


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
        pixels = float(order.pixels(size))
        k = np.array([plan.index(int(f)) for f in order.frames])
        cost = plan.sample[k] / plan.mean_samples[k] / plan.pixels[k]
        start = plan.frame_model.load_seconds + plan.frame_model.fixed.mean
        each = plan.load[k] + (order.tiles**2 - plan.recipe.starts) * start + cost * pixels * whole_steps(order.samples, order.recipe)
        total += float(order.seeds * np.sum(each if order.cap is None else np.minimum(each, order.cap)))
    return total


def telling_scan(order: ProofOrder, plan: ShotPlan, size: tuple[int, int]) -> ProofOrder:
    """Return a scan that tells something: where a renderer tells one number, enough of its seconds must grow with the picture.

    Parameters
    ----------
    order : of a scan
    plan : of the shot
    size : pixels of the delivered picture, across and down
    """
    fixed, cost = plan.frame_model.fixed.mean, float(np.median(plan.frame_model.cost))
    paths = GROWING / (1.0 - GROWING) * fixed / cost
    found = order
    for samples, scale in SCANS:
        if found.samples * float(np.prod(scaled_size(size, found.scale))) >= paths:
            break
        found = replace(order, samples=max(order.samples, samples), scale=max(order.scale, scale))
    return found


def start_words(order: ProofOrder, plan: ShotPlan, size: tuple[int, int]) -> str:
    """Return that most of what a scan takes are starts of the renderer, and how many frames would do; '' where they are not.

    Parameters
    ----------
    order : of a scan
    plan : of the shot
    size : pixels of the delivered picture, across and down
    """
    count = len(order.frames)
    total, starts = order_seconds([order], plan, size), count * (plan.frame_model.load_seconds + plan.frame_model.fixed.mean)
    step = count // FEW
    if starts < MOSTLY * total or starts < WORTH_TELLING or step < 2:
        return ""
    fewer = len(order.frames[::step])
    return (
        f"{spoken(starts)} of the {spoken(total)} of this scan are starts of the renderer: "
        f"{fewer} frames, every {step}. of them, take {spoken(total * fewer / count)}"
    )
