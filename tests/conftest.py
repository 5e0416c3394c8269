"""Shared pieces of evidence: the demo reel as it ships, and a small copy of it that may be changed."""

from __future__ import annotations

import os
import shutil
import sys
from datetime import datetime, timedelta
from pathlib import Path

import msgspec
import pytest
from hypothesis import settings

from hasty_reel.cli import main
from hasty_reel.demo import NAME as DEMO_NAME
from hasty_reel.demo import SOURCE, copy_demo
from hasty_reel.evidence.rows import Evidence, EvidenceReader
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.shot import Hold

sys.path.insert(0, str(Path(__file__).parent))  # what several tests share, as the faulty renderer

if not os.environ.get("DISPLAY") and not os.environ.get("WAYLAND_DISPLAY"):  # else a window ends the tests
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

# speed is measured in benchmarks/, not here: a busy machine fails no test
settings.register_profile("reel", deadline=None, max_examples=70)
settings.register_profile("quick", deadline=None, max_examples=15)
settings.load_profile("reel")


@pytest.fixture(scope="session")
def demo_reel() -> Reel:
    return read_reel(SOURCE / DEMO_NAME)


NOISE = {"sh010": 0.0042, "sh020": 0.005, "sh030": 0.0042, "sh040": 0.0045, "sh050": 0.003}
"""What the shots of the demo hold where noise is held, in linear light."""


@pytest.fixture(scope="session")
def noise_reel(demo_reel: Reel) -> Reel:
    """The demo reel holding noise, by the limit of whoever looks: where it is tested how plans are made, whatever is held."""
    shots = tuple(msgspec.structs.replace(s, hold=Hold(kind="noise", value=NOISE[s.id])) for s in demo_reel.shots)
    return msgspec.structs.replace(demo_reel, shots=shots, calm="eyes")


@pytest.fixture(scope="session")
def demo_evidence() -> dict[str, Evidence]:
    reader = EvidenceReader()
    reel = read_reel(SOURCE / DEMO_NAME)
    return {shot.id: reader.read(SOURCE / "proofs", shot) for shot in reel.shots}


@pytest.fixture(autouse=True)
def a_home_of_its_own(tmp_path_factory, monkeypatch):
    """What is kept for the person (draft cuts, recent reels) is kept for the test alone."""
    home = tmp_path_factory.mktemp("home")
    for name in ("CONFIG", "STATE", "DATA"):
        monkeypatch.setenv(f"XDG_{name}_HOME", str(home / name.lower()))


@pytest.fixture(scope="session")
def demo_kept(tmp_path_factory) -> Path:
    """The demo reel copied once as a person has it; tests link its pictures."""
    return copy_demo(tmp_path_factory.mktemp("demo"), datetime.now().astimezone()).parent


def _linked(source: str, target: str) -> None:
    """Pictures are never written in place, so that a second name is as good as a copy, and takes a tenth of the time."""
    if source.endswith(".exr"):
        os.link(source, target)
    else:
        shutil.copy2(source, target)


@pytest.fixture
def demo_path(tmp_path: Path, demo_kept: Path) -> Path:
    """The demo reel in a folder of its own."""
    shutil.copytree(demo_kept, tmp_path / "demo", copy_function=_linked)
    return tmp_path / "demo" / DEMO_NAME


@pytest.fixture
def small_path(demo_path: Path) -> Path:
    """The demo reel delivered at 96 x 54, holding noise, with few samples: its frames take a fraction of a second."""
    reel = read_reel(demo_path)
    recipes = tuple(
        msgspec.structs.replace(r, samples_floor=4, samples_ceiling=8, shutter_steps=4, denoise_window=3, denoise_thorough=0, despike=0)
        for r in reel.recipes
    )
    shots = tuple(msgspec.structs.replace(s, departures={}, hold=Hold(kind="noise", value=NOISE[s.id])) for s in reel.shots)
    due = (datetime.now().astimezone() + timedelta(hours=2)).isoformat(timespec="seconds")
    save_reel(demo_path, msgspec.structs.replace(reel, width=96, height=54, recipes=recipes, shots=shots, due=due))
    return demo_path


@pytest.fixture
def call(capsys):
    """Run a command of the command line; gives exit status, standard output and standard error."""

    def run(*arguments: object) -> tuple[int, str, str]:
        with pytest.raises(SystemExit) as leave:
            main([str(a) for a in arguments])
        out, err = capsys.readouterr()
        return int(leave.value.code or 0), out, err

    return run


SLOW = (
    "bench", "desk", "farm", "finish", "handover", "measure", "run", "studio", "plan/test_timeleft.py", "plan/test_bundles.py",
    "plan/test_schedule.py", "evidence/test_measured.py", "settings/test_own_settings.py", "test_cli.py", "test_cli_links.py",
    "test_examples.py", "test_hardening.py", "test_machinecode.py", "test_newcomer.py", "test_ownprocess.py",
)  # fmt: skip
"""Rooms and modules of tests that render, compile, open windows, or start programs."""
QUICK_ALL_THE_SAME = ("run/test_state.py",)


def pytest_addoption(parser):
    parser.addoption("--quick", action="store_true", help="Only tests that render nothing and open no window.")


def pytest_configure(config):
    """With --quick, fewer examples are drawn."""
    if config.getoption("--quick"):
        settings.load_profile("quick")


def pytest_ignore_collect(collection_path, config):
    """With --quick, leave out what renders or opens a window; None leaves the choice to others."""
    if not config.getoption("--quick") or collection_path.suffix != ".py":
        return None
    place = collection_path.relative_to(Path(__file__).parent).as_posix()
    slow = place.startswith(tuple(name if "." in name else f"{name}/" for name in SLOW))
    return True if slow and place not in QUICK_ALL_THE_SAME else None


LONG = ("test_newcomer.py", "test_cluster.py", "test_own_settings.py", "test_chain.py", "test_denoise.py")


def pytest_collection_modifyitems(items):
    """Begin with what takes longest, so that no worker is left with it alone at the end."""
    items.sort(key=lambda item: item.path.name not in LONG)
