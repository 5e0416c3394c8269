"""A renderer that renders a range of frames in one start: pictures taken as they come, starts paid once, faults cost a frame."""

from __future__ import annotations

import sys
import threading
import time
from dataclasses import replace

import msgspec
import psutil
import pytest

from hasty_reel.errors import RendererFault, Stopped, WrongInput
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers import frames_of_a_start, renderer_of
from hasty_reel.farm.renderers.links import Link, checked_link
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_frames, with_line
from hasty_reel.reel.file import read_reel
from hasty_reel.run.framestate import FINISHED
from hasty_reel.run.shotrun import Run
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken, silent

JOB = FrameJob("tide", 1001, 32, 18, 4, Recipe(name="Final"), ahead=tuple((f, 4 + f % 3) for f in range(1002, 1040)))
PROGRAM = """
import os, sys, time, numpy as np, OpenImageIO as oiio
log, faults, first, last, w, h, samples, folder = sys.argv[1], sys.argv[2], *map(int, sys.argv[3:8]), sys.argv[8]
open(log, 'a').write(f'{first}-{last} {samples}\\n')
time.sleep(.3)
for frame in range(first, last + 1):
    if f'crash@{frame}' in faults and not os.path.exists(log + f'.{frame}'):
        open(log + f'.{frame}', 'w')
        print('ran out of brass', flush=True); os._exit(3)
    if f'skip@{frame}' in faults: continue
    if f'hang@{frame}' in faults: time.sleep(3600)
    time.sleep(.1 if frame % 2 else .3)
    out = oiio.ImageOutput.create(f'{folder}/tide.{frame:04}.exr')
    out.open(f'{folder}/tide.{frame:04}.exr', oiio.ImageSpec(w, h, 3, oiio.FLOAT))
    out.write_image(np.full((h, w, 3), frame / 2000.0, np.float32)); out.close()
"""


@pytest.fixture
def ranged(tmp_path):
    """Gives a link that misbehaves as told, and the starts that were made."""
    program, log = tmp_path / "ranged.py", tmp_path / "starts"
    program.write_text(PROGRAM)

    def link(faults: str = "none", frames: int = 5, timeout: float = 30.0) -> Link:
        places = ("{first}", "{last}", "{width}", "{height}", "{samples}", "{folder}")
        return checked_link(
            Link(name="r", command=(sys.executable, str(program), str(log), faults, *places), frames=frames, timeout=timeout)
        )

    return link, lambda: log.read_text().split("\n")[:-1] if log.exists() else []


def children() -> list[psutil.Process]:
    return [p for p in psutil.Process().children(recursive=True) if "ranged.py" in " ".join(p.cmdline())]


def test_a_range_is_rendered_in_one_start_and_told_frame_by_frame(ranged):
    link, starts = ranged
    renderer = renderer_of(link())
    assert frames_of_a_start(renderer) == 5
    made = [renderer(replace(JOB, frame=f, ahead=tuple(a for a in JOB.ahead if a[0] > f)), silent, None, None) for f in range(1001, 1007)]
    assert starts() == ["1001-1005 8", "1006-1010 8"], "all of a range get the samples of the one that needs most"
    assert [round(2000 * float(m.picture.rgb[0, 0, 0])) for m in made] == [*range(1001, 1007)]
    assert all(0.25 < m.sample_seconds < 0.6 for m in made[1:5:2]) and all(0.05 < m.sample_seconds < 0.3 for m in made[2:5:2])
    assert made[0].sample_seconds > 0.4 and all(m.one_number for m in made), "its start is of the first"
    assert made[0].samples == 8


def test_each_fault_costs_the_frame_it_had_and_the_rest_begins_anew(ranged):
    link, starts = ranged
    renderer = renderer_of(link("crash@1001,crash@1003"))
    with pytest.raises(RendererFault, match=r"Frame 1001: the renderer ended with status 3. It said: ran out of brass"):
        renderer(JOB, silent, None, None)
    for frame in (1001, 1002, 1003):  # that its process is gone meanwhile costs the last one nothing but a start
        assert renderer(replace(JOB, frame=frame), silent, None, None).picture.width == 32
    assert starts() == ["1001-1005 8", "1001-1005 8", "1003-1007 8"]
    lacking = r"Frame 1001: the renderer ended well but wrote no picture with this number; there are 1002, 1003"
    with pytest.raises(RendererFault, match=lacking):
        renderer_of(link("skip@1001"))(replace(JOB, frame=1001), silent, None, None)


def test_one_that_hangs_is_ended_when_asked_and_at_its_time_out(ranged):
    link, _ = ranged
    cancel = CancelToken()
    threading.Timer(1.0, cancel.cancel).start()
    began = time.perf_counter()
    with pytest.raises(Stopped):
        renderer_of(link("hang@1001"))(JOB, silent, cancel, None)
    with pytest.raises(RendererFault, match="was ended after 1 s, its time-out"):
        renderer_of(link("hang@1001", frames=2, timeout=0.5))(JOB, silent, None, None)
    time.sleep(0.5)
    assert time.perf_counter() - began < 8 and not children()


@pytest.mark.parametrize("workers", [1, 2])
def test_a_run_makes_a_start_for_each_range_and_loses_no_frame(small_path, tmp_path, ranged, workers):
    link, starts = ranged
    reel = with_frames(read_reel(small_path), "sh010", 1001, 1012)
    for name, value in {"denoise_window": 1, "despike": 0, "sharpen": 0.0, "shutter_steps": 0}.items():
        reel = with_line(reel, "sh010", name, value)
    shot = reel.shot("sh010")
    plan = plan_shot(reel, shot, ShotModel(EvidenceReader().read(small_path.parent / reel.proofs, shot), shot.frames))
    first = int(shot.scene_frame(1001))
    renderer = renderer_of(link(f"crash@{first + 6}", frames=6))
    run = Run(reel, plan, tmp_path / "out", renderer=renderer, finish=False)
    run.go(lambda event: None, CancelToken(), workers)
    assert set(run.states.values()) == {FINISHED} and 3 <= len(starts()) <= 2 + 2 * workers
    assert starts()[0].startswith(f"{first}-{first + 5}")


def test_what_a_range_needs_is_told():
    for command, words in (
        (("r", "{frame}", "{output}"), r"5 frames in one start; expected \{first\} and \{last\}"),
        (("r", "{first}", "{last}", "{output}"), "5 frames in one start"),
    ):
        with pytest.raises(WrongInput, match=words):
            checked_link(Link(name="x", command=command, frames=5))
    assert checked_link(Link(name="x", command=("r", "{frames}", "{folder}"), frames=5)).frames == 5
    with pytest.raises(WrongInput, match="expected 1 to 10000"):
        checked_link(msgspec.structs.replace(Link(name="x", command=("r", "{job}")), frames=0))


def test_what_its_command_cannot_tell_is_refused_before_anything_starts():
    lacks = Link(name="x", command=("r", "{frames}", "{folder}", "{own.brass}"), frames=5)
    with pytest.raises(RendererFault, match=r"it takes \{own.brass\}; expected a reel with that own setting"):
        renderer_of(lacks)(JOB, silent, None, None)
    with pytest.raises(RendererFault, match=r"its command takes no \{crop\}"):
        renderer_of(lacks)(replace(JOB, crop=(0, 0, 4, 4)), silent, None, None)
