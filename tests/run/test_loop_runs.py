"""A loop rendered and finished for real: its first frame is finished with its last ones, by `run` and by `finish` alike."""

from __future__ import annotations

import msgspec
import numpy as np

from hasty_reel.finish.chain import FINISH, Chain
from hasty_reel.finish.finisher import Finisher
from hasty_reel.pictures.frame import read_picture
from hasty_reel.reel.edits import with_move
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.reel.moves import Loop


def test_a_loop_is_finished_over_its_seam(small_path, tmp_path, call):
    reel = with_move(read_reel(small_path), "sh050", Loop(seconds=0.5))
    save_reel(small_path, msgspec.structs.replace(reel, due="2099-01-01T00:00:00+00:00"))
    out = tmp_path / "frames"
    status, said, _ = call("run", small_path, "--shot", "sh050", "--out", out)
    assert status == 0, said
    folder = out / "sh050" / "rendered"
    first = out / "sh050" / "sh050.1001.exr"
    written = first.stat().st_mtime_ns
    finished = read_picture(first)
    assert str(finished.attributes[FINISH]).endswith(" in a loop")
    rendered = {int(p.stem[-4:]): p for p in folder.glob("*.exr")}
    assert sorted(rendered) == list(range(1001, 1013))
    chain = Chain(window=3, thorough=False, loop=(1001, 1012))
    again = Finisher(chain, lambda f: read_picture(rendered[f])).finish(1001, chain.needed(1001, rendered)).rgb
    assert np.allclose(finished.rgb, again, rtol=2e-3, atol=1e-4), "but for half floats"
    ended = Finisher(Chain(window=3, thorough=False), lambda f: read_picture(rendered[f]))
    assert not np.allclose(finished.rgb, ended.finish(1001, range(1001, 1006)).rgb, rtol=2e-3, atol=1e-4)
    status, _, _ = call("run", small_path, "--shot", "sh050", "--out", out, "--resume")
    assert status == 0 and first.stat().st_mtime_ns == written

    pattern = str(folder / first.name.replace("1001", "####"))
    status, _, err = call("finish", pattern, "--out", tmp_path / "own.####.exr", "--window", "3", "--quick", "--loop")
    assert status == 0, err
    assert np.allclose(read_picture(tmp_path / "own.1001.exr").rgb, again, rtol=2e-3, atol=1e-4)
    rendered[1005].unlink()
    status, _, err = call("finish", pattern, "--out", tmp_path / "hole.####.exr", "--window", "3", "--loop")
    assert status == 1 and "--loop: frames " in err and "expected every frame from the first" in err
