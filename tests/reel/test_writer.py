"""One writer for each reel; reels without a name; many shots of one name."""

from __future__ import annotations

import subprocess
import sys
from datetime import datetime

import msgspec
import pytest

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.errors import ReelError
from hasty_reel.reel.edits import brought_in
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.fresh import FIRST_SCENE, fresh_reel
from hasty_reel.reel.history import History
from hasty_reel.reel.untitled import bring_proofs, drop_untitled, is_untitled, keep_untitled, left_untitled, untitled_folder
from hasty_reel.reel.writer import ReelWriter, content_of, writing

NOW = datetime(2026, 11, 24, 21, 14, 3).astimezone()
HOLDS = """
import sys, time
from pathlib import Path
from hasty_reel.reel.writer import ReelWriter

writer = ReelWriter(Path(sys.argv[1]))
print(writer.take(), flush=True)
time.sleep(60)
"""


@pytest.fixture
def reel_path(tmp_path):
    path = tmp_path / "a.reel"
    save_reel(path, made_reel())
    return path


def test_one_of_two_writers_has_it_and_the_other_knows_who(reel_path):
    first, second = ReelWriter(reel_path), ReelWriter(reel_path)
    assert first.take() and first.take() and not second.take()
    assert "another window on this machine (process" in second.holder
    first.release()
    assert second.take() and not first.held
    second.release()


def test_the_lock_of_a_killed_process_is_free_again(reel_path):
    other = subprocess.Popen([sys.executable, "-c", HOLDS, str(reel_path)], stdout=subprocess.PIPE, text=True)
    assert other.stdout is not None and other.stdout.readline().strip() == "True"
    mine = ReelWriter(reel_path)
    assert not mine.take() and f"process {other.pid}" in mine.holder
    with pytest.raises(ReelError, match="is open in another window"), writing(reel_path):
        pass
    other.kill()
    other.wait()
    assert mine.take()
    mine.release()


def test_a_folder_that_takes_no_lock_may_be_written_by_everybody(tmp_path):
    writer = ReelWriter(tmp_path / "gone" / "a.reel")
    assert writer.take() and writer.held
    writer.release()
    assert not writer.held


def test_content_tells_a_changed_file_from_one_that_was_only_touched(reel_path):
    before = content_of(reel_path)
    reel_path.touch()
    assert content_of(reel_path) == before
    save_reel(reel_path, msgspec.structs.replace(made_reel(), name="Other"))
    assert content_of(reel_path) != before and content_of(reel_path.with_name("none")) is None


def test_a_reel_without_a_name_is_kept_found_again_and_dropped():
    path = keep_untitled(fresh_reel("Untitled", FIRST_SCENE, NOW), NOW)
    assert is_untitled(path) and path.is_relative_to(untitled_folder())
    assert [p for p, _ in left_untitled()] == [path]
    writer = ReelWriter(path)
    assert writer.take() and left_untitled() == [], "one that is open is not left"
    writer.release()
    drop_untitled(path)
    assert left_untitled() == [] and not path.exists()


def test_only_a_reel_without_a_name_is_ever_dropped(reel_path):
    drop_untitled(reel_path)
    assert reel_path.is_file() and not is_untitled(reel_path)


def test_proofs_of_a_reel_without_a_name_go_with_it_and_over_nobody_elses(tmp_path):
    path = keep_untitled(fresh_reel("Untitled", FIRST_SCENE, NOW), NOW)
    reel = read_reel(path)
    (path.parent / reel.proofs / "sh010").mkdir(parents=True)
    (path.parent / reel.proofs / "sh010" / "a").write_text("mine")
    (tmp_path / "proofs").mkdir()
    (tmp_path / "proofs" / "theirs").write_text("theirs")
    saved = bring_proofs(path, tmp_path / "tide.reel", reel)
    assert saved.proofs == "tide-proofs" and (tmp_path / "tide-proofs" / "sh010" / "a").read_text() == "mine"
    assert [p.name for p in (tmp_path / "proofs").iterdir()] == ["theirs"]
    (tmp_path / "file").touch()
    with pytest.raises(ReelError, match="its proofs cannot be copied"):
        bring_proofs(path, tmp_path / "file" / "b.reel", reel)
    drop_untitled(path)


def test_what_no_undo_may_take_back_is_changed_everywhere():
    reel = made_reel()
    history = History(reel)
    history.edit("a", msgspec.structs.replace(reel, name="b"))
    history.edit("b", msgspec.structs.replace(reel, name="c"))
    history.undo()
    history.everywhere(lambda r: msgspec.structs.replace(r, proofs="elsewhere"))
    names = [(history.reel.name, history.reel.proofs)]
    history.redo()
    names.append((history.reel.name, history.reel.proofs))
    history.undo()
    history.undo()
    names.append((history.reel.name, history.reel.proofs))
    assert names == [("b", "elsewhere"), ("c", "elsewhere"), (reel.name, "elsewhere")]


def test_thousands_of_shots_of_one_name_get_names_of_their_own():
    reel = made_reel()
    shot = msgspec.structs.replace(reel.shots[0], id="rings")
    many = brought_in(reel, [shot] * 3000)
    new = [s.id for s in many.shots[len(reel.shots) :]]
    assert len(set(new)) == 3000 and new[:3] == ["rings", "ringsb", "ringsc"] and new[26] == "rings-2"
    again = brought_in(many, [shot, msgspec.structs.replace(shot, id="ringsb")])
    assert len({s.id for s in again.shots}) == len(again.shots)
