"""A crop of each frame put into one that stands around them."""

from __future__ import annotations

import threading
import time
from pathlib import Path

import numpy as np
import pytest

from hasty_reel.errors import ReelError, RendererFault, WrongInput
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.plan.time.spread import total_draws
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_frames, with_line
from hasty_reel.reel.file import read_reel
from hasty_reel.run import around
from hasty_reel.run.asproof import run_as_proof
from hasty_reel.run.shotrun import Run
from hasty_reel.settings.recipe import Recipe, checked_recipe
from hasty_reel.work import CancelToken

CROP = {"crop_left": 25, "crop_right": 25, "crop_top": 50}


def planned(path: Path, last: int = 1005, **lines):
    reel = with_frames(read_reel(path), "sh010", 1001, last)
    for field, value in {"denoise_window": 1, "despike": 0, "sharpen": 0.0, **CROP, **lines}.items():
        reel = with_line(reel, "sh010", field, value)
    shot = reel.shot("sh010")
    model = ShotModel(EvidenceReader().read(path.parent / reel.proofs, shot), shot.frames)
    return reel, plan_shot(reel, shot, model, samples=np.full(len(shot.frames), 2))


def run_of(reel, plan, out: Path, renderer=render_on_bench, **more) -> Run:
    run = Run(reel, plan, out, renderer=renderer)
    run.go(lambda event: None, CancelToken(), **more)
    return run


def test_the_box_is_what_is_left_of_the_picture():
    assert Recipe(name="a").crop_box(200, 100) is None
    assert Recipe(name="a", **CROP).crop_box(200, 100) == (50, 50, 100, 50)
    with pytest.raises(ReelError, match="come to 100 %; expected at most 95 %"):
        checked_recipe(Recipe(name="a", crop_left=50, crop_right=50))


def test_a_crop_is_planned_by_its_share_of_the_pixels_and_the_middle_frame_whole(small_path):
    plan = planned(small_path)[1]
    whole = planned(small_path, **dict.fromkeys(CROP, 0))[1]
    middle = plan.index(plan.shot.middle)
    box = plan.recipe.crop_box(plan.width, plan.height)
    share = box[2] * box[3] / (plan.width * plan.height)
    assert share == pytest.approx(0.25, rel=0.1)
    assert plan.sample[middle] == whole.sample[middle] and plan.sample[0] == pytest.approx(share * whole.sample[0])
    assert total_draws(plan).mean() == pytest.approx(plan.total_seconds, rel=0.1)


def test_frames_are_the_crop_as_it_is_rendered_and_the_middle_frame_around_it(small_path, tmp_path):
    """To the last bit: a pixel has its own pattern of noise, wherever the crop begins."""
    reel, plan = planned(small_path)
    run = run_of(reel, plan, tmp_path / "crop", workers=2)
    assert set(run.states.values()) == {"finished"}
    x, y, w, h = run.around.box
    whole = planned(small_path, **dict.fromkeys(CROP, 0))
    with pytest.raises(WrongInput, match="in a crop, whose seconds tell nothing of others"):
        run_as_proof(tmp_path / "proofs", run, [])
    apart = run_of(*whole, tmp_path / "whole")
    around = read_picture(apart.folder.final.path(1003))
    for frame in (1001, 1005):
        found, alone = read_picture(run.folder.final.path(frame)), read_picture(apart.folder.final.path(frame))
        assert np.array_equal(found.rgb[y : y + h, x : x + w], alone.rgb[y : y + h, x : x + w])
        outside = np.ones(found.rgb.shape[:2], bool)
        outside[y : y + h, x : x + w] = False
        assert np.array_equal(found.rgb[outside], around.rgb[outside]) and not np.array_equal(found.rgb, around.rgb)
        assert found.attributes["hr:frame"] == f"{frame}"
    assert run.hash != apart.hash, "a crop makes other frames"


def test_tiles_of_a_crop_are_the_crop(small_path, tmp_path):
    plain = run_of(*planned(small_path, last=1003), tmp_path / "plain")
    tiled = run_of(*planned(small_path, last=1003, tiles=2), tmp_path / "tiled")
    assert np.array_equal(*(read_picture(r.folder.final.path(1001)).rgb for r in (plain, tiled)))


def test_a_run_goes_on_with_what_stands_around_the_others(small_path, tmp_path):
    """The middle frame is there already; where it is gone it is rendered again, and nothing else."""
    reel, plan = planned(small_path)
    run = run_of(reel, plan, tmp_path / "out")
    kept = read_picture(run.folder.final.path(1001)).rgb
    run.folder.final.path(1001).unlink()
    asked: list = []

    def watched(job, *more):
        asked.append((job.frame, job.crop is None))
        return render_on_bench(job, *more)

    again = run_of(reel, plan, tmp_path / "out", watched)
    assert asked == [(1001, False)] and np.array_equal(read_picture(again.folder.final.path(1001)).rgb, kept)


def test_part_of_a_shot_has_the_middle_frame_too(small_path, tmp_path):
    reel, plan = planned(small_path)
    run = Run(reel, plan, tmp_path / "out", [1001])
    assert run.frames == [1001, 1003]


def test_where_the_middle_frame_cannot_be_had_none_can(small_path, tmp_path):
    def failing(job, *more):
        if job.crop is None:
            raise RendererFault("No light.")
        return render_on_bench(job, *more)

    reel, plan = planned(small_path)
    run = run_of(reel, plan, tmp_path / "out", failing, workers=2)
    assert set(run.states.values()) == {"failed"} and run.faults[1003] == "No light."
    assert run.faults[1001] == "Frame 1003, which stands around the crop, failed."


def test_crops_that_wait_for_the_frame_around_them_do_not_fill_the_memory(small_path, tmp_path, monkeypatch):
    """With room for one, a second is begun when that frame is there; that fails at first and is tried again before any other."""
    monkeypatch.setattr(around, "MOST_WAITING", 1)
    reel, plan = planned(small_path)
    begun, came = [], threading.Event()

    def watched(job, *more):
        begun.append((job.frame, job.crop is None))
        if job.crop is not None:
            done = render_on_bench(job, *more)
            came.set()
            return done
        if came.wait(30) and begun.count((1003, True)) == 1:
            time.sleep(1.0)  # others would be begun meanwhile
            raise RendererFault("No light.")
        return render_on_bench(job, *more)

    run = run_of(reel, plan, tmp_path / "out", watched, workers=2)
    assert set(run.states.values()) == {"finished"}
    assert begun[:4] == [(1003, True), (1001, False), (1002, False), (1003, True)] and len(begun) == 6, "one always lies ready"
