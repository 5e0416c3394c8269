"""A run through the night: faults, machines that go away, two runs at once, orders of the artist, and its journal."""

from __future__ import annotations

import shutil
import threading
from collections import Counter
from pathlib import Path

import numpy as np
import pytest

from hasty_reel.errors import PictureError, RendererFault, Stopped, WrongInput
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_frames, with_line
from hasty_reel.reel.file import read_reel
from hasty_reel.run import bound, loop, space
from hasty_reel.run.account import account_of
from hasty_reel.run.control import RunControl
from hasty_reel.run.crew import LocalCrew
from hasty_reel.run.events import DueTime
from hasty_reel.run.framestate import FAILED, FINISHED, RENDERED, WAITING
from hasty_reel.run.journal import NAME, Journal, read_journal
from hasty_reel.run.order import trouble_first
from hasty_reel.run.shotrun import Run
from hasty_reel.run.simulated import SimulatedCrew, SimulatedMachine
from hasty_reel.work import CancelToken


def painted(job, number: int = 0) -> RenderedFrame:
    """A picture that tells which frame it is."""
    rgb = np.full((job.height, job.width, 3), 0.25 + (job.frame % 512) / 1024, np.float32)
    return RenderedFrame(Picture(rgb, {}, {"hr:recipe": job.hash, "hr:frame": f"{job.frame}", "hr:samples": float(job.samples)}), 0.0, 0.01)


def paint(task) -> RenderedFrame:
    return painted(task.job)


def prepared(path: Path, last: int = 1096, **lines):
    reel = with_frames(read_reel(path), "sh010", 1001, last)
    for field, value in {"denoise_window": 1, "despike": 0, "sharpen": 0.0, **lines}.items():
        reel = with_line(reel, "sh010", field, value)
    shot = reel.shot("sh010")
    evidence = EvidenceReader().read(path.parent / reel.proofs, shot)
    return reel, plan_shot(reel, shot, ShotModel(evidence, shot.frames))


def go(run: Run, **more) -> list:
    events: list = []
    run.go(events.append, more.pop("cancel", CancelToken()), **more)
    return events


def test_a_soak_of_300_frames_with_faults_of_every_kind_ends_with_300_right_frames(small_path, tmp_path):
    reel, plan = prepared(small_path, last=1300)
    run = Run(reel, plan, tmp_path / "out")
    whole = float(plan.seconds.sum())
    machines = [
        SimulatedMachine("lamp room", 1.0, fail=0.03, spoil=0.02),
        SimulatedMachine("tower", 2.0, truth=0.8, workers=3, fail=0.03, hang=0.01, gone=((0.1 * whole / 7, 0.2 * whole / 7),)),
        SimulatedMachine("workshop", 1.5, load=((0.0, whole, 3.0),), spoil=0.02),
    ]
    events = go(run, crew=SimulatedCrew(machines, paint, seed=4))
    assert set(run.states.values()) == {FINISHED} and run.faults == {}
    done = Counter(e.frame for e in events if e.state == FINISHED)
    assert len(done) == 300 and set(done.values()) == {1}, "every frame once"
    for frame in (1001, 1137, 1300):
        assert read_picture(run.folder.final.path(frame)).rgb == pytest.approx(0.25 + (frame % 512) / 1024, rel=1e-3)
    retried = [e for e in events if e.state == WAITING]
    for fault in ("was taken out", "ended by signal 11", "not finite"):
        assert any(fault in e.words for e in retried), fault
    found = account_of(read_journal(run.folder.final.folder), run.states)
    assert found.finished == 300 and sum(found.retried.values()) == len(retried) and found.again == ()
    assert {m.name: m.frames for m in found.machines}["tower"] > 100 and found.words[0].startswith("300 frames rendered, 300 finished")
    workshop = next(m for m in found.machines if m.name == "workshop")
    assert workshop.pace == pytest.approx(3.0, rel=0.01), "other people's load shows"


def test_a_frame_that_fails_three_times_is_set_aside_and_named_and_the_rest_goes_on(small_path, tmp_path):
    reel, plan = prepared(small_path)
    tried: list[int] = []

    def renderer(job, *_):
        tried.append(job.frame)
        if job.frame == 1002:
            raise RendererFault("Frame 1002: the lamp is missing.")
        return painted(job)

    run = Run(reel, plan, tmp_path / "out", [1001, 1002, 1003], renderer)
    events = go(run)
    assert tried.count(1002) == 3 and tried.count(1003) == 1 and tried[:3] == [1001, 1002, 1003], "it waits behind the others"
    assert run.states == {1001: FINISHED, 1002: FAILED, 1003: FINISHED} and run.faults == {1002: "Frame 1002: the lamp is missing."}
    assert [e.attempt for e in events if e.frame == 1002 and e.words] == [1, 2, 3]
    found = account_of(read_journal(run.folder.final.folder), run.states)
    assert found.failed == run.faults and found.again == (1002,) and found.retried == {"The lamp is missing.": 2}
    assert found.words[-2:] == ["Frame 1002 failed: Frame 1002: the lamp is missing.", "To render again: 1002."]
    # gone on with when the lamp is there: only that frame
    tried.clear()
    again = Run(reel, plan, tmp_path / "out", [1001, 1002, 1003], lambda job, *_: (tried.append(job.frame), painted(job))[1])
    go(again)
    assert tried == [1002] and set(again.states.values()) == {FINISHED}


def test_what_is_asked_for_wrongly_is_not_tried_again(small_path, tmp_path):
    reel, plan = prepared(small_path)

    def renderer(job, *_):
        raise WrongInput("There is no scene 'attic'.")

    run = Run(reel, plan, tmp_path / "out", [1001], renderer)
    go(run)
    assert run.attempts == {1001: 1} and run.states == {1001: FAILED}


def test_a_hung_renderer_is_ended_after_a_bound_that_the_plan_tells(small_path, tmp_path, monkeypatch):
    monkeypatch.setattr(bound, "LEAST_SECONDS", 0.2)
    reel, plan = prepared(small_path)

    def hangs(job, progress, cancel, show):
        while not cancel.cancelled:
            threading.Event().wait(0.01)
        cancel.check()

    run = Run(reel, plan, tmp_path / "out", [1001], hangs)
    monkeypatch.setattr(run, "planned_rendering", lambda frame: 0.05)
    go(run)
    assert run.faults[1001].startswith("Frame 1001: the renderer was ended after 0 s; expected about 0.1 s by the plan.")
    assert bound.longest_seconds(100.0, 0.5) == 600.0 and bound.longest_seconds(100.0, 2.0) == 1200.0


def test_two_runs_into_one_folder_refuse_each_other(small_path, tmp_path):
    reel, plan = prepared(small_path)
    run = Run(reel, plan, tmp_path / "out", [1001, 1002], lambda job, *_: painted(job))
    run.folder.final.folder.mkdir(parents=True)
    with Journal(run.folder.final.folder), pytest.raises(WrongInput, match="another run renders into it"):
        go(Run(reel, plan, tmp_path / "out", [1001], lambda job, *_: painted(job)))
    go(run)
    assert set(run.states.values()) == {FINISHED}


def test_a_run_is_held_gone_on_with_and_ended_after_the_frames_under_way(small_path, tmp_path):
    reel, plan = prepared(small_path)
    frames = list(range(1001, 1011))
    control = RunControl(CancelToken())
    begun: list[int] = []

    def renderer(job, *_):
        begun.append(job.frame)
        return painted(job)

    def listen(event):
        if event.state == FINISHED and event.frame == 1003:
            control.pause()
            threading.Timer(0.3, control.go_on).start()
        if event.state == FINISHED and event.frame == 1006:
            control.end_soon()

    run = Run(reel, plan, tmp_path / "out", frames, renderer)
    run.go(listen, control.cancel, control=control)
    assert begun == frames[:6] and run.count(WAITING) == 4 and run.count(FINISHED) == 6
    lines = read_journal(run.folder.final.folder)
    assert lines[0].what == "begun" and lines[0].frames == "1001-1010" and lines[-1].what == "ended" and lines[-1].words == ""


def test_first_last_slowest_and_worst_frames_show_trouble_early(small_path, tmp_path):
    reel, plan = prepared(small_path)
    frames = list(range(1001, 1097))
    order = trouble_first(plan, frames)
    assert sorted(order) == frames and order[:2] == [1001, 1096]
    slowest, worst = int(plan.frames[plan.seconds.argmax()]), int(plan.frames[plan.seen_flicker.argmax()])
    assert {slowest, worst} <= set(order[:8]) and order[8:] == [f for f in frames if f not in order[:8]]
    begun: list[int] = []
    run = Run(reel, plan, tmp_path / "out", frames[:20], lambda job, *_: (begun.append(job.frame), painted(job))[1])
    go(run, trouble_first=True)
    assert begun[:2] == [1001, 1020] and set(run.states.values()) == {FINISHED}


def test_a_full_disk_ends_the_run_in_one_sentence_and_loses_nothing(small_path, tmp_path, monkeypatch):
    reel, plan = prepared(small_path)
    frames, real = [1001, 1002, 1003, 1004], loop.write_picture

    def full(path, picture, *more):
        if "1003" in path.name:
            raise PictureError(f"{path}: cannot be written (no space left on device).")
        return real(path, picture, *more)

    monkeypatch.setattr(loop, "write_picture", full)
    monkeypatch.setattr(space.shutil, "disk_usage", lambda folder: shutil._ntuple_diskusage(1 << 30, 1 << 30, 1000))
    run = Run(reel, plan, tmp_path / "out", frames, lambda job, *_: painted(job))
    with pytest.raises(
        WrongInput,
        match=r"0.001 MB are free, a frame takes up to 0.031, and 17 stay free; the run ends here, and goes on when there is room",
    ):
        go(run)
    assert run.count(FINISHED) == 2
    assert account_of(read_journal(run.folder.final.folder)).why.endswith("goes on when there is room.")
    monkeypatch.undo()
    again = Run(reel, plan, tmp_path / "out", frames, lambda job, *_: painted(job))
    go(again)
    assert set(again.states.values()) == {FINISHED}


def test_a_folder_that_goes_away_comes_back_with_the_frames_that_follow(small_path, tmp_path):
    reel, plan = prepared(small_path)

    def renderer(job, *_):
        if job.frame == 1003 and not gone:
            gone.append(shutil.rmtree(tmp_path / "out"))
        return painted(job)

    gone: list = []
    run = Run(reel, plan, tmp_path / "out", [1001, 1002, 1003, 1004], renderer)
    go(run)
    assert run.states[1003] == run.states[1004] == FINISHED and run.folder.final.path(1003).is_file()
    assert Run(reel, plan, tmp_path / "out", [1001, 1002, 1003, 1004]).states[1001] == WAITING, "what was taken away is told as missing"


def test_stopped_at_once_no_worker_writes_afterwards(small_path, tmp_path):
    reel, plan = prepared(small_path)
    cancel = CancelToken()

    def renderer(job, progress, token, show):
        if job.frame == 1002:
            cancel.cancel()
        token.check()
        return painted(job)

    run = Run(reel, plan, tmp_path / "out", list(range(1001, 1009)), renderer)
    with pytest.raises(Stopped):
        go(run, cancel=cancel, workers=3)
    assert FAILED not in run.states.values() and run.count(FINISHED) <= 3
    assert account_of(read_journal(run.folder.final.folder), run.states).why.startswith("Stopped on request")


def test_the_journal_of_a_killed_run_is_read_up_to_its_broken_line(small_path, tmp_path):
    reel, plan = prepared(small_path)
    run = Run(reel, plan, tmp_path / "out", [1001, 1002], lambda job, *_: painted(job))
    go(run)
    path = run.folder.final.folder / NAME
    whole = read_journal(path.parent)
    path.write_bytes(path.read_bytes()[:-20])
    cut = read_journal(path.parent)
    assert cut == whole[:-1] and account_of(cut).ended is None and account_of([]).words == []
    assert "was cut off" in account_of(cut).words[1]


def test_workers_of_this_machine_are_bounded():
    for workers in (0, 65):
        with pytest.raises(WrongInput, match="expected 1 to 64"):
            LocalCrew(lambda *_: None, workers)


def test_time_left_of_a_simulated_run_comes_down_to_nothing(small_path, tmp_path):
    reel, plan = prepared(small_path)
    run = Run(reel, plan, tmp_path / "out")
    crew = SimulatedCrew([SimulatedMachine("a", 1.0, truth=0.7), SimulatedMachine("b", 1.5, truth=0.7)], paint)
    told = []

    def listen(event):
        if event.state == FINISHED:
            told.append((crew.clock, run.left))

    run.go(listen, CancelToken(), crew=crew)
    end = crew.clock
    at_half = next(x for x in told if x[0] > end / 2)
    assert abs(at_half[1].middle / (end - at_half[0]) - 1) < 0.03, "a steady pace is learnt"
    assert at_half[1].low < end - at_half[0] < at_half[1].high and run.left.middle == 0.0
    assert RENDERED not in run.states.values()


@pytest.mark.parametrize("automatic", [True, False])
def test_a_slipping_night_is_planned_anew_and_meets_its_due_time(small_path, tmp_path, automatic):
    """Machines are a third slower than planned: with fewer samples in the frames that are left it is in time all the same."""
    reel, plan = prepared(small_path, samples_ceiling=512)
    shot = plan.shot
    evidence = EvidenceReader().read(small_path.parent / reel.proofs, shot)
    model = ShotModel(evidence, shot.frames)
    machines = [SimulatedMachine("a", 1.0, truth=0.75), SimulatedMachine("b", 1.0, truth=0.75)]
    crew = SimulatedCrew(machines, paint)
    until = 1.1 * plan.total_seconds / 2
    run = Run(reel, plan, tmp_path / "out")
    due = DueTime(lambda: until - crew.clock, lambda samples: plan_shot(reel, shot, model, plan.recipe, samples=samples), automatic)
    offers = []

    def listen(event):
        if run.offer is not None:
            offers.append(run.offer)
            if not automatic and run.offer.missing == 0.0:
                run.take_offer(due)

    run.go(listen, CancelToken(), crew=crew, due=due)
    assert set(run.states.values()) == {FINISHED} and crew.clock <= until
    assert plan.total_seconds / 0.75 / 2 > until, "as it was planned it would have been late"
    changed = run.plan.samples < plan.samples
    assert changed.any() and not changed[:2].any() and run.late < 0.5
    if automatic:
        assert not offers and account_of(read_journal(run.folder.final.folder)).anew[0].endswith("ready when due, nine times in ten.")
    else:
        assert offers
