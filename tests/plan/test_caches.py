"""Light caches placed by how fast the view changes, and what a reel keeps of them."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations, pairwise

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.motion import FrameSpeed, fresh_share
from hasty_reel.evidence.relight import Relight, relights_of
from hasty_reel.farm.job import FrameJob, moment_of
from hasty_reel.plan.frames.caches import LIGHT, placed_by_view, placing_of
from hasty_reel.plan.shot import cache_seconds, plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.caching import cache_frames, owners_of
from hasty_reel.reel.edits import with_caches, with_first, with_frames, with_line


def test_what_comes_in_and_what_is_uncovered_is_new():
    """A pan of 8 of 96 columns shows a twelfth anew; a bar that moves on uncovers its width; going nearer uncovers nothing."""
    h, w = 54, 96
    assert fresh_share(np.full((h, w), -8.0), np.zeros((h, w))) == pytest.approx(8 / 96)
    across = np.zeros((h, w))
    across[20:40, 30:50] = 6.0
    assert fresh_share(across, np.zeros((h, w))) == pytest.approx(20 * 6 / (h * w), rel=0.02)
    rows, columns = np.indices((h, w)).astype(float)
    assert fresh_share(0.1 * (columns - w / 2), 0.1 * (rows - h / 2)) == 0.0
    assert fresh_share(np.full((h, w), 200.0), np.zeros((h, w))) == 1.0


def test_an_even_view_has_even_steps_and_the_fewest_caches_keep_the_share():
    """Against every choice of owners on a short shot: none with fewer caches keeps the share."""
    frames = np.arange(1, 241)
    assert placed_by_view(frames, np.full(240, 0.05), 0.25) == tuple(cache_frames(1, 240, 5)), "5 frames at 5 % are 25 %"
    assert placed_by_view(frames, np.zeros(240), 0.25) == (1, 240)
    assert placed_by_view(np.array([7]), np.zeros(1), 0.25) == (7,)
    fresh = np.random.default_rng(4).uniform(0.0, 0.2, 12)
    fresh[0] = 0.0
    placed = placed_by_view(np.arange(12), fresh, 0.3)

    def keeps(owners: tuple[int, ...]) -> bool:
        return all(fresh[a + 1 : b + 1].sum() <= 0.3 + 1e-9 for a, b in pairwise(owners))

    assert keeps(placed)
    inner = len(placed) - 3
    assert inner >= 0 and not any(keeps((0, *some, 11)) for some in combinations(range(1, 11), inner))


def test_light_that_changes_takes_caches_where_nothing_moves(noise_reel, demo_evidence):
    shot = noise_reel.shot("sh010")
    plan = plan_shot(noise_reel, shot, ShotModel(demo_evidence["sh010"], shot.frames))
    still = [FrameSpeed(float(f), 0.0, 0.0) for f in (1001, 1096)]
    alone = placing_of(plan, still)
    assert alone.placed == (1001, 1096) and alone.same_as_step == 95
    lit = placing_of(plan, still, [Relight(1041.0, 1051.0, 5 * LIGHT)])
    assert [f for f in lit.placed if 1041 < f < 1051] == [1043, 1045, 1047, 1049], "a fifth of the change is two frames"
    assert lit.light(lit.placed) <= LIGHT + 1e-9 and lit.since(lit.placed).max() <= 1.0 and lit.same_as_step == 2
    assert placing_of(plan, []) is None
    told = relights_of(demo_evidence["sh010"])
    assert len(told) > 8 and max(told, key=lambda s: s.change / (s.last - s.first)).first == pytest.approx(1048, abs=8), "the lamp wakes"


def test_a_reel_keeps_where_caches_are_and_the_plan_and_the_renderer_take_them(noise_reel, demo_evidence):
    with pytest.raises(WrongInput, match="light cache at frame 5; expected a frame of the shot"):
        with_caches(noise_reel, "sh010", (5,))
    reel = with_caches(with_line(noise_reel, "sh010", "cache_step", 5), "sh010", (1096, 1001, 1040))
    shot = reel.shot("sh010")
    recipe = reel.recipe_of(shot)
    assert owners_of(shot, recipe) == [1001, 1040, 1096]
    model = ShotModel(demo_evidence["sh010"], shot.frames)
    at = plan_shot(reel, shot, model).frame_model

    paid = cache_seconds(shot, recipe, replace(at, cache_seconds=2.0))
    assert {int(f): s for f, s in zip(at.frames, paid) if s} == {1001: 2.0, 1040: 2.0, 1096: 2.0}
    halved = msgspec.structs.replace(shot, step=3)
    thirds = replace(at, frames=np.array(halved.frames), cache_seconds=2.0)
    assert cache_seconds(halved, recipe, thirds).sum() == 6.0, "a cache on a frame that is not rendered is paid by the one before"

    def job(of):
        return FrameJob(of.scene, 1010, 96, 54, 8, recipe, moment=moment_of(of, recipe, 1010))

    assert job(shot).moment.owners == tuple(f - shot.offset for f in (1001, 1040, 1096))
    assert job(shot).hash != job(noise_reel.shot("sh010")).hash, "frames of other caches are other frames"
    assert with_first(reel, "sh010", 2001).shot("sh010").caches == (2001, 2040, 2096)
    assert with_frames(reel, "sh010", 1001, 1050, 1).shot("sh010").caches == (1001, 1040)
    assert with_line(reel, "sh010", "cache_step", 10).shot("sh010").caches == (), "a step that is asked for counts"
    assert owners_of(shot, noise_reel.recipe_of(noise_reel.shot("sh010"))) == [], "off is off"
