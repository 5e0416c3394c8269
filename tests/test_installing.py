"""The program as it is installed: the wheel by itself, its entry in the desktop, man pages and completion held to the commands."""

from __future__ import annotations

import configparser
import os
import shutil
import subprocess
import sys
import sysconfig
import xml.etree.ElementTree as ElementTree
from pathlib import Path

import pytest

import hasty_reel
from hasty_reel.share.integration import DATA, ICON_SIZES, add_to_desktop, places, remove_from_desktop

ROOT = Path(__file__).parent.parent


def run(*words: object, **more) -> subprocess.CompletedProcess[str]:
    return subprocess.run([str(w) for w in words], capture_output=True, text=True, timeout=300, **more)


@pytest.fixture(scope="module")
def installed(tmp_path_factory) -> Path:
    """The built wheel in a fresh environment that sees the packages it needs, and nothing of this checkout."""
    folder = tmp_path_factory.mktemp("installed")
    source = folder / "source"
    skipped = shutil.ignore_patterns(".*", "build", "dist", "*.egg-info", "__pycache__", "tests", "benchmarks", "docs")
    shutil.copytree(ROOT, source, ignore=skipped)
    built = run(sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "--no-build-isolation", "-w", folder, source)
    assert built.returncode == 0, built.stderr
    venv = folder / "venv"
    assert run(sys.executable, "-m", "venv", "--without-pip", venv).returncode == 0
    into = venv / "lib" / f"python{sys.version_info.major}.{sys.version_info.minor}" / "site-packages"
    (into / "needed.pth").write_text(sysconfig.get_paths()["purelib"] + "\n")
    wheel = next(folder.glob("*.whl"))
    done = run(sys.executable, "-m", "pip", "--python", venv, "install", "-q", "--no-deps", "--no-index", wheel)
    assert done.returncode == 0, done.stderr
    shutil.rmtree(source)
    return venv


def test_the_wheel_brings_all_that_it_needs(installed, tmp_path):
    env = {**os.environ, "XDG_DATA_HOME": str(tmp_path / "share"), "HOME": str(tmp_path)}
    env.pop("PYTHONPATH", None)
    program = installed / "bin" / "hasty-reel"
    told = run(program, "--version", env=env, cwd=tmp_path)
    assert told.stdout == f"Hasty Reel {hasty_reel.__version__}\n"
    where = run(installed / "bin" / "python", "-c", "import hasty_reel; print(hasty_reel.__file__)", env=env, cwd=tmp_path)
    assert Path(where.stdout.strip()).is_relative_to(installed), "it is what the wheel holds that runs"
    demo = run(program, "demo", "--copy-only", "--folder", tmp_path / "demo", env=env, cwd=tmp_path)
    assert demo.returncode == 0 and Path(demo.stdout.strip()).is_file(), demo.stderr
    window = run(program, "window", "--picture", tmp_path / "start.png", env=env, cwd=tmp_path)
    assert window.returncode == 0 and (tmp_path / "start.png").read_bytes()[:4] == b"\x89PNG", window.stderr
    assert run(program, "desktop", "add", env=env, cwd=tmp_path).returncode == 0
    entry = (tmp_path / "share/applications/hasty-reel.desktop").read_text()
    assert f"Exec={program} %f" in entry, "a menu starts it where it is installed"


def test_what_is_put_into_the_desktop_is_taken_away_whole(tmp_path):
    others = tmp_path / "applications" / "other.desktop"
    others.parent.mkdir()
    others.write_text("[Desktop Entry]\n")
    written = add_to_desktop(tmp_path)
    assert len(written) == len(places()) and all(p.is_file() and p.stat().st_size for p in written)
    assert {p.parent.parent.name for p in written if p.suffix == ".png"} == {f"{s}x{s}" for s in ICON_SIZES}
    assert sorted(remove_from_desktop(tmp_path)) == sorted(written) and others.is_file()
    assert not remove_from_desktop(tmp_path), "and a second time nothing is left"


def test_the_menu_entry_has_the_keys_that_the_specification_asks_for():
    """Desktop Entry Specification 1.5, freedesktop.org: required keys, and lists that end with a semicolon (from memory)."""
    reader = configparser.RawConfigParser(interpolation=None, strict=True)
    reader.optionxform = str  # type: ignore[assignment, method-assign]
    reader.read(DATA / "hasty-reel.desktop")
    entry = reader["Desktop Entry"]
    assert entry["Type"] == "Application" and entry["Name"] and entry["Exec"].split() == ["hasty-reel", "%f"]
    assert all(entry[key].endswith(";") for key in ("Categories", "Keywords", "MimeType"))
    kind = ElementTree.parse(DATA / "hasty-reel.xml").getroot()[0]
    assert entry["MimeType"] == kind.attrib["type"] + ";" and kind.find("{*}glob").attrib["pattern"] == "*.reel"  # type: ignore[union-attr]


@pytest.mark.skipif(shutil.which("appstreamcli") is None, reason="appstreamcli is not installed")
def test_the_software_catalogue_takes_its_metadata():
    found = run("appstreamcli", "validate", "--no-net", DATA / "hasty-reel.metainfo.xml")
    assert found.returncode == 0, found.stdout


@pytest.mark.skipif(shutil.which("desktop-file-validate") is None, reason="desktop-file-validate is not installed")
def test_the_menu_entry_is_valid():
    found = run("desktop-file-validate", DATA / "hasty-reel.desktop")
    assert found.returncode == 0, found.stdout


def test_man_pages_and_completion_are_those_of_the_commands(monkeypatch):
    monkeypatch.syspath_prepend(str(ROOT / "docs"))
    import manpages

    kept = {p.name: p.read_text(encoding="utf-8") for p in (DATA / "man").glob("*.1")}
    assert kept == manpages.pages(), "run python docs/manpages.py"
    for shell in manpages.SHELLS:
        assert (DATA / "completion" / f"hasty-reel.{shell}").read_text() == manpages.completion(shell)


@pytest.mark.skipif(shutil.which("groff") is None, reason="groff is not installed")
def test_man_pages_are_read_without_a_warning():
    for page in sorted((DATA / "man").glob("*.1")):
        found = run("groff", "-man", "-Tutf8", "-Kutf8", "-ww", "-z", page)
        assert not found.stderr.strip(), f"{page.name}: {found.stderr[:300]}"


@pytest.mark.skipif(shutil.which("bash") is None, reason="bash is not installed")
def test_a_shell_completes_commands_and_their_options():
    program = Path(sys.executable).with_name("hasty-reel")
    env = {**os.environ, "_HASTY_REEL_COMPLETE": "bash_complete", "COMP_WORDS": "hasty-reel est", "COMP_CWORD": "1"}
    assert run(program, env=env).stdout.split(",")[-1].strip() == "estimate"
    env |= {"COMP_WORDS": "hasty-reel estimate --js", "COMP_CWORD": "2"}
    assert "--json" in run(program, env=env).stdout
