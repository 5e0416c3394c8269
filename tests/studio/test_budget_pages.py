"""Light caches placed by the view, and where frames stop at noise: what is said, typed, taken and undone."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from hasty_reel.evidence.places import places_of
from hasty_reel.plan.frames.stopmap import map_of
from hasty_reel.studio.budget.lightcaches import LightCacheModel
from hasty_reel.studio.budget.motionsize import MotionSizeModel
from hasty_reel.studio.budget.stopmap import StopMapModel


def test_light_caches_are_placed_and_let_go(session, loop):
    motion = MotionSizeModel(session)
    model = LightCacheModel(session, motion)
    model.watch(True)
    loop.until(lambda: motion.found is not None and not motion.stale)
    assert model.words.startswith("The light cache is off") and not model.risk
    model.place()
    assert session.shot.caches == (), "where it is off there is nothing to place"
    session.set_line("cache_step", 5)
    loop.until(lambda: not session.planner.stale and not motion.stale)
    assert model.words == "20 light caches, on every 5th frame and the last; each frame blends the nearest 2."
    assert "A fixed step that leaves no more is " in model.offer and "pumps" in model.risk and "No proofs with and without" in model.risk
    model.type_share("0,5 %")
    assert session.heard[-1] == "New picture: '0,5 %'; expected 1 to 100 %." and model.share == 0.25
    model.place()
    assert session.shot.caches == model.placing.placed and model.stands and "placed by the view" in model.words
    loop.until(lambda: not session.planner.stale and not motion.stale)
    model.by_step()
    assert session.shot.caches == () and session.history.undo_name == "Light caches by step"
    model.watch(False)


def test_where_a_frame_stops_is_seen_and_set(session, loop):
    model = StopMapModel(session)
    model.watch(True)
    loop.until(lambda: model.found is not None and not model.stale)
    found = model.found
    assert not found.measured and found.samples.shape == found.places.variance.shape
    assert found.low == found.samples.min() and found.samples.max() == found.high == session.plan.samples[0]
    assert model.words.startswith(f"Stop at noise is off; at {found.stop:.3g} ") and "foretold from two seeds" in model.words
    assert 0.4 < found.ended < 0.6, "in balance"
    model.type_stop("nothing")
    assert session.heard[-1].startswith("Stop at noise: 'nothing'; expected a number above 0")
    model.type_stop("0.05")
    loop.until(lambda: not model.stale and model.found.stop == 0.05)
    assert model.found.ended > found.ended and model.found.samples.mean() < found.samples.mean()
    model.take()
    assert session.recipe.stop_noise == 0.05
    loop.until(lambda: not session.planner.stale and not model.stale)
    assert model.words.startswith("Stop at noise 0.05: ")
    model.watch(False)


def test_the_map_counts_what_the_budget_counts(session):
    """The same rule for a place and for shares of a histogram: their means agree, on the frame of a proof at its own samples."""
    evidence = session.evidence
    places = places_of(evidence, 1060)
    assert places.frame == 1060 and places.took is None
    stop = float(np.sqrt(places.variance.mean() / 40.0))
    found = map_of(session.plan, places, stop)
    step = max(1, session.recipe.sample_step)
    assert (found.samples % step == 0).mean() > 0.5
    row = next(r for r in evidence.frames if r.frame == 1060 and r.proof == places.proof)
    assert places.variance.mean() == pytest.approx(row.variance, rel=0.1), "chance is taken out, the mean is kept but for the borders"
    counted = replace(places, took=np.full(places.variance.shape, 7.0), stop=stop)
    told = map_of(session.plan, counted, stop)
    assert told.measured and told.samples.max() == 7.0
    assert map_of(session.plan, None, stop) is None
