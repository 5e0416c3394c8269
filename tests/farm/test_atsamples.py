"""The run of a proof with other samples, by the rules and by the command line."""

from __future__ import annotations

import json
import shutil

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.rows import Evidence
from hasty_reel.farm.atsamples import RunAtSamples, checked_samples, run_to_look_at
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.denoise import Denoising
from hasty_reel.pictures.frame import read_picture
from hasty_reel.reel.shot import ProofMark


@pytest.fixture(autouse=True)
def quickly(monkeypatch):
    """Frames without noise by a short window: what is done with them is looked at here, not how little noise they keep."""
    monkeypatch.setattr("hasty_reel.farm.atsamples.CALM", Denoising(1, False))


@pytest.fixture
def known(demo_reel, demo_evidence):
    return demo_reel.shot("sh020"), demo_evidence["sh020"]


def test_the_run_that_is_looked_at_has_two_seeds_and_the_densest_pixels(known):
    shot, evidence = known
    run = run_to_look_at(evidence, shot)
    assert run is not None and len(run.frames) >= 5 and run.frames == tuple(range(run.frames[0], run.frames[-1] + 1))
    assert all(len(run.proof.by_frame()[f]) > 1 for f in run.frames)
    assert run_to_look_at(Evidence(), shot) is None
    away = msgspec.structs.replace(shot, marks={run.proof.id: ProofMark(away=True)})
    other = run_to_look_at(evidence, away)
    assert other is None or other.proof.id != run.proof.id


def test_fewer_samples_are_noisier_by_the_root_and_finished_frames_calmer(known):
    shot, evidence = known
    run = run_to_look_at(evidence, shot)
    shown, frame = RunAtSamples(run), run.frames[len(run.frames) // 2]
    n0 = run.samples(frame)
    truth = np.mean([run.picture(frame, seed).rgb for seed in (0, 1)], axis=0)
    dim = truth < 0.3
    spread = {n: float(np.sqrt(np.mean((shown.as_rendered(frame, n).rgb - truth)[dim] ** 2))) for n in (n0 / 4, n0, 1.5 * n0)}
    # deviations from the mean of both seeds: sqrt(2 n0 / n - 1)
    assert spread[n0 / 4] / spread[n0] == pytest.approx(np.sqrt(7.0), rel=0.25)  # log-normal, by the deviation around
    assert spread[1.5 * n0] / spread[n0] == pytest.approx(np.sqrt(1.0 / 3.0), rel=0.1)
    assert shown.exact(2 * n0) and not shown.exact(2 * n0 + 1)
    finished = shown.finisher(Chain(window=3), n0 / 4)(frame).rgb
    raw = shown.as_rendered(frame, n0 / 4).rgb
    assert np.median(np.abs(np.diff(finished, axis=1))) < 0.7 * np.median(np.abs(np.diff(raw, axis=1)))
    clean = shown.as_rendered(frame, 64 * n0).rgb
    assert np.sqrt(np.mean((clean - truth)[dim] ** 2)) < spread[n0 / 4], "estimated, and calmer than few samples"


def test_samples_that_make_no_sense_are_refused():
    assert checked_samples(48.0, "--samples") == 48.0
    for wrong in (0.0, 1e9, float("nan")):
        with pytest.raises(WrongInput, match="expected 1 to 65536"):
            checked_samples(wrong, "--samples")


def test_by_the_command_line(demo_path, tmp_path, call):
    arguments = ["preview", demo_path, "--shot", "sh020", "--out", tmp_path / "look.####.exr", "--samples"]
    code, out, _ = call(*arguments, 4, "--json")
    told = json.loads(out)
    assert code == 0 and told["estimated"] is False and told["finished"] is False
    made = sorted(tmp_path.glob("look.*.exr"))
    assert len(made) >= 5
    code, _, err = call(*arguments, 4)
    assert code == 2 and "is there already" in err
    before = read_picture(made[2]).rgb
    code, out, err = call(*arguments, 400, "--finished", "--overwrite")
    assert code == 0 and "estimated" in err and "finished" in out
    assert read_picture(made[2]).rgb.std() < before.std()
    code, _, err = call(*arguments, 0)
    assert code == 2 and "expected 1 to 65536" in err
    code, _, err = call("preview", demo_path, "--shot", "sh020", "--samples", 4, "--out", tmp_path / "look.####.png")
    assert code == 2 and ".exr" in err


def test_a_shot_without_a_run_says_which_proof_to_make(demo_path, call, tmp_path):
    shutil.rmtree(demo_path.parent / "proofs" / "sh020")
    code, _, err = call("preview", demo_path, "--shot", "sh020", "--samples", 4, "--out", tmp_path / "look.####.exr")
    assert code == 2 and "proof --denoising" in err
