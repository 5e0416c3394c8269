"""Runs and proofs on disk: go on where it stopped, tell what is not ours, keep what is finished."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import time
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import pytest

from hasty_reel.bench import render as bench_render
from hasty_reel.bench.render import ready, render
from hasty_reel.errors import HastyReelError, RendererFault, Stopped, WrongInput
from hasty_reel.evidence.proof import read_effects, read_proof
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.pictures.frame import read_header, read_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.programs.ownsteps import OWN_STEPS, OwnStep
from hasty_reel.reel.edits import with_finish_order, with_first, with_line
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.run.framestate import FAILED, FINISHED, OTHER, RENDERED, RENDERING, WAITING
from hasty_reel.run.shotrun import Run
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken


def test_kernels_are_loaded_before_a_picture_is_timed(monkeypatch):
    """Else the first frame of a proof seems several times as dear as the next, and so do all frames near it."""
    loaded = []

    def watched(*given, **named):
        loaded.append(ready.cache_info().currsize)
        return render(*given, **named)

    ready.cache_clear()
    monkeypatch.setattr(bench_render, "render", watched)
    made = render_on_bench(FrameJob("soft_corner", 1001, 16, 9, 2, Recipe(name="a", bounces=2)))
    assert loaded == [0, 1] and made.sample_seconds > 0


def prepared(path, shot_id="sh010", **lines):
    reel = read_reel(path)
    for field, value in lines.items():
        reel = with_line(reel, shot_id, field, value)
    shot = reel.shot(shot_id)
    evidence = EvidenceReader().read(path.parent / reel.proofs, shot)
    return reel, plan_shot(reel, shot, ShotModel(evidence, shot.frames))


def go(run: Run, cancel: CancelToken | None = None, **more) -> list:
    events = []
    run.go(events.append, cancel or CancelToken(), **more)
    return events


def test_frames_are_rendered_and_finished_at_the_delivered_size(small_path, tmp_path):
    reel, plan = prepared(small_path, render_scale=75.0)
    run = Run(reel, plan, tmp_path / "out", [1001, 1002, 1003])
    go(run)
    assert set(run.states.values()) == {FINISHED}
    final = read_picture(run.folder.final.path(1002))
    assert (final.width, final.height) == (96, 54)
    rendered = read_picture(run.folder.rendered.path(1002))
    assert (rendered.width, rendered.height) == (72, 40) and "motion.X" in rendered.guides
    assert rendered.attributes["hr:samples"] == plan.samples[1]
    assert run.seconds_left == 0.0 and run.share_done == 1.0


def test_places_stop_at_noise_in_final_frames_as_the_plan_counts_them(small_path, tmp_path):
    reel, plan = prepared(small_path, denoise_window=1, stop_noise=0.01, samples_floor=8, samples_ceiling=256, shutter_steps=0)
    whole = prepared(small_path, denoise_window=1, samples_floor=8, samples_ceiling=256, shutter_steps=0)[1]
    assert (plan.mean_samples < plan.samples).any() and plan.total_seconds < whole.total_seconds
    run = Run(reel, plan, tmp_path / "out", [1003])
    go(run)
    told = float(read_header(run.folder.final.path(1003)).attributes["hr:samples"])
    assert told == pytest.approx(45.0, rel=0.15) and plan.mean_samples[2] == pytest.approx(told, rel=0.15)


def test_a_time_cap_of_the_recipe_bounds_plan_and_final_frames(small_path, tmp_path):
    dear = prepared(small_path, denoise_window=1, samples_ceiling=512)[1]
    cap = float(np.round(dear.seconds.max() * 0.7, 2))
    reel, plan = prepared(small_path, denoise_window=1, samples_ceiling=512, time_cap=cap)
    assert (plan.seconds <= cap * (1 + 1e-9)).all() and (plan.samples < dear.samples).any()
    made = Run(reel, plan, tmp_path / "out", [1001]).job(1001)
    assert made.cap == cap and made.floor == plan.recipe.samples_floor


@pytest.mark.parametrize("folder", [False, True])
def test_a_run_takes_the_artists_own_steps_and_tells_frames_by_them(small_path, tmp_path, folder):
    """Doubled light on each frame, and on the folder once all frames are there; with another command they are other frames."""
    order = ("despike", "Grade", "denoise", "resize", "sharpen")
    plain, plan = prepared(small_path, denoise_window=1)
    usual = Run(plain, plan, tmp_path / "plain", [1001, 1002])
    go(usual)
    script = Path(__file__).parent.parent / "own_step.py"
    command = (sys.executable, str(script), "{input}", "{output}", "double")
    OWN_STEPS.save(OWN_STEPS.shipped.added(OwnStep(name="Grade", command=command, folder=folder)))
    save_reel(small_path, with_finish_order(read_reel(small_path), "sh010", order))
    reel, plan = prepared(small_path, denoise_window=1)
    assert "denoise_window" in plan.unproven, "no run tried this chain"
    run = Run(reel, plan, tmp_path / "out", [1001, 1002])
    events = go(run)
    assert [e.state for e in events].count(FINISHED) == 2
    a, b = (read_picture(r.folder.final.path(1002)) for r in (run, usual))
    assert a.rgb == pytest.approx(2 * b.rgb, rel=0.01) and "Grade" in a.attributes["hr:finish"]
    assert set(Run(reel, plan, tmp_path / "out", [1001, 1002]).states.values()) == {FINISHED}
    OWN_STEPS.save(OWN_STEPS.shipped.added(OwnStep(name="Grade", command=(*command[:-1], "fail"), folder=folder)))
    other = Run(reel, plan, tmp_path / "out", [1001, 1002])
    assert set(other.states.values()) == {OTHER}
    go(other)
    assert set(other.states.values()) == {FAILED} and "no licence for this" in other.faults[1001]
    OWN_STEPS.save(OWN_STEPS.shipped)
    with pytest.raises(WrongInput, match="'Grade' is not kept on this machine"):
        Run(reel, plan, tmp_path / "out")


def test_without_anything_to_finish_the_rendered_frame_is_the_final_one(small_path, tmp_path):
    reel, plan = prepared(small_path, denoise_window=1)
    run = Run(reel, plan, tmp_path / "out", [1001, 1002])
    go(run)
    assert not (tmp_path / "out" / "sh010" / "rendered").exists()
    assert set(Run(reel, plan, tmp_path / "out", [1001, 1002]).states.values()) == {FINISHED}


def test_a_stopped_run_goes_on_without_rendering_finished_frames_again(small_path, tmp_path):
    reel, plan = prepared(small_path)
    out, frames, cancel = tmp_path / "out", list(range(1001, 1009)), CancelToken()
    first = Run(reel, plan, out, frames)

    def listen(event) -> None:
        if event.frame == 1006 and event.state == RENDERED:
            cancel.cancel()

    with pytest.raises(Stopped):
        first.go(listen, cancel)
    assert first.count(FINISHED) >= 1 and first.count(WAITING) == 2
    times = {f: first.folder.rendered.path(f).stat().st_mtime_ns for f in range(1001, 1007)}
    second = Run(reel, plan, out, frames)
    assert second.states[1001] == FINISHED and second.states[1008] == WAITING
    with pytest.raises(WrongInput, match="already; expected --resume"):
        second.look()
    events = go(second)
    assert {e.frame for e in events if e.state == RENDERED} == {1007, 1008}
    assert set(second.states.values()) == {FINISHED}
    assert times == {f: second.folder.rendered.path(f).stat().st_mtime_ns for f in times}


def test_frames_made_with_other_settings_are_told_apart_and_kept_unless_asked(small_path, tmp_path):
    reel, plan = prepared(small_path)
    go(Run(reel, plan, tmp_path / "out", [1001, 1002]))
    reel, plan = prepared(small_path, bounces=1)
    run = Run(reel, plan, tmp_path / "out", [1001, 1002, 1003])
    assert run.count(OTHER) == 2
    for resume in (False, True):  # going on keeps what is there: it does not render frames of other settings again
        with pytest.raises(WrongInput, match="2 frames of sh010 made with other settings; expected --overwrite"):
            run.look(resume=resume)
    run.look(overwrite=True)
    go(run)
    assert set(run.states.values()) == {FINISHED}
    assert read_header(run.folder.rendered.path(1001)).attributes["hr:recipe"] == run.hash


def test_frames_of_a_million_and_more_keep_their_number(small_path, tmp_path):
    """A frame that was written as '1e+06' read as made with other settings."""
    reel = with_first(read_reel(small_path), "sh010", 2_000_001)
    reel = msgspec.structs.replace(reel, shots=tuple(msgspec.structs.replace(s, offset=0) if s.id == "sh010" else s for s in reel.shots))
    shot = reel.shot("sh010")
    evidence = EvidenceReader().read(small_path.parent / reel.proofs, msgspec.structs.replace(shot, offset=2_000_001 - 1001))
    plan = plan_shot(reel, shot, ShotModel(evidence, shot.frames))
    go(Run(reel, plan, tmp_path / "out", [2_000_001, 2_000_002]))
    again = Run(reel, plan, tmp_path / "out", [2_000_001, 2_000_002])
    assert set(again.states.values()) == {FINISHED}
    assert read_header(again.folder.final.path(2_000_001)).attributes["hr:frame"] == "2000001"


def damage_middle(path) -> None:
    """Bytes in the middle of the pixels: head and last row stay readable."""
    raw = bytearray(path.read_bytes())
    at = len(raw) // 2
    raw[at : at + 64] = b"\xa5" * 64
    path.write_bytes(bytes(raw))


def no_text(path) -> None:
    """An attribute of the head that is no text."""
    raw = path.read_bytes()
    at = raw.index(b"hr:recipe\0string\0") + len(b"hr:recipe\0string\0") + 4
    path.write_bytes(raw[:at] + b"\xff" * 8 + raw[at + 8 :])


@pytest.mark.parametrize("damage", [damage_middle, no_text, lambda p: p.write_bytes(b"\xff" * 500), lambda p: p.write_bytes(b"")])
def test_a_damaged_frame_is_rendered_again(small_path, tmp_path, damage):
    reel, plan = prepared(small_path)
    frames = [1001, 1002, 1003]
    first = Run(reel, plan, tmp_path / "out", frames)
    go(first)
    good = read_picture(first.folder.final.path(1003)).rgb
    first.folder.final.path(1003).unlink()
    damage(first.folder.rendered.path(1002))
    second = Run(reel, plan, tmp_path / "out", frames)
    events = go(second)
    assert set(second.states.values()) == {FINISHED} and second.faults == {}
    assert 1002 in {e.frame for e in events if e.state == RENDERING}
    assert (read_picture(second.folder.final.path(1003)).rgb == good).all(), "finished as if nothing had been damaged"


def test_a_frame_damaged_each_time_it_is_rendered_fails_in_one_sentence(small_path, tmp_path):
    reel, plan = prepared(small_path)
    run = Run(reel, plan, tmp_path / "out", [1001, 1002])

    def listen(event) -> None:
        if event.frame == 1001 and event.state == RENDERED:
            damage_middle(run.folder.rendered.path(1001))

    run.go(listen, CancelToken())
    assert run.states == {1001: FAILED, 1002: FINISHED} and "broken picture" in run.faults[1001]


def test_without_the_rendered_folder_a_run_goes_on(small_path, tmp_path):
    """Finished frames lend their neighbours what they need: rendered once more, they stay as they were finished."""
    reel, plan = prepared(small_path)
    out = tmp_path / "out"
    go(Run(reel, plan, out, list(range(1001, 1009))))
    first = Run(reel, plan, out, list(range(1001, 1009)))
    kept = {f: first.folder.final.path(f).stat().st_mtime_ns for f in (1001, 1002, 1003)}
    first.folder.final.path(1008).unlink()
    shutil.rmtree(first.folder.rendered.folder)
    second = Run(reel, plan, out, list(range(1001, 1009)))
    assert second.states[1008] == WAITING
    events = go(second)
    assert set(second.states.values()) == {FINISHED} and second.faults == {}
    assert {e.frame for e in events if e.state == RENDERING} == {1004, 1005, 1006, 1007, 1008}
    assert kept == {f: second.folder.final.path(f).stat().st_mtime_ns for f in kept}


def test_a_frame_that_there_is_no_memory_for_fails_alone(small_path, tmp_path):
    def sometimes(job: FrameJob, *more):
        if job.frame == 1002:
            raise MemoryError
        return render_on_bench(job, *more)

    reel, plan = prepared(small_path)
    run = Run(reel, plan, tmp_path / "out", [1001, 1002, 1003], sometimes)
    go(run)
    assert run.states == {1001: FINISHED, 1002: FAILED, 1003: FINISHED} and run.faults[1002] == "out of memory"
    told: dict = {}
    shot = reel.shot("sh010")
    order = ProofOrder(shot, reel.recipe_of(shot), (1001, 1002), 2, 100.0)
    made = make_proof(reel, small_path.parent / "proofs", order, renderer=sometimes, fault=told.__setitem__)
    assert set(made.by_frame()) == {1001} and "not enough memory" in told[1002]


def test_a_proof_of_which_all_frames_fail_says_why_and_leaves_no_folder(small_path):
    def never(job: FrameJob, *more):
        raise RendererFault(f"Frame {job.frame}: the brass has no texture.")

    reel = read_reel(small_path)
    shot = reel.shot("sh010")
    before = sorted((small_path.parent / "proofs" / "sh010").iterdir())
    with pytest.raises(RendererFault, match=r"no frame of it could be rendered\. Frame 1001: the brass"):
        make_proof(
            reel,
            small_path.parent / "proofs",
            ProofOrder(shot, reel.recipe_of(shot), (1001, 1002)),
            renderer=never,
            fault=lambda f, w: None,
        )
    assert sorted((small_path.parent / "proofs" / "sh010").iterdir()) == before


def test_pixels_that_are_no_numbers_are_replaced_or_the_frame_is_named(small_path, tmp_path):
    def spotted(job: FrameJob, *more):
        made = render_on_bench(job, *more)
        rgb = made.picture.rgb.copy()
        rgb[(0, 0) if job.frame != 1002 else ...] = np.nan
        return replace(made, picture=replace(made.picture, rgb=rgb))

    reel, plan = prepared(small_path)
    run = Run(reel, plan, tmp_path / "out", [1001, 1002, 1004], spotted)
    go(run)
    assert run.states == {1001: FINISHED, 1002: FAILED, 1004: FINISHED}
    assert "not finite numbers" in run.faults[1002] and run.replaced == {1001: 1, 1004: 1}
    for frame in (1001, 1004):
        assert np.isfinite(read_picture(run.folder.final.path(frame)).rgb).all()


def test_a_file_cut_short_counts_as_absent(small_path, tmp_path):
    reel, plan = prepared(small_path)
    run = Run(reel, plan, tmp_path / "out", [1001])
    go(run)
    path = run.folder.final.path(1001)
    path.write_bytes(path.read_bytes()[:-40])
    assert Run(reel, plan, tmp_path / "out", [1001]).states[1001] == RENDERED


def test_one_frame_that_fails_is_told_and_the_rest_goes_on(small_path, tmp_path):
    def sometimes(job: FrameJob, *more):
        if job.frame == 1002:
            raise HastyReelError("The renderer gave up.")
        return render_on_bench(job, *more)

    reel, plan = prepared(small_path)
    run = Run(reel, plan, tmp_path / "out", [1001, 1002, 1003], sometimes)
    go(run)
    assert run.states == {1001: FINISHED, 1002: FAILED, 1003: FINISHED}
    assert run.faults == {1002: "The renderer gave up."}


def test_two_workers_give_the_same_frames_as_one(small_path, tmp_path):
    reel, plan = prepared(small_path)
    one, two = Run(reel, plan, tmp_path / "a", [1001, 1002, 1003]), Run(reel, plan, tmp_path / "b", [1001, 1002, 1003])
    go(one)
    go(two, workers=2)
    for frame in (1001, 1002, 1003):
        same = read_picture(one.folder.final.path(frame)).rgb == read_picture(two.folder.final.path(frame)).rgb
        assert same.all()


def test_a_folder_that_takes_no_files_is_told_before_anything_is_rendered(small_path, tmp_path):
    blocker = tmp_path / "file"
    blocker.touch()
    reel, plan = prepared(small_path)
    with pytest.raises(WrongInput, match="frames cannot be written there"):
        go(Run(reel, plan, blocker, [1001]))


def test_frames_that_are_not_of_the_shot_are_told(small_path, tmp_path):
    reel, plan = prepared(small_path)
    with pytest.raises(WrongInput, match="frame 2000 is not in the shot; expected 1001 to 1096"):
        Run(reel, plan, tmp_path, [1001, 2000])


def test_killed_in_the_middle_it_leaves_whole_frames_and_goes_on(small_path, tmp_path):
    out = tmp_path / "out"
    command = [sys.executable, "-m", "hasty_reel", "run", str(small_path), "--shot", "sh010", "--frames", "1001-1016", "--out", str(out)]
    process = subprocess.Popen(command, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL)
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline and len(list((out / "sh010").glob("sh010.*.exr"))) < 3:
        time.sleep(0.02)
    os.kill(process.pid, signal.SIGKILL)
    process.wait()
    reel, plan = prepared(small_path)
    for path in out.rglob("sh010.*.exr"):
        read_picture(path)
    run = Run(reel, plan, out, list(range(1001, 1017)))
    assert 3 <= run.count(FINISHED) < 16
    kept = [f for f, s in run.states.items() if s == FINISHED]
    events = go(run)
    assert not {e.frame for e in events if e.state == RENDERED} & set(kept)


def test_a_proof_run_measures_what_denoising_does(small_path):
    reel = read_reel(small_path)
    shot = reel.shot("sh010")
    root = small_path.parent / "proofs"
    made = make_proof(reel, root, ProofOrder(shot, reel.recipe_of(shot), tuple(range(1020, 1027)), 8, 100.0))
    assert made.id == "p023" and len(made.pictures) == 14
    folder = root / "sh010" / "p023"
    assert read_proof(folder) == made
    effects = {e.window: e for e in read_effects(folder)}
    assert set(effects) == {1, 3, 5}, "a window needs two frames more than it has"
    assert effects[5].noise_ratio < 1 and effects[5].seconds_per_pixel > 0


def test_a_stopped_proof_keeps_its_finished_frames(small_path):
    reel = read_reel(small_path)
    shot, cancel = reel.shot("sh020"), CancelToken()
    root = small_path.parent / "proofs"

    def watch(share: float, words: str) -> None:
        if words.startswith("frame 1011"):
            cancel.cancel()

    with pytest.raises(Stopped):
        make_proof(reel, root, ProofOrder(shot, reel.recipe_of(shot), (1005, 1011, 1020), 4, 100.0), progress=watch, cancel=cancel)
    evidence = EvidenceReader().read(root, reel.shot("sh020"))
    assert [r.frame for r in evidence.frames if r.proof == "p017"] == [1005]
    assert evidence.faults == ()


@pytest.mark.parametrize(
    "change, words",
    [
        ({"frames": ()}, "no frames"),
        ({"frames": (5,)}, "frame 5 is not in the shot"),
        ({"samples": 0}, "0 samples"),
        ({"scale": 900.0}, "scale 900 %"),
    ],
)
def test_proof_orders_that_make_no_sense_are_told(demo_reel, change, words):
    shot = demo_reel.shot("sh010")
    order = ProofOrder(**{"shot": shot, "recipe": demo_reel.recipe_of(shot), "frames": (1001,), **change})
    with pytest.raises(WrongInput, match=words):
        order.checked()


def test_every_frame_and_seed_has_a_noise_pattern_of_its_own(demo_reel):
    shot = demo_reel.shot("sh010")
    base = FrameJob("lamp_wakes", 1001, 8, 8, 4, demo_reel.recipe_of(shot))
    seeds = {replace(base, frame=f, seed=s).settings.seed for f in (1001, 1002) for s in (1, 2)}
    assert len(seeds) == 4


def test_a_proof_between_two_frames(small_path):
    reel = read_reel(small_path)
    shot = reel.shot("sh020")
    root = small_path.parent / reel.proofs
    proof = make_proof(reel, root, ProofOrder(shot, reel.recipe_of(shot), (1010, 1010.5), 8, 50.0))
    assert [p.file for p in proof.pictures if p.seed == 1] == ["sh020.1010.s1.exr", "sh020.1010_5.s1.exr"]
    evidence = EvidenceReader().read(root, shot)
    assert {r.frame for r in evidence.frames if r.proof == proof.id} == {1010, 1010.5}
    assert np.isfinite(plan_shot(reel, shot, ShotModel(evidence, shot.frames)).seconds).all()
    one, two = (read_picture(root / "sh020" / proof.id / f).rgb for f in ("sh020.1010.s1.exr", "sh020.1010_5.s1.exr"))
    assert np.abs(one - two).max() > 0.05, "something moved in between"


def test_frames_that_show_something_else_are_told_apart(small_path, tmp_path):
    """Renumbered frames, another scene, a held seed, despiking: what is on disk is not what the plan asks for."""
    reel, plan = prepared(small_path, denoise_window=1)
    go(Run(reel, plan, tmp_path / "out", [1001, 1002]))
    assert set(Run(reel, plan, tmp_path / "out", [1001, 1002]).states.values()) == {FINISHED}
    for lines in ({"seed_held": 1}, {"despike": 1}, {"preroll": 8}):
        other, changed = prepared(small_path, denoise_window=1, **lines)
        run = Run(other, changed, tmp_path / "out", [1001])
        assert run.states[1001] == OTHER, lines
        go(run)
        assert Run(other, changed, tmp_path / "out", [1001]).states[1001] == FINISHED
    renumbered = with_first(reel, "sh010", 1002)
    evidence = EvidenceReader().read(small_path.parent / reel.proofs, renumbered.shot("sh010"))
    moved = plan_shot(renumbered, renumbered.shot("sh010"), ShotModel(evidence, renumbered.shot("sh010").frames))
    assert Run(renumbered, moved, tmp_path / "out", [1002]).states[1002] == OTHER, "the file of that number shows another frame"


def test_preroll_is_rendered_with_a_sample_a_frame_and_dropped(small_path, tmp_path):
    reel, plan = prepared(small_path, denoise_window=1, preroll=3)
    asked = []

    def watched(job, *more):
        asked.append((job.frame, job.samples))
        return render_on_bench(job, *more)

    run = Run(reel, plan, tmp_path / "out", [1001, 1002], watched)
    go(run)
    assert asked == [(998, 1), (999, 1), (1000, 1), (1001, int(plan.samples[0])), (1002, int(plan.samples[1]))]
    assert sorted(run.folder.final.frames()) == [1001, 1002]
