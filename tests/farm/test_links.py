"""The renderer link: command lines with places, and what becomes of a renderer that misbehaves."""

from __future__ import annotations

import json
import subprocess
import sys
import threading
import time

import msgspec
import numpy as np
import pytest

from faulty_renderer import FAULTY_RENDERER
from hasty_reel.errors import RendererFault, Stopped, WrongInput
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.renderers import renderer_of, try_link
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.farm.renderers.command import placeholder_values, render_by_command, seconds_by_part
from hasty_reel.farm.renderers.links import BY_COMMAND, LINKS, SHIPPED, Link, checked_link
from hasty_reel.farm.renderers.statistics import read_seconds
from hasty_reel.programs.commands import command_text, filled, read_command
from hasty_reel.programs.watched import run_watched
from hasty_reel.reel.file import read_reel
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken, silent

RECIPE = Recipe(name="a", shutter_steps=2, bounces=2)
JOB = FrameJob("soft_corner", 1001, 32, 18, 4, RECIPE)


def faulty(*faults: str, timeout: float = 60.0) -> Link:
    command = BY_COMMAND.command
    return msgspec.structs.replace(BY_COMMAND, name="Bad", command=(*FAULTY_RENDERER, *faults, *command[2:]), timeout=timeout)


def test_the_bench_renderer_gives_the_same_picture_through_either_door():
    inside = render_on_bench(JOB)
    outside = renderer_of(BY_COMMAND)(JOB, silent, None, None)
    assert np.allclose(outside.picture.rgb, inside.picture.rgb, rtol=2e-3, atol=1e-4), "half floats in between"
    assert set(outside.picture.guides) == set(inside.picture.guides)
    assert outside.sample_seconds > 0 and outside.load_seconds > 0.1, "starting the program is paid as load"
    assert outside.memory_bytes > 50 * 2**20 and "sampling" in outside.messages
    assert outside.picture.attributes["hr:recipe"] == JOB.hash


@pytest.mark.parametrize(
    "faults, words",
    [
        (("--crash-at", "1001"), r"Frame 1001: the renderer ended with status 139. It said: ran out of texture memory"),
        (("--half-at", "1001"), r"Frame 1001: the picture is not whole"),
        (("--nothing-at", "1001"), r"Frame 1001: the renderer ended well but wrote no picture"),
        (("--wrong-size-at", "1001"), r"Frame 1001: the picture is 7x5; expected 32x18"),
        (("--not-finite-at", "1001"), r"Frame 1001: 1 pixels are not finite"),
    ],
)
def test_each_fault_is_one_clear_message(faults, words):
    with pytest.raises(RendererFault, match=words) as error:
        render_by_command(faulty(*faults), JOB)
    assert "\n" not in str(error.value)


def test_a_renderer_that_hangs_is_ended_at_its_time_out_and_leaves_no_process():
    began = time.perf_counter()
    with pytest.raises(RendererFault, match=r"Frame 1001: the renderer was ended after 0.5 s, its time-out"):
        render_by_command(faulty("--hang-at", "1001", timeout=0.5), JOB)
    assert time.perf_counter() - began < 5
    assert "--hang-at" not in subprocess.run(["ps", "-eo", "args"], capture_output=True, text=True).stdout


def test_a_renderer_is_stopped_at_once_when_asked():
    cancel = CancelToken()
    threading.Timer(0.3, cancel.cancel).start()
    began = time.perf_counter()
    with pytest.raises(Stopped):
        render_by_command(faulty("--slow-start", "30"), JOB, cancel=cancel)
    assert time.perf_counter() - began < 3


def test_the_proof_goes_on_after_a_fault_and_nothing_half_written_counts(small_path):
    reel = read_reel(small_path)
    root = small_path.parent / reel.proofs
    shot = reel.shot("sh010")
    faults: dict[int, str] = {}
    link = faulty("--half-at", "1002", "--crash-at", "1003")
    order = ProofOrder(shot, reel.recipe_of(shot), (1001, 1002, 1003, 1004), 4, 50.0, seeds=1)
    proof = make_proof(reel, root, order, renderer=renderer_of(link), fault=faults.__setitem__)
    assert sorted(proof.by_frame()) == [1001, 1004] and sorted(faults) == [1002, 1003]
    assert sorted(p.name for p in (root / "sh010" / proof.id).glob("*.exr")) == ["sh010.1001.s1.exr", "sh010.1004.s1.exr"]
    with pytest.raises(RendererFault, match="no frame of it could be rendered"):
        make_proof(reel, root, of_frames(order, (1003,)), renderer=renderer_of(link), fault=faults.__setitem__)


def of_frames(order: ProofOrder, frames: tuple[int, ...]) -> ProofOrder:
    from dataclasses import replace

    return replace(order, frames=frames)


def test_places_are_filled_in_and_stay_one_argument(tmp_path):
    values = placeholder_values(FrameJob('"; rm -rf $HOME', 1001, 64, 36, 10, RECIPE, 3), tmp_path / "a b.exr")
    found = filled(("x", "--scene={scene}", "{width}x{height}", "{output}", "{samples}"), values)
    assert found == ["x", '--scene="; rm -rf $HOME', "64x36", str(tmp_path / "a b.exr"), "10"]


def test_nothing_is_given_to_a_shell(tmp_path):
    mark = tmp_path / "mark"
    link = Link(
        name="x",
        command=(sys.executable, "-c", "import sys; print(sys.argv[1:])", f"$(touch {mark})", f"; touch {mark}", "{frame}", "{output}"),
    )
    with pytest.raises(RendererFault, match=r"wrote no picture. It said: .*touch"):
        render_by_command(link, JOB)
    assert not mark.exists()


def test_progress_seconds_and_memory_are_read_from_what_it_prints():
    told: list[float] = []
    script = (
        "import time\nfor k in range(1, 5):\n    print('done', 25 * k, flush=True)\n    time.sleep(0.3)\nprint('load: 1.5s render: 2,5s')"
    )
    patterns = {"load": r"load: ([\d.]+)s", "sample": r"render: ([\d,]+)s"}
    link = Link(name="x", command=("x", "{frame}", "{output}"), progress=r"done (\d+)", seconds=patterns)
    ended = run_watched([sys.executable, "-c", script], link.watch, "Frame 1", lambda share, words: told.append(share), None)
    assert told and told == sorted(told) and 0.25 <= told[0] <= 1.0
    assert seconds_by_part(link, ended.messages) == {"load": 1.5, "sample": 2.5}
    assert ended.status == 0 and ended.seconds > 1.0 and ended.memory_bytes > 2**20


def test_the_test_of_a_link_says_how_it_went():
    words = try_link(BY_COMMAND, "soft_corner", 1).answer
    assert words.startswith("'Bench renderer by command' answers: 64x36 in") and "MB, with guides" in words
    with pytest.raises(RendererFault, match="no such program on this machine"):
        try_link(Link(name="x", command=("no-such-program-here", "{frame}", "{output}")), "soft_corner", 1)


@pytest.mark.parametrize(
    "link, words",
    [
        (Link(name=" "), "expected a name"),
        (Link(name="x", command=()), "expected a command line"),
        (Link(name="x", command=("a", "{frame}")), r"{output} is missing"),
        (Link(name="x", command=("a", "{output}")), r"{frame} is missing"),
        (Link(name="x", command=("a", "{frame}", "{output}", "{password}")), r"'{password}'; expected one of {frame}"),
        (Link(name="x", command=("a", "{frame}", "{output}"), timeout=0.0), "time-out 0 s"),
        (Link(name="x", command=("a", "{frame}", "{output}"), seconds={"load": "("}), "expected a regular expression that RE2 knows"),
        (Link(name="x", command=("a", "{frame}", "{output}"), seconds={"coffee": "(1)"}), "seconds of 'coffee'"),
        (Link(name="x", command=("a", "{frame}", "{output}"), progress="no group"), "of progress"),
    ],
)
def test_links_that_cannot_be_started_are_told(link, words):
    with pytest.raises(WrongInput, match=words):
        checked_link(link)


def test_links_are_kept_for_the_artist_and_never_in_a_reel(tmp_path, demo_path):
    path = tmp_path / "renderers.json"
    assert LINKS.read(path) == SHIPPED and SHIPPED.current.command is None
    links = SHIPPED.added(faulty())
    LINKS.save(links, path)
    assert LINKS.read(path).current == faulty()
    assert "hasty-bench" not in demo_path.read_text()
    for raw in (b"{", b"[]", b'{"links": [], "chosen": ""}', b"[" * 100_000):
        path.write_bytes(raw)
        with pytest.raises(WrongInput):
            LINKS.read(path)


def test_a_command_is_written_as_it_is_read():
    for command in (("a", "{output}", "b c", "it's", "", "$HOME", "--x={frame}"), ("prog", "é", "a;b")):
        assert read_command(command_text(command)) == command
    assert command_text(("prog", "{input}", "--to", "{output}")) == "prog {input} --to {output}"


def test_a_renderer_that_reads_a_job_file_and_names_its_picture_itself_is_told_everything(tmp_path):
    program = tmp_path / "ranges.py"
    program.write_text(
        "import json, shutil, subprocess, sys\n"
        "folder, first, last, job = sys.argv[1:]\n"
        f"shutil.copy(job, {str(tmp_path / 'job.json')!r})\n"
        "j = json.load(open(job)); size = f\"{j['width']}x{j['height']}\"; s = j['settings']\n"
        "out = f'{folder}/picture.{int(first):04}.exr'\n"
        "assert first == last\n"
        "subprocess.run([sys.executable, '-m', 'hasty_reel.bench', 'render', '--scene', j['scene'], '--frame', first, '--size', size,\n"
        "  '--samples', str(j['samples']), '--seed', str(j['seed']), '--steps', str(int(s['steps'])),\n"
        "  '--guides', '--out', out], check=True)\n"
    )
    link = checked_link(Link(name="ranges", command=(sys.executable, str(program), "{folder}", "{first}", "{last}", "{job}")))
    made = renderer_of(link)(JOB, silent, None, None)
    assert (made.picture.width, made.picture.height) == (JOB.width, JOB.height)
    told = json.loads((tmp_path / "job.json").read_text())
    assert told["say"] == "render" and told["shutter"] == [JOB.frame - 0.25, JOB.frame + 0.25], "180 degrees around the frame"
    assert {s.placeholder for s in JOB.recipe.settings if s.placeholder} == set(told["settings"])
    two = checked_link(Link(name="two", command=("sh", "-c", "touch {folder}/a.exr {folder}/b.exr; : {frame}")))
    with pytest.raises(RendererFault, match=r"Frame 1001: the renderer wrote 2 files \(a.exr, b.exr …\); expected one picture"):
        renderer_of(two)(JOB, silent, None, None)
    with pytest.raises(WrongInput, match=r"\{output\} is missing; expected the place of the picture that is written, or \{folder\}"):
        checked_link(Link(name="x", command=("render", "{frame}")))


def test_statistics_are_read_from_a_file_beside_the_picture_and_from_its_head(tmp_path):
    program = tmp_path / "tells.py"
    program.write_text(
        "import json, sys, numpy as np, OpenImageIO as oiio\n"
        "w, h, frame, out, stats = int(sys.argv[1]), int(sys.argv[2]), sys.argv[3], sys.argv[4], sys.argv[5]\n"
        "spec = oiio.ImageSpec(w, h, 3, oiio.FLOAT); spec.attribute('sampling_time', '0:00.25')\n"
        "o = oiio.ImageOutput.create(out); o.open(out, spec); o.write_image(np.full((h, w, 3), .5, np.float32)); o.close()\n"
        "told = {'seconds': {'load': 0.01, 'tea': 4}, 'samples': 7.5, 'memory_bytes': 2**40, 'weather': 'fair',\n"
        "  'objects': {'brass  orrery': 3.0, 'sea': 1.0, 'nothing': 0}, 'object_memory': {'sea': 1e6, 'x' * 500: 2e6}}\n"
        "open(stats, 'w').write(json.dumps(told))\n"
    )
    command = (sys.executable, str(program), "{width}", "{height}", "{frame}", "{output}", "{stats}")
    link = checked_link(Link(name="tells", command=command, seconds={"sample": "head:sampling_time"}))
    made = renderer_of(link)(JOB, silent, None, None)
    assert made.sample_seconds == pytest.approx(0.25) and made.samples == 7.5 and made.memory_bytes == 2**40 and not made.one_number
    assert made.objects == {"brass orrery": 3.0, "sea": 1.0} and list(made.object_memory.values()) == [2e6, 1e6]
    assert max(len(name) for name in made.object_memory) <= 80
    broken = msgspec.structs.replace(link, command=("sh", "-c", f"{sys.executable} {program} $0 $1 $2 $3 $4; echo no > $4", *command[2:]))
    assert renderer_of(broken)(JOB, silent, None, None).objects == {}, "a file that cannot be read tells nothing"
    with pytest.raises(WrongInput, match="expected the name of an attribute"):
        checked_link(msgspec.structs.replace(link, seconds={"load": "head: "}))


@pytest.mark.parametrize(
    "text, seconds",
    [("12.5", 12.5), ("12,5", 12.5), ("1:02.5", 62.5), ("01:00:00", 3600), ("nan", None), ("-3", None), ("1:x", None), ("inf", None)],
)
def test_seconds_are_read_as_they_are_printed(text, seconds):
    assert read_seconds(text) == seconds
