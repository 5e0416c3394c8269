"""Frames rendered in tiles: the same picture, for a start of the scene each."""

from __future__ import annotations

from dataclasses import replace

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import RendererFault
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.halves import render_halves
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.farm.renderers.links import BY_COMMAND
from hasty_reel.farm.tiles import in_tiles, tile_crops
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.memory import memory_ahead
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_line
from hasty_reel.reel.file import read_reel
from hasty_reel.run.shotrun import Run
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken, silent

JOB = FrameJob("soft_corner", 1003, 50, 29, 8, Recipe(name="a", bounces=2, tiles=3, shutter_steps=2))


def test_tiles_cover_a_picture_once():
    for width, height, side in ((50, 29, 3), (7, 2, 16), (96, 54, 1)):
        count = np.zeros((height, width), int)
        for x, y, w, h in tile_crops(width, height, side):
            assert w > 0 and h > 0
            count[y : y + h, x : x + w] += 1
        assert (count == 1).all()


def test_tiles_put_together_are_the_whole_picture_to_the_last_bit():
    whole, tiled = render_on_bench(JOB), in_tiles(render_on_bench)(JOB, silent, None, None)
    np.testing.assert_array_equal(tiled.picture.rgb, whole.picture.rgb)
    assert set(tiled.picture.guides) == set(whole.picture.guides)
    for name, plane in whole.picture.guides.items():
        np.testing.assert_array_equal(tiled.picture.guides[name], plane)
    assert tiled.picture.attributes["hr:recipe"] == JOB.hash and tiled.samples == whole.samples
    assert JOB.hash == replace(JOB, recipe=msgspec.structs.replace(JOB.recipe, tiles=1)).hash, "it is the same picture"
    fine = replace(JOB, samples=16)
    halves = [render_halves(renderer, fine, silent, None, None).picture.rgb for renderer in (in_tiles(render_on_bench), render_on_bench)]
    np.testing.assert_array_equal(*halves)


def test_a_renderer_by_command_crops_or_says_that_it_does_not():
    two = replace(JOB, recipe=msgspec.structs.replace(JOB.recipe, tiles=2))
    outside = in_tiles(renderer_of(BY_COMMAND))(two, silent, None, None)
    assert np.allclose(outside.picture.rgb, render_on_bench(two).picture.rgb, rtol=2e-3, atol=1e-4), "half floats in between"
    k = BY_COMMAND.command.index("--crop")
    without = msgspec.structs.replace(BY_COMMAND, name="Plain", command=(*BY_COMMAND.command[:k], *BY_COMMAND.command[k + 2 :]))
    with pytest.raises(
        RendererFault, match=r"Renderer link 'Plain': its command takes no \{crop\}; expected one to render a part of a frame"
    ):
        in_tiles(renderer_of(without))(two, silent, None, None)
    with pytest.raises(RendererFault, match=r"Frame 1003: a tile is 50x29; expected 25x14 from a renderer whose command takes the crop"):
        in_tiles(lambda job, *_: render_on_bench(replace(job, crop=None)))(two, silent, None, None)


def test_the_plan_counts_a_start_for_each_tile_and_finals_are_whole(small_path, tmp_path):
    reel = read_reel(small_path)
    shot = reel.shot("sh010")
    model = ShotModel(EvidenceReader().read(small_path.parent / reel.proofs, shot), shot.frames)
    plain = plan_shot(reel, shot, model)
    reel = with_line(reel, "sh010", "tiles", 2)
    plan = plan_shot(reel, reel.shot("sh010"), model)
    assert plan.load[1:] == pytest.approx(4 * plain.load[1:])
    run = Run(reel, plan, tmp_path / "out", [1001, 1002])
    run.go(lambda event: None, CancelToken())
    assert read_picture(run.folder.final.path(1001), ()).rgb.shape == (54, 96, 3)


def test_proofs_are_rendered_in_tiles_no_larger_than_those_of_finals(small_path, tmp_path):
    """At full size in as many, at a quarter of the width whole; the same pictures, and seconds and memory of a start each."""
    reel = with_line(read_reel(small_path), "sh010", "tiles", 3)
    shot, made = reel.shot("sh010"), {}
    for scale, tiles in ((100.0, 3), (50.0, 2), (25.0, 1)):
        asked: list = []

        def counted(job, *more, asked=asked):
            asked.append(job.crop)
            return replace(render_on_bench(job, *more), load_seconds=2.0, memory_bytes=1 << 20)

        order = ProofOrder(shot, reel.recipe_of(shot), (1001,), 4, scale, seeds=1)
        made[tiles] = make_proof(reel, tmp_path, order, counted)
        assert made[tiles].tiles == tiles and len(asked) == tiles**2 and made[tiles].pictures[0].load_seconds == pytest.approx(2.0)
    whole = make_proof(reel, tmp_path, replace(order, scale=100.0, recipe=msgspec.structs.replace(order.recipe, tiles=1)))
    one, other = (read_picture(tmp_path / "sh010" / p.id / p.pictures[0].file, ()).rgb for p in (made[3], whole))
    assert np.array_equal(one, other)
    ahead = memory_ahead([made[3], made[1]], 96 * 54 / 9)
    assert ahead.bytes == pytest.approx(1 << 20, rel=0.01), "of a tile, not of a frame"
