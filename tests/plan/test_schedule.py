"""Frames that cannot be divided over machines: facts of the trade, a simulation event by event, bounds of list scheduling."""

from __future__ import annotations

from datetime import UTC, datetime

import msgspec
import numpy as np
import pytest

from hasty_reel.plan.compare.wouldhelp import would_help
from hasty_reel.plan.shot import plan_shot
from hasty_reel.plan.time.deadline import deadline
from hasty_reel.plan.time.schedule import FAR, Ahead, Hours, Worker, best_chunk, scheduled
from hasty_reel.predict.model import ShotModel


def ahead(count: int, seconds, own: float = 0.0, shared: float = 0.0, load: float = 0.0) -> Ahead:
    return Ahead(np.full(count, 1.0) * seconds, np.full(count, own), shared, np.full(count, load))


def always(machines: int) -> Hours:
    at = np.array([0.0, FAR])
    return Hours(at, np.tile(at, (machines, 1)))


def test_forty_frames_of_twenty_minutes_on_twelve_machines_take_eighty():
    """Four rounds of twelve, not 40 * 20 / 12 = 67 minutes (common practice, no source)."""
    found = scheduled(ahead(40, 1200), [Worker(k) for k in range(12)], always(12), 1, 1)
    assert found.ready[0] == 80 * 60 and found.frames[0].sum() == 40 and found.worked.sum() == 40 * 1200


def test_a_frame_under_way_goes_on_in_the_next_free_hours():
    """Free for an hour, an hour not, then free: 50 minutes are done, of the second frame 10 before the pause and 40 after it."""
    hours = Hours(np.array([0, 3600.0, 7200, 90000]), np.array([[0, 3600.0, 3600, 86400]]))
    assert scheduled(ahead(2, 3000), [Worker(0)], hours, 1, 1).ready[0] == 7200 + 2400
    assert scheduled(ahead(2, 1800), [Worker(0)], hours, 1, 1).ready[0] == 3600, "just done when it closes"
    closed = Hours(np.array([0, 3600.0, 7200]), np.array([[0, 0, 3600.0], [0, 3600.0, 3600]]))
    found = scheduled(ahead(3, 1800), [Worker(0), Worker(1)], closed, 1, 1)
    assert found.frames[0].tolist() == [1, 2] and found.ready[0] == 3600 + 1800, "the first one opens after an hour"


def test_a_frame_that_would_be_cut_short_goes_to_who_ends_it_sooner():
    """The first machine closes in ten minutes and opens the next day; the second is busy for an hour, and then takes the last frame."""
    hours = Hours(np.array([0, 4200.0, 86400, 200000]), np.array([[0, 4200.0, 4200, 117800], [0, 4200.0, 86400, 200000]]))
    found = scheduled(ahead(3, 3600), [Worker(0), Worker(1)], hours, 1, 1)
    assert found.ready[0] == 7200 and found.frames[0].tolist() == [1, 2]


def test_what_never_gets_ready_is_told():
    hours = Hours(np.array([0, 3600.0, 7200]), np.array([[0, 3600.0, 3600]]))
    found = scheduled(ahead(3, 3000), [Worker(0)], hours, 1, 1)
    assert found.quantile(0.5) == float("inf") and found.chance(1e9) == 0.0


def by_events(seconds, load, speeds, spans, chunk) -> float:
    """One run, event by event: the worker that can begin first takes the next chunk, if it can end it in one go."""

    def begin(k: int, t: float) -> float:
        for a, b in spans[k]:
            if t < b:
                return max(a, t)
        return np.inf

    def end(k: int, t: float, work: float) -> float:
        for a, b in spans[k]:
            if t >= b:
                continue
            t = max(a, t)
            if t + work <= b:
                return t + work
            work -= b - t
            t = b
        return np.inf

    free = {k: begin(k, 0.0) for k in range(len(speeds))}
    ready = 0.0
    for first in range(0, len(seconds), chunk):
        work = seconds[first : first + chunk].sum() + load[first]
        k = min(free, key=lambda w: free[w])
        if end(k, free[k], work / speeds[k]) > free[k] + work / speeds[k] + 1e-3:
            k = min(free, key=lambda w: end(w, free[w], work / speeds[w]))
        done = end(k, free[k], work / speeds[k])
        ready = max(ready, done)
        free[k] = begin(k, done)
    return ready


@pytest.mark.parametrize("seed", range(8))
def test_it_is_what_a_simulation_event_by_event_gives(seed):
    rng = np.random.default_rng(seed)
    count, machines, chunk = int(rng.integers(5, 60)), int(rng.integers(1, 6)), int(rng.integers(1, 5))
    seconds, load = rng.uniform(50, 900, count), rng.uniform(0, 60, count)
    speeds = rng.uniform(0.5, 3.0, machines)
    spans, edges = [], {0.0, 1e6}
    for _ in range(machines):
        cuts = np.sort(rng.choice(np.arange(1, 200), 6, replace=False)) * 300.0
        spans.append([(cuts[0], cuts[1]), (cuts[2], cuts[3]), (cuts[4], 1e12)])
        edges |= {float(c) for c in cuts}
    at = np.array(sorted(edges))
    middle = (at[:-1] + at[1:]) / 2
    free = np.zeros((machines, len(at)))
    for row, of in zip(free, spans):
        row[1:] = np.cumsum(np.diff(at) * [any(a <= m < b for a, b in of) for m in middle])
    work = Ahead(seconds, np.zeros(count), 0.0, load)
    found = scheduled(work, [Worker(k, s) for k, s in enumerate(speeds)], Hours(at, free), chunk, 3)
    assert found.ready == pytest.approx(by_events(seconds, load, speeds, spans, chunk), rel=1e-6)


def test_spread_and_failures_are_drawn():
    """Shared spread does not average out, own does; a frame that fails one time in five takes 1.24 times as long: three tries at most."""
    workers, hours = [Worker(k) for k in range(4)], always(4)
    shared, own = (scheduled(ahead(400, 60, **{k: 0.2}), workers, hours, 1, 600).ready for k in ("shared", "own"))
    assert np.std(np.log(shared)) == pytest.approx(0.2, rel=0.1) and np.std(np.log(own)) < 0.02
    failing = scheduled(ahead(400, 60), [Worker(k, 1.0, 0.2) for k in range(4)], hours, 1, 200)
    assert failing.worked.sum(axis=1).mean() == pytest.approx(400 * 60 * (1 + 0.2 + 0.04), rel=0.01)


def test_chunks_trade_loading_against_idle_machines():
    """With a dear start a chunk each; with none single frames, whose last ones end closest together."""
    workers, hours = [Worker(k) for k in range(8)], always(8)
    assert best_chunk(ahead(100, 60, own=0.3, load=600), workers, hours) >= 12
    assert best_chunk(ahead(100, 600, own=0.3), workers, hours) == 1


def test_list_scheduling_stays_within_its_bound():
    """At most 2 - 1/m times the work divided evenly, or the longest frame (Graham 1969, from memory)."""
    for seed in range(20):
        rng = np.random.default_rng(seed)
        seconds, m = rng.exponential(300, 50), int(rng.integers(2, 9))
        found = scheduled(Ahead(seconds, np.zeros(50), 0.0, np.zeros(50)), [Worker(k) for k in range(m)], always(m), 1, 1).ready[0]
        best = max(seconds.sum() / m, seconds.max())
        assert best <= found + 1e-3 <= (2 - 1 / m) * best + 1e-2


def test_what_would_help_is_told_with_its_time(noise_reel, demo_evidence):
    """Twice the same machine halves the clock; a tenth fewer samples take a tenth off; what does not help is not told."""
    reel = msgspec.structs.replace(noise_reel, machines=(msgspec.structs.replace(noise_reel.machines[0], speed=1.0, workers=1, free=()),))
    plans = {s.id: plan_shot(reel, s, ShotModel(demo_evidence[s.id], s.frames)) for s in reel.shots[:2]}
    start = datetime(2026, 11, 24, 12, tzinfo=UTC)
    now = deadline(reel, plans, start)
    helps = {h.words: h for h in would_help(reel, plans, now, start)}
    assert list(helps) == [f"One more machine like {reel.machines[0].name}", "10 % fewer samples, 5 % more noise"]
    assert helps[f"One more machine like {reel.machines[0].name}"].when.seconds9 == pytest.approx(now.seconds9 / 2, rel=0.02)
    assert helps["10 % fewer samples, 5 % more noise"].when.seconds9 == pytest.approx(0.9 * now.seconds9, rel=0.03)
    assert "ready " in next(iter(helps.values())).told
