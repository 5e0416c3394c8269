"""Frames sent to a real scheduler and two workers on the loopback, one of which is killed in the middle."""

from __future__ import annotations

import os
import re
import signal
import socket
import subprocess
import sys
import time
from collections import Counter

import pytest

from faulty_renderer import FAULTY_RENDERER
from hasty_reel.errors import HastyReelError, RendererFault, WrongInput
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.links import BY_COMMAND, Link
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_line
from hasty_reel.reel.file import read_reel
from hasty_reel.run.cluster import ClusterCrew
from hasty_reel.run.clusterkeys import KEY_FILES, make_keys
from hasty_reel.run.crew import FrameTask
from hasty_reel.run.framestate import FINISHED, RENDERING
from hasty_reel.run.journal import read_journal
from hasty_reel.run.shotrun import Run
from hasty_reel.settings.recipe import Recipe
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
    """Address of a scheduler with two workers, the processes of the workers, that of the scheduler, and the folder of keys."""
    address, quiet = f"tls://127.0.0.1:{free_port()}", {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    host, port = address.partition("://")[2].split(":")
    keys = tmp_path / "keys"
    make_keys(keys)
    ca, certificate, key = (str(keys / name) for name in KEY_FILES)
    plain = ["--no-dashboard", "--protocol", "tls", "--tls-ca-file", ca, "--tls-cert", certificate, "--tls-key", key]
    dask = [sys.executable, "-m", "dask"]
    scheduler = subprocess.Popen([*dask, "scheduler", "--host", host, "--port", port, *plain], cwd=tmp_path, **quiet)
    answers(host, int(port))
    worker = [*dask, "worker", address, "--host", host, "--nthreads", "1", "--nworkers", "1", *plain, "--no-nanny", "--death-timeout", "20"]
    workers = [subprocess.Popen([*worker, "--name", f"w{k}"], cwd=tmp_path, **quiet) for k in range(2)]
    yield address, workers, scheduler, keys
    for process in (*workers, scheduler):
        process.kill()
        process.wait()


def test_every_frame_comes_once_though_a_worker_is_killed_in_the_middle(small_path, tmp_path, cluster):
    address, workers, scheduler, keys = cluster
    reel = read_reel(small_path)
    for field, value in {"denoise_window": 1, "despike": 0, "sharpen": 0.0, "samples_ceiling": 16}.items():
        reel = with_line(reel, "sh010", field, value)
    shot = reel.shot("sh010")
    plan = plan_shot(reel, shot, ShotModel(EvidenceReader().read(small_path.parent / reel.proofs, shot), shot.frames))
    frames = list(range(1001, 1007))
    assert BY_COMMAND.command is not None
    link = Link(name="slow", command=(*FAULTY_RENDERER, "--slow-start", "0.4", *BY_COMMAND.command[2:]), timeout=60.0)
    run = Run(reel, plan, tmp_path / "out", frames)
    crew = ClusterCrew(address, link, keys)
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
    second, crew = Run(reel, plan, tmp_path / "second", frames[:3]), ClusterCrew(address, link, keys)

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
    monkeypatch.setattr("hasty_reel.run.cluster.CONNECT_SECONDS", 0.5)
    with pytest.raises(WrongInput, match="no scheduler answers there"):
        ClusterCrew(f"tcp://127.0.0.1:{free_port()}", Link(name="any"))


@pytest.mark.parametrize(
    "address, keys, words",
    [
        ("tls://127.0.0.1:1", None, "is encrypted; expected --keys with the folder"),
        ("tcp://127.0.0.1:1", ".", "--keys goes with an address that begins with tls://"),
        ("tls://127.0.0.1:1", ".", "has no ca.pem; expected the folder that `hasty-reel cluster-keys` made"),
        ("nowhere at all", None, "no scheduler answers there"),
    ],
)
def test_a_wrong_address_is_one_sentence(monkeypatch, tmp_path, address, keys, words):
    monkeypatch.setattr("hasty_reel.run.cluster.CONNECT_SECONDS", 0.5)
    with pytest.raises(WrongInput, match=re.escape(words)) as error:
        ClusterCrew(address, Link(name="any"), None if keys is None else tmp_path)
    assert "\n" not in str(error.value)


def test_keys_are_the_owners_alone_and_never_overwritten(tmp_path):
    make_keys(tmp_path / "keys", 30)
    assert {p.name for p in (tmp_path / "keys").iterdir()} == set(KEY_FILES)
    assert all(p.stat().st_mode & 0o077 == 0 for p in (tmp_path / "keys").iterdir())
    with pytest.raises(WrongInput, match=r"holds ca.pem already"):
        make_keys(tmp_path / "keys")


def test_nothing_that_a_worker_sends_is_unpickled_here(small_path, tmp_path, cluster):
    address, _, _, keys = cluster
    crew = ClusterCrew(address, BY_COMMAND, keys)
    planted = tmp_path / "planted"
    planted.mkdir()
    client = crew._client
    task = FrameTask(1, FrameJob("soft_corner", 1, 8, 4, 1, Recipe(name="a")), 1.0, 60.0)
    code = "class P:\n def __reduce__(self): return exec, (c,)\n"
    for way in ("", "raise E()"):
        source = f"{code}class E(Exception): __reduce__ = P.__reduce__\n"

        def far(source=source, way=way, folder=str(planted)):
            space = {"c": f"import os; open(os.path.join({folder!r}, str(os.getpid())), 'w').close()"}
            exec(source, space)
            if way:
                raise space["E"]()
            return space["P"]()

        future = client.submit(far, pure=False)
        until = time.monotonic() + 30
        while not future.done():
            assert time.monotonic() < until
            time.sleep(0.05)
        crew._futures[future] = task, time.perf_counter()
        outcome = crew._outcome(future)
        assert outcome.made is None and isinstance(outcome.error, RendererFault)
    crew.close()
    assert str(os.getpid()) not in {p.name for p in planted.iterdir()}
