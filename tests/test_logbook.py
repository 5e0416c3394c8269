"""The log, windows that ended badly, and the details for a report."""

from __future__ import annotations

import json
import logging
import os
import subprocess
import sys
import threading

import pytest

from hasty_reel.own import logbook
from hasty_reel.own.logbook import LOG, OpenMark, begin_log, end_log, ended_badly, keep_faults, log_path, report_details, without_names


@pytest.fixture(autouse=True)
def hooks(monkeypatch):
    """What this process does with faults is as it was afterwards."""
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(threading, "excepthook", threading.excepthook)
    yield
    end_log()


def test_faults_are_kept_with_where_they_happened_and_told_in_a_sentence():
    told = []
    begin_log()
    begin_log()
    keep_faults(told.append)
    assert len(LOG.handlers) == 1, "once is enough"
    try:
        raise ZeroDivisionError("no tide")
    except ZeroDivisionError:
        sys.excepthook(*sys.exc_info())
    thread = threading.Thread(target=lambda: {}["gauge"])
    thread.start(), thread.join()
    assert len(told) == 2 and "ZeroDivisionError: no tide" in told[0] and "The reel is as it was." in told[1]
    text = log_path().read_text()
    assert "Traceback" in text and "test_faults_are_kept" in text and "KeyError" in text


def test_the_log_is_turned_over_before_it_grows_large(monkeypatch):
    monkeypatch.setattr(logbook, "LOG_BYTES", 2000)
    begin_log()
    for k in range(200):
        LOG.info("frame %d was rendered", k)
    files = sorted(p.name for p in log_path().parent.glob("hasty-reel.log*"))
    assert files == ["hasty-reel.log", "hasty-reel.log.1", "hasty-reel.log.2"] and log_path().stat().st_size <= 2000


def test_a_window_that_was_killed_is_told_once_and_one_that_was_closed_never(tmp_path):
    mark = OpenMark("closed.reel")
    assert ended_badly() == [], "it is open"
    mark.close()
    code = "from hasty_reel.own.logbook import OpenMark; import os, signal; OpenMark('bay.reel'); os.kill(os.getpid(), signal.SIGKILL)"
    assert subprocess.run([sys.executable, "-c", code], env=os.environ, check=False).returncode == -9
    found = ended_badly()
    assert [e.reel for e in found] == ["bay.reel"] and found[0].since[:2] == "20" and ended_badly() == []
    (logbook.state_folder() / "open-1.json").write_text(json.dumps({"reel": "x"}))
    (logbook.state_folder() / "open-999999999.json").write_text("[1, 2")
    assert ended_badly() == [], "what cannot be read tells nothing"


def test_a_crash_leaves_where_it_happened():
    code = "from hasty_reel.own.logbook import OpenMark; import ctypes; OpenMark(''); ctypes.string_at(0)"
    assert subprocess.run([sys.executable, "-c", code], env=os.environ, check=False, capture_output=True).returncode == -11
    assert "Segmentation fault" in (logbook.state_folder() / "crash.txt").read_text()


@pytest.mark.parametrize(
    "line, left",
    [
        ("read /home/somebody/film/bay.0001.exr in 3 s", "read [name] in 3 s"),
        ("renderer 'Secret thing' ended", "renderer [name] ended"),
        ("~/tide.reel: no shots", "[name]: no shots"),
        ("3 of 4 frames, 1/2 done", "3 of 4 frames, 1[name] done"),
    ],
)
def test_names_of_files_are_left_out(line, left):
    assert without_names(line) == left


def test_details_hold_versions_and_the_log_without_names_unless_agreed():
    begin_log()
    logging.getLogger("hasty_reel").warning("cannot read /home/somebody/a.exr")
    told = report_details(["Screens: 1280x800"])
    assert "Hasty Reel 0." in told and "numpy 2." in told and "Screens: 1280x800" in told and "somebody" not in told
    assert "/home/somebody/a.exr" in report_details(names=True)
