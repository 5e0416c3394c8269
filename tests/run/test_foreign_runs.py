"""Runs with a renderer that the program has never seen: they end, lose nothing, finish what can be finished, and leave no process."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import msgspec
import psutil
import pytest

from faulty_renderer import CHILD
from hasty_reel.errors import RendererFault, Stopped
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.finish.chain import Chain
from hasty_reel.plan.shot import plan_shot
from hasty_reel.plan.time.timeleft import Pace, UnderWay, time_left
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_frames, with_line
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.run import framestate
from hasty_reel.run.account import account_of
from hasty_reel.run.folder import final_hash
from hasty_reel.run.framestate import FAILED, FINISHED
from hasty_reel.run.journal import NOTED, read_journal
from hasty_reel.run.shotrun import Run
from hasty_reel.run.slowness import SlownessWatch
from hasty_reel.work import CancelToken
from second_link import SECOND, faulty_second


def prepared(path: Path, scene: str = "crossing", last: int = 1006, **lines):
    """A shot of six frames denoised over three, rendered by whatever renders."""
    reel = with_frames(read_reel(path), "sh010", 1001, last)
    for field, value in {"denoise_window": 3, "despike": 0, "sharpen": 0.0, **lines}.items():
        reel = with_line(reel, "sh010", field, value)
    shot = msgspec.structs.replace(reel.shot("sh010"), scene=scene) if scene else reel.shot("sh010")
    reel = msgspec.structs.replace(reel, shots=tuple(shot if s.id == shot.id else s for s in reel.shots))
    return reel, plan_shot(reel, shot, ShotModel(EvidenceReader().read(path.parent / reel.proofs, shot), shot.frames))


def go(run: Run, **more) -> list:
    events: list = []
    run.go(events.append, more.pop("cancel", CancelToken()), **more)
    return events


def test_two_workers_end_where_only_finishing_is_left(small_path, tmp_path):
    reel, plan = prepared(small_path)
    run = Run(reel, plan, tmp_path / "out", [1001, 1002, 1003, 1004], renderer_of(SECOND))
    left = []
    run.go(lambda event: left.append(run.left.middle), CancelToken(), 2)
    assert set(run.states.values()) == {FINISHED} and left[-1] == 0.0


def test_two_hands_with_nothing_but_finishing_left_take_half_of_it():
    assert time_left(Pace(), [], [("a", 1.0), ("a", 1.0)], (), 4.0).middle == pytest.approx(2.0)


@pytest.mark.parametrize("door", ["bench", "second"])
def test_a_fault_in_telling_how_it_goes_ends_no_run(small_path, tmp_path, door):
    reel, plan = prepared(small_path, "" if door == "bench" else "crossing")
    run = Run(reel, plan, tmp_path / "out", [1001, 1002, 1003], render_on_bench if door == "bench" else renderer_of(SECOND))

    def listen(event):
        raise ZeroDivisionError("division by zero")

    run.go(listen, CancelToken(), 2)
    assert set(run.states.values()) == {FINISHED}
    noted = [line.words for line in read_journal(run.folder.final.folder) if line.what == NOTED]
    fault = "Telling how the run goes went wrong inside Hasty Reel (ZeroDivisionError in listen): frames are not touched by it."
    assert noted.count(fault) == 1


@pytest.mark.parametrize("workers, window, thorough, despike", [(1, 5, 1, 1), (2, 3, 0, 0), (4, 5, 0, 1)])
def test_the_neighbours_of_a_frame_that_fails_for_good_are_finished_without_it(small_path, tmp_path, workers, window, thorough, despike):
    reel, plan = prepared(small_path, denoise_window=window, denoise_thorough=thorough, despike=despike)
    run = Run(reel, plan, tmp_path / "out", renderer=renderer_of(faulty_second("--crash-at", str(plan.shot.scene_frame(1003)))))
    events = go(run, workers=workers)
    assert {f for f, s in run.states.items() if s == FINISHED} == {1001, 1002, 1004, 1005, 1006} and run.states[1003] == FAILED
    assert run.attempts[1003] == framestate.ATTEMPTS and list(run.faults) == [1003]
    assert sum(e.state == FAILED for e in events) == 1, "said once"
    found = account_of(read_journal(run.folder.final.folder), run.states)
    assert found.again == (1003,) and {1002, 1004} <= set(found.fewer)
    assert any(w.endswith("finished with fewer neighbours, without those that failed.") for w in found.words)


def test_a_finished_frame_that_cannot_be_rendered_again_for_its_neighbour_stays_finished(small_path, tmp_path):
    reel, plan = prepared(small_path)
    go(Run(reel, plan, tmp_path / "out", [1001, 1002], renderer_of(SECOND)))
    (tmp_path / "out" / "sh010" / "rendered" / "sh010.1002.exr").unlink()
    run = Run(reel, plan, tmp_path / "out", [1001, 1002, 1003], renderer_of(faulty_second("--crash-at", str(plan.shot.scene_frame(1002)))))
    events = go(run)
    assert set(run.states.values()) == {FINISHED} and run.faults == {} and run.folder.final.path(1002).is_file()
    assert any("It stays as it was finished" in e.words for e in events if e.frame == 1002)


def test_everything_that_finishing_does_tells_its_frames_apart():
    usual = Chain(window=5)
    others = {
        "despike": Chain(window=5, despike=True), "window": Chain(window=7), "quick": Chain(window=5, thorough=False),
        "strength": Chain(window=5, strength=0.5), "sharpen": Chain(window=5, sharpen=0.1), "size": Chain(window=5, size=(96, 54)),
        "none": Chain(), "each": Chain(per_frame=True),
        "order": Chain(window=5, size=(96, 54), order=("despike", "resize", "denoise", "sharpen")),
    }  # fmt: skip
    told = [final_hash("a", usual), *(final_hash("a", c) for c in others.values())]
    assert len(set(told)) == len(told)


def test_despiking_switched_on_makes_finished_frames_others(small_path, tmp_path):
    reel, plan = prepared(small_path)
    go(Run(reel, plan, tmp_path / "out", [1001, 1002], renderer_of(SECOND)))
    reel, plan = prepared(small_path, despike=1)
    assert Run(reel, plan, tmp_path / "out", [1001, 1002], renderer_of(SECOND)).count(FINISHED) == 0


def test_what_a_renderer_started_ends_with_it(small_path, tmp_path):
    reel, plan = prepared(small_path)
    cancel = CancelToken()
    run = Run(reel, plan, tmp_path / "out", [1001, 1002], renderer_of(faulty_second("--child-at", str(plan.shot.scene_frame(1001)))))
    with pytest.raises(Stopped):
        run.go(lambda event: None, _after(lambda: len(children()) == 2, cancel), 2)
    assert children() == []


def children() -> list[int]:
    return [p.pid for p in psutil.process_iter() if CHILD in " ".join(_words(p)) and "sleep" in " ".join(_words(p))]


def _words(process: psutil.Process) -> list[str]:
    try:
        return process.cmdline()
    except (psutil.Error, OSError):
        return []


def _after(condition, cancel: CancelToken) -> CancelToken:
    """Cancel when a condition holds, a minute later at most."""
    import threading

    def wait():
        until = time.monotonic() + 60
        while not condition() and time.monotonic() < until:
            time.sleep(0.1)
        cancel.cancel()

    threading.Thread(target=wait, daemon=True).start()
    return cancel


@pytest.mark.parametrize("how", [signal.SIGTERM, signal.SIGKILL, signal.SIGHUP])
def test_however_the_program_ends_no_renderer_goes_on(small_path, tmp_path, how):
    reel, plan = prepared(small_path)
    save_reel(small_path, reel)
    link = faulty_second("--child-at", str(plan.shot.scene_frame(1001)))
    code = (
        "import signal, sys; sys.path.insert(0, sys.argv[3])\n"
        "signal.signal(signal.SIGHUP, signal.SIG_DFL)\n"  # tests that are started to outlive their terminal pass that on
        "from hasty_reel.farm.renderers.links import LINKS, Link\n"
        "import msgspec\n"
        "link = msgspec.json.decode(sys.argv[1], type=Link)\n"
        "LINKS.save(LINKS.read().added(link).choosing(link.name))\n"
        "from hasty_reel.cli import main\n"
        "main(['run', sys.argv[2], '--shot', 'sh010', '--frames', '1001-1002', '--out', sys.argv[4]])\n"
    )
    arguments = [
        sys.executable,
        "-c",
        code,
        msgspec.json.encode(link).decode(),
        str(small_path),
        str(Path(__file__).parent.parent),
        str(tmp_path / "o"),
    ]
    process = subprocess.Popen(arguments, stderr=subprocess.PIPE)
    until = time.monotonic() + 60
    while len(children()) < 2 and time.monotonic() < until and process.poll() is None:
        time.sleep(0.1)
    assert len(children()) == 2, process.stderr.read()
    os.kill(process.pid, how)
    process.wait(30)
    while children() and time.monotonic() < until:
        time.sleep(0.1)
    assert children() == []


def test_time_left_counts_a_frame_that_hangs_as_given_up_and_begun_again():
    pace = Pace()
    for _ in range(10):
        pace.ended(10.0, 10.0, "a")
    told = [time_left(pace, [], [("a", 1.0)], [UnderWay("a", 1.0, s, 10.0, bound=60.0)]).middle for s in (5.0, 30.0, 50.0, 59.0)]
    assert told[0] == pytest.approx(5.0, rel=0.1)
    assert told[1] == pytest.approx(40.0, rel=0.15) and told[2] == pytest.approx(20.0, rel=0.25), "until it is given up, and then all of it"
    assert told[1] > told[2] > told[3]


def test_a_run_that_goes_slower_is_told_and_why(monkeypatch):
    pace, watch = Pace(), SlownessWatch(here=True)
    said = []
    for _ in range(6):
        pace.ended(1.7, 1.0, "a")
        said.append(watch.words(pace))
    told = [w for w in said if w]
    assert len(told) == 1 and told[0].startswith("The run goes 1."), "once, not with every frame"
    calm, quiet = Pace(), SlownessWatch(here=True)
    for _ in range(6):
        calm.ended(1.02, 1.0, "a")
        assert quiet.words(calm) == ""


def test_the_processor_time_of_other_programs_is_told_from_our_own():
    from hasty_reel.run.slowness import OtherWork

    other = subprocess.Popen([sys.executable, "-c", "import time\nt = time.time() + 3\nwhile time.time() < t: pass"])
    watched = OtherWork()
    time.sleep(1.0)
    beside = watched.share
    other.kill()
    other.wait()
    assert beside > 0.5 / psutil.cpu_count()


def test_a_renderer_that_cannot_be_started_leaves_no_warden_entry(tmp_path):
    from hasty_reel.programs.processgroup import WARDEN
    from hasty_reel.programs.watched import Watch, run_watched
    from hasty_reel.work import silent

    with pytest.raises(RendererFault, match="cannot be started"):
        run_watched([str(tmp_path)], Watch("renderer", "x", 5.0), "Frame 1", silent, None)
    assert WARDEN._watched == {}


@pytest.mark.parametrize("workers", [1, 2])
def test_a_fault_of_ours_within_a_worker_costs_its_frame_and_the_run_ends(small_path, tmp_path, workers):
    reel, plan = prepared(small_path, "", last=1003, denoise_window=1)
    told = []

    def renderer(job, *more):
        if job.frame == plan.shot.scene_frame(1002):
            raise FileNotFoundError(2, "no such folder")
        return render_on_bench(job, *more)

    run = Run(reel, plan, tmp_path / "out", renderer=renderer, finish=False)
    run.go(told.append, CancelToken(), workers)
    assert run.states[1002] == FAILED and run.states[1001] == run.states[1003] == FINISHED
    assert "Frame 1002: its worker failed (FileNotFoundError: [Errno 2] no such folder)." in run.faults[1002]
