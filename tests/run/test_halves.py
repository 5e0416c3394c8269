"""Frames rendered as two halves: as clean as the whole, with their noise measured, for a second start."""

from __future__ import annotations

from dataclasses import replace

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import RendererFault
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.halves import NOISE, render_halves
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.measure.noise import noise_linear
from hasty_reel.pictures.frame import read_header
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_line
from hasty_reel.reel.file import read_reel
from hasty_reel.run.account import account_of
from hasty_reel.run.journal import read_journal
from hasty_reel.run.shotrun import Run
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken, silent

JOB = FrameJob("soft_corner", 1003, 64, 36, 32, Recipe(name="a", bounces=2, halves=1, shutter_steps=1, brightness_ceiling=0.5))


def test_the_mean_of_halves_is_as_noisy_as_the_whole_and_tells_its_noise():
    """Against pairs of whole pictures: noise from two seeds, as everywhere."""
    halved = [render_halves(render_on_bench, replace(JOB, seed=k), silent, None, None) for k in range(1, 21)]
    whole = [render_on_bench(replace(JOB, seed=k)) for k in range(121, 141)]
    of_whole, of_halved = (
        np.mean([noise_linear(p[k].picture.rgb, p[k + 1].picture.rgb) ** 2 for k in range(0, 20, 2)]) ** 0.5 for p in (whole, halved)
    )
    told = np.mean([float(h.picture.attributes[NOISE]) ** 2 for h in halved]) ** 0.5
    assert of_halved == pytest.approx(of_whole, rel=0.12) and told == pytest.approx(of_whole, rel=0.12)
    assert halved[0].picture.guides["samples"].mean() == 32 and halved[0].samples == 32
    assert halved[0].picture.attributes["hr:recipe"] == JOB.hash != replace(JOB, recipe=msgspec.structs.replace(JOB.recipe, halves=0)).hash


def test_a_renderer_that_takes_no_seed_is_told():
    with pytest.raises(RendererFault, match="its halves are the same picture; expected a renderer whose command takes the seed"):
        render_halves(lambda job, *_: render_on_bench(replace(job, seed=1)), JOB, silent, None, None)


def test_the_plan_counts_a_second_start_and_the_account_holds_noise_against_the_plan(small_path, tmp_path):
    reel = read_reel(small_path)
    for field, value in {"samples_ceiling": 32, "samples_floor": 16, "shutter_steps": 1}.items():
        reel = with_line(reel, "sh010", field, value)
    shot, evidence = reel.shot("sh010"), EvidenceReader().read(small_path.parent / reel.proofs, reel.shot("sh010"))
    model = ShotModel(evidence, shot.frames)
    plain = plan_shot(reel, shot, model)
    reel = with_line(reel, "sh010", "halves", 1)
    plan = plan_shot(reel, reel.shot("sh010"), model)
    assert (plan.load[1:] == pytest.approx(2 * plain.load[1:])) and (plan.samples % 2 == 0).all()
    run = Run(reel, plan, tmp_path / "out", list(range(1001, 1009)))
    run.go(lambda event: None, CancelToken())
    found = account_of(read_journal(run.folder.final.folder), run.states)
    assert len(found.noise) == 8 and 0.6 < np.median(list(found.noise.values())) < 1.5
    assert any(w.startswith("Noise measured in 8 frames before finishing: ") for w in found.words)
    assert float(read_header(run.folder.rendered.path(1003)).attributes[NOISE]) > 0
