"""Frames sent to a real scheduler and two workers on the loopback, one of which is killed in the middle."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from collections import Counter

import pytest

from faulty_renderer import FAULTY_RENDERER
from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.finals.cluster import ClusterCrew
from hasty_reel.farm.finals.folder import FINISHED, RENDERING
from hasty_reel.farm.finals.journal import read_journal
from hasty_reel.farm.finals.run import Run
from hasty_reel.farm.renderers.links import BY_COMMAND, Link
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_line
from hasty_reel.reel.file import read_reel
from hasty_reel.work import CancelToken


def free_port() -> int:
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return int(s.getsockname()[1])


def answers(host: str, port: int) -> None:
    """Wait until something listens there: on a busy machine a scheduler takes more than the seconds that a run waits for one."""
    until = time.monotonic() + 90
    while True:
        try:
            socket.create_connection((host, port), 1.0).close()
            return
        except OSError:
            assert time.monotonic() < until, "the scheduler never came"
            time.sleep(0.1)


@pytest.fixture
def cluster(tmp_path):
    """Address of a scheduler with two workers, and the processes of the workers."""
    address, quiet = f"tcp://127.0.0.1:{free_port()}", {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    host, port = address.removeprefix("tcp://").split(":")
    dask = [sys.executable, "-m", "dask"]
    plain = ["--no-dashboard"]
    scheduler = subprocess.Popen([*dask, "scheduler", "--host", host, "--port", port, *plain], cwd=tmp_path, **quiet)
    answers(host, int(port))
    worker = [*dask, "worker", address, "--nthreads", "1", "--nworkers", "1", *plain, "--no-nanny", "--death-timeout", "20"]
    workers = [subprocess.Popen([*worker, "--name", f"w{k}"], cwd=tmp_path, **quiet) for k in range(2)]
    yield address, workers, scheduler
    for process in (*workers, scheduler):
        process.kill()
        process.wait()


def test_every_frame_comes_once_though_a_worker_is_killed_in_the_middle(small_path, tmp_path, cluster):
    address, workers, scheduler = cluster
    reel = read_reel(small_path)
    for field, value in {"denoise_window": 1, "despike": 0, "sharpen": 0.0, "samples_ceiling": 16}.items():
        reel = with_line(reel, "sh010", field, value)
    shot = reel.shot("sh010")
    plan = plan_shot(reel, shot, ShotModel(EvidenceReader().read(small_path.parent / reel.proofs, shot), shot.frames))
    frames = list(range(1001, 1007))
    assert BY_COMMAND.command is not None
    link = Link(name="slow", command=(*FAULTY_RENDERER, "--slow-start", "0.4", *BY_COMMAND.command[2:]), timeout=60.0)
    run = Run(reel, plan, tmp_path / "out", frames)
    crew = ClusterCrew(address, link)
    until = time.monotonic() + 30
    while len(crew._client.nthreads()) < 2:
        assert time.monotonic() < until, "the workers never came"
        time.sleep(0.05)
    events = []

    def listen(event):
        events.append(event)
        if event.state == FINISHED and sum(e.state == FINISHED for e in events) == 2:
            os.kill(workers[0].pid, signal.SIGKILL)

    try:
        run.go(listen, CancelToken(), crew=crew)
    finally:
        crew.close()
    assert set(run.states.values()) == {FINISHED} and run.faults == {}
    done = Counter(e.frame for e in events if e.state == FINISHED)
    assert set(done.values()) == {1} and sorted(done) == frames
    assert read_picture(run.folder.final.path(1006)).width == plan.width
    assert sum(x.what == "finished" for x in read_journal(run.folder.final.folder)) == 6
    # the scheduler dies: the run says so, keeps what is finished, and goes on elsewhere
    second, crew = Run(reel, plan, tmp_path / "second", frames[:3]), ClusterCrew(address, link)

    def kill(event):
        if event.state == FINISHED:
            scheduler.kill()

    with pytest.raises(HastyReelError, match="is gone; what was finished is kept"):
        second.go(kill, CancelToken(), crew=crew)
    crew.close()
    kept = {f for f, s in Run(reel, plan, tmp_path / "second", frames[:3]).states.items() if s == FINISHED}
    assert kept and len(kept) < 3
    again = Run(reel, plan, tmp_path / "second", frames[:3])
    begun: list[int] = []
    again.go(lambda event: begun.append(event.frame) if event.state == RENDERING else None, CancelToken())
    assert set(again.states.values()) == {FINISHED} and not kept & set(begun), "no finished frame twice"


def test_a_scheduler_that_does_not_answer_is_told(monkeypatch):
    monkeypatch.setattr("hasty_reel.farm.finals.cluster.CONNECT_SECONDS", 0.5)
    with pytest.raises(WrongInput, match="no scheduler answers there"):
        ClusterCrew(f"tcp://127.0.0.1:{free_port()}", Link(name="any"))
