"""Saving that loses nothing: earlier saves, the autosave, a kill in the middle."""

from __future__ import annotations

import os
import subprocess
import sys
from datetime import datetime, timedelta
from pathlib import Path

import msgspec
import pytest

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.errors import ReelError
from hasty_reel.measure.seen import Eyes
from hasty_reel.measure.viewing import eyes_for
from hasty_reel.own.recentreels import MOST_REELS, recent_reels, remember
from hasty_reel.reel import file as reel_file
from hasty_reel.reel.file import read_reel, reel_text, save_reel, schema_text
from hasty_reel.reel.saves import KEPT, autosave, autosave_path, earlier_saves, forget_autosave, save_keeping, unsaved
from hasty_reel.reel.shot import CLEAN
from hasty_reel.wholefile import part_of

ROOT = Path(__file__).parents[2]
NOW = datetime(2026, 11, 24, 21, 14, 3)


def named(name: str):
    return msgspec.structs.replace(made_reel(), name=name)


def test_the_last_five_saves_are_kept(tmp_path):
    path = tmp_path / "a.reel"
    for k in range(8):
        save_keeping(path, named(f"Save {k}"), NOW + timedelta(seconds=k))
    assert read_reel(path).name == "Save 7"
    assert [read_reel(p).name for p in earlier_saves(path)] == [f"Save {k}" for k in (6, 5, 4, 3, 2)] and KEPT == 5
    assert earlier_saves(path)[0].name == "2026-11-24T21-14-10.000.reel"


def test_what_was_not_saved_is_found_again(tmp_path):
    path = tmp_path / "a.reel"
    save_reel(path, named("Saved"))
    assert unsaved(path, read_reel(path)) is None
    autosave(path, named("Further"))
    assert unsaved(path, read_reel(path)) == named("Further") and read_reel(path).name == "Saved"
    save_keeping(path, named("Further"), NOW)
    assert not autosave_path(path).exists()
    autosave(path, named("Again"))
    forget_autosave(path)
    assert unsaved(path, read_reel(path)) is None
    autosave_path(path).write_text("{broken")
    assert unsaved(path, read_reel(path)) is None, "an autosave that cannot be read is worth nothing"


KILLED = """
import os, signal, sys, time, random
from pathlib import Path
from datetime import datetime
import msgspec
from hasty_reel.demo.make import demo_reel
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.shot import CLEAN
from hasty_reel.reel.saves import save_keeping, autosave, earlier_saves, unsaved
path = Path(sys.argv[1]); reel = demo_reel(); random.seed(7)
def named(n): return msgspec.structs.replace(reel, name=f"n {n}")
save_keeping(path, named(0), datetime.now())
number, killed_within = 0, 0
for round in range(100):
    take, give = os.pipe()
    child = os.fork()
    if child == 0:
        n = number
        while True:
            n += 1
            autosave(path, named(n))
            os.write(give, b"b")
            save_keeping(path, named(n), datetime.now())
            os.write(give, b"s")
    os.read(take, 1)  # it has begun
    time.sleep(random.uniform(0.0, 0.02))
    os.kill(child, signal.SIGKILL); os.waitpid(child, 0)
    os.close(give)
    done = b"b"  # what was read while waiting
    while piece := os.read(take, 1 << 16): done += piece
    os.close(take)
    saved = number + done.count(b"s")
    found = int(read_reel(path).name.split()[1])
    assert found in (saved, saved + 1), (round, saved, found)
    killed_within += done.count(b"b") > done.count(b"s")
    for old in earlier_saves(path): read_reel(old)
    unsaved(path, read_reel(path))
    number = found
left = [p.name for p in path.parent.iterdir() if p.name.endswith(".part")]
save_keeping(path, named(number), datetime.now())
print(killed_within, len(left), len([p for p in path.parent.iterdir() if p.name.endswith(".part")]))
"""


def test_killed_a_hundred_times_in_a_loop_of_saves_it_always_opens_at_the_last_or_the_one_before(tmp_path):
    done = subprocess.run([sys.executable, "-c", KILLED, str(tmp_path / "k.reel")], capture_output=True, text=True, timeout=120)
    assert done.returncode == 0, done.stderr
    within, _, left = (int(x) for x in done.stdout.split())
    assert within >= 10, "too few kills fell within a save to say anything"
    assert left == 0, "what a killed save left behind is cleared away by the next"


def test_half_an_autosave_of_a_killed_session_goes_with_the_next_save(tmp_path):
    dead = subprocess.Popen([sys.executable, "-c", ""])
    dead.wait()
    path = tmp_path / "r.reel"
    half = tmp_path / part_of(autosave_path(path)).name.replace(str(os.getpid()), str(dead.pid))
    half.write_text("{")
    save_keeping(path, made_reel(), NOW)
    assert not half.exists() and read_reel(path) == made_reel()


def test_an_older_format_is_brought_up_when_it_is_read_and_the_file_stays(tmp_path, monkeypatch):
    """A made-up format 0 that called the rate 'fps': the steps are what is tested."""
    path = tmp_path / "old.reel"
    document = msgspec.json.decode(reel_text(made_reel()))
    document["reel_format"] = 0
    document["fps"] = document.pop("rate")[0]
    path.write_bytes(msgspec.json.encode(document))
    before = path.read_bytes()

    def up(old):
        old["rate"] = [old.pop("fps"), 1]
        return old

    monkeypatch.setitem(reel_file.UPGRADES, 0, up)
    monkeypatch.setitem(reel_file.UPGRADES, 1, lambda old: old)
    assert read_reel(path) == made_reel()
    assert path.read_bytes() == before


def test_limits_of_an_older_reel_stay_what_they_were(tmp_path):
    """Told in percent of what the eyes that count just see: 100 is by the eye test, 160 the share of viewers who see 1.6 JND."""
    document = msgspec.json.decode(reel_text(made_reel()))
    document["reel_format"] = 1
    del document["calm"], document["viewing"]
    for k, value in enumerate((100.0, 160.0)):
        document["shots"][k]["hold"] = {"kind": "clean", "value": value, "of": "mean", "goal": "even"}
    path = tmp_path / "old.reel"
    path.write_bytes(msgspec.json.encode(document))
    reel = read_reel(path)
    one, two = reel.shots[:2]
    assert reel.calm == "eyes" and one.calm is None and one.hold == CLEAN
    assert eyes_for(reel, one).limit == 1.0 and eyes_for(reel, one, Eyes(limit=2.3)).limit == 2.3
    assert eyes_for(reel, two).limit == pytest.approx(1.6, rel=0.01) and two.hold == CLEAN


def test_a_reel_of_the_first_version_still_opens(tmp_path):
    """Fields that came later mean what their absence meant."""
    document = msgspec.json.decode(reel_text(made_reel()))
    document["reel_format"] = 1
    for name in ("timecode_start", "drop_frame", "pixel_aspect", "camera_aspect", "panorama", "calm", "viewing"):
        del document[name]
    document["shots"] = document["shots"][:2]
    for shot in document["shots"]:
        for name in ("step", "offset", "handle_in", "handle_out", "move", "enabled", "note", "evidence", "layers"):
            del shot[name]
    document["machines"] = [{"name": "Harbour desk", "speed": 1.0, "workers": 1}]
    path = tmp_path / "first.reel"
    path.write_bytes(msgspec.json.encode(document))
    reel = read_reel(path)
    assert reel.machines[0].free == () and reel.shots[0].enabled and reel.shots[0].frames == range(1001, 1097)


def test_the_schema_in_the_documents_is_that_of_the_code():
    assert (ROOT / "docs" / "reel.schema.json").read_text() == schema_text(), "write it anew: python -m hasty_reel.reel.file"


def test_recent_reels_are_those_that_are_there_newest_first(tmp_path):
    kept = tmp_path / "state" / "recent.json"
    for k in range(MOST_REELS + 3):
        path = tmp_path / f"{k}.reel"
        path.touch()
        remember(kept, path)
    remember(kept, tmp_path / "5.reel")
    (tmp_path / "7.reel").unlink()
    found = [p.stem for p in recent_reels(kept)]
    assert found[0] == "5" and "7" not in found and len(found) == len(set(found)) <= MOST_REELS
    kept.write_text("[1, 2")
    assert recent_reels(kept) == []


@pytest.mark.parametrize("folder", ["removed", "file"])
def test_a_folder_that_is_gone_or_none_is_told_and_not_made_again(tmp_path, folder):
    (tmp_path / "file").touch()
    with pytest.raises(ReelError, match="cannot be saved"):
        save_keeping(tmp_path / folder / "a.reel", made_reel(), NOW)
    with pytest.raises(ReelError, match="cannot be kept"):
        autosave(tmp_path / folder / "a.reel", made_reel())
    assert not (tmp_path / "removed").exists()
