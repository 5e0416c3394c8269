"""Light caches of a run: each is computed once for all workers, before the frames that blend it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from hasty_reel.bench.moment import LightCache
from hasty_reel.errors import RendererFault
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.halves import render_halves
from hasty_reel.farm.renderers.bench import caches_on_bench, render_on_bench
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_frames, with_line
from hasty_reel.reel.file import read_reel
from hasty_reel.run.cachepass import CachePass
from hasty_reel.run.journal import CACHED, read_journal
from hasty_reel.run.shotrun import Run
from hasty_reel.run.simulated import SimulatedCrew, SimulatedMachine
from hasty_reel.work import CancelToken, silent


def planned(path: Path, last: int = 1012, **lines):
    """A plan of the small reel with a light cache on every fourth frame, blended over the nearest two, a cache of 3 s."""
    reel = with_frames(read_reel(path), "sh010", 1001, last)
    for field, value in {"denoise_window": 1, "despike": 0, "sharpen": 0.0, "cache_step": 4, "cache_blend": 2, **lines}.items():
        reel = with_line(reel, "sh010", field, value)
    shot = reel.shot("sh010")
    model = ShotModel(EvidenceReader().read(path.parent / reel.proofs, shot), shot.frames)
    plan = plan_shot(reel, shot, model, samples=np.full(len(shot.frames), 2))
    owners = np.isin(plan.frames, [1001, 1005, 1009, last])
    return reel, replace(plan, cache=3.0 * owners)


def paint(task) -> RenderedFrame:
    if task.caches:
        return RenderedFrame(
            Picture(np.zeros((1, 1, 3), np.float32)), 0.0, 0.0, 3.0, light_caches=(LightCache(task.job.frame, 1, np.ones(1)),)
        )
    rgb = np.full((task.job.height, task.job.width, 3), 0.5, np.float32)
    return RenderedFrame(Picture(rgb, {}, {"hr:recipe": task.job.hash, "hr:frame": f"{task.job.frame}"}), 0.0, 0.01)


told: list = []


class Watched(SimulatedCrew):
    """Simulated machines that remember what they were given, and when."""

    def begin(self, task, cancel) -> None:
        told.append((self.clock, task))
        super().begin(task, cancel)


def test_each_cache_is_computed_once_and_before_the_frames_that_blend_it(small_path, tmp_path):
    reel, plan = planned(small_path)
    run = Run(reel, plan, tmp_path / "out")
    told.clear()
    crew = Watched([SimulatedMachine(f"m{k}") for k in range(3)], paint)
    events: list = []
    run.go(events.append, CancelToken(), crew=crew)
    cached = [t.frame for _, t in told if t.caches]
    assert sorted(cached) == [1001, 1005, 1009, 1012], "once for three machines"
    ends = {e.frame: k for k, e in enumerate(events) if e.state == CACHED}
    pictures = {t.frame: t for _, t in told if not t.caches}
    assert sorted(pictures) == list(range(1001, 1013))
    for frame, task in pictures.items():
        first = next(k for k, e in enumerate(events) if e.frame == frame and e.state == "rendering")
        assert all(ends[owner] < first for owner in run.caches.needed(frame)), "its caches are there before it begins"
        assert [c.frame for c in task.job.moment.given] == [run.shot.scene_frame(o) for o in run.caches.needed(frame)]
    lines = [x for x in read_journal(run.folder.final.folder) if x.what == CACHED]
    assert sorted(x.frame for x in lines) == [1001, 1005, 1009, 1012] and all(x.planned == 3.0 for x in lines)
    whole = sum(t.planned for _, t in told)
    assert whole == pytest.approx(float((plan.seconds - plan.denoise).sum()), rel=1e-6), "what the plan prices is what is worked"


def test_what_is_left_counts_caches_that_are_not_there_yet(small_path, tmp_path):
    reel, plan = planned(small_path)
    run = Run(reel, plan, tmp_path / "out")
    whole = run.seconds_left
    assert whole == pytest.approx(float(plan.seconds.sum()), rel=1e-6)
    run.caches.took(1001, ())
    assert whole - run.seconds_left == pytest.approx(3.0, rel=1e-3)


def test_frames_are_the_same_whoever_computes_their_caches(small_path, tmp_path):
    """Two workers with caches given to them, against a frame that a renderer makes alone."""
    reel, plan = planned(small_path, last=1004)
    run = Run(reel, plan, tmp_path / "out")
    run.go(lambda event: None, CancelToken(), workers=2)
    for frame in (1002, 1004):
        alone = render_on_bench(run.job(frame))
        assert alone.cache_seconds > 0
        there = read_picture(run.folder.final.path(frame))
        assert there.rgb == pytest.approx(alone.picture.rgb, rel=2e-3, abs=1e-4)


def test_halves_have_caches_of_their_own(small_path, tmp_path):
    reel, plan = planned(small_path, last=1004, halves=1)
    run = Run(reel, plan, tmp_path / "out")
    made = caches_on_bench(run.cache_task(1001).job)
    assert [c.pattern for c in made.light_caches] == [1, 2] and not np.array_equal(*(c.light for c in made.light_caches))
    run.caches.took(1001, made.light_caches)
    run.caches.took(1004, caches_on_bench(run.cache_task(1004).job).light_caches)
    given = render_halves(render_on_bench, run.task(1002, False).job, silent, None, None)
    assert given.cache_seconds < 0.2 * made.cache_seconds, "both halves take what is there"


def test_a_cache_that_fails_costs_no_frame(small_path, tmp_path):
    class Failing(SimulatedCrew):
        def _outcome(self, ending, error, made=None, lost=False):
            fault = RendererFault("No light.") if ending.task.caches and ending.task.frame == 1005 else error
            return super()._outcome(ending, fault, None if fault else made, lost)

    reel, plan = planned(small_path)
    run = Run(reel, plan, tmp_path / "out")
    events: list = []
    run.go(events.append, CancelToken(), crew=Failing([SimulatedMachine("a")], paint))
    assert set(run.states.values()) == {"finished"}
    assert any(e.words == "Light cache of frame 1005: No light. Frames compute it themselves." for e in events)


def test_caches_that_no_frame_needs_any_more_are_let_go(small_path, tmp_path):
    reel, plan = planned(small_path)
    caches, one = CachePass(plan), (LightCache(1, 1, np.ones(1)),)
    for owner in (1001, 1005, *range(2000, 2100)):
        caches.took(owner, one)
    caches.forget([1002, 1003])
    run = Run(reel, plan, tmp_path / "out")
    assert len(caches.given(run.job(1002), 1002).moment.given) == 2
    assert caches.there(1001) and caches.there(1009) is False
    caches.forget([1011])
    assert caches.given(run.job(1002), 1002).moment.given == ((*one, *one)), "few are left: they stay"
