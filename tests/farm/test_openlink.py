"""A renderer that stays open: what it keeps, what it is told, and each way in which it may fail."""

from __future__ import annotations

import json
import sys
import threading
import time
from dataclasses import replace
from pathlib import Path

import msgspec
import numpy as np
import psutil
import pytest

from hasty_reel import link
from hasty_reel.bench.moment import Moment
from hasty_reel.errors import RendererFault, Stopped, WrongInput
from hasty_reel.farm.halves import render_halves
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers import cache_maker, close_sessions, renderer_of, session_of
from hasty_reel.farm.renderers.links import Link, checked_link
from hasty_reel.farm.renderers.messages import ABILITIES, Load, as_line, read_answer, schema_text
from hasty_reel.farm.tiles import in_tiles
from hasty_reel.settings.own import OwnSetting, OwnValue
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken, silent
from open_link import OPEN, open_renderer  # noqa: F401  a fixture

PLAIN = Recipe(name="Final")
KEPT = Recipe(name="Final", keep_scene=1)
JOB = FrameJob("tide", 1001, 48, 27, 16, KEPT)
DOCS = Path(__file__).resolve().parents[2] / "docs"


def children() -> list[psutil.Process]:
    return [p for p in psutil.Process().children(recursive=True) if "open_renderer.py" in " ".join(p.cmdline())]


def test_the_schema_in_the_docs_is_that_of_the_messages():
    assert (DOCS / "link.schema.json").read_text() == schema_text()
    assert set(ABILITIES) <= set((DOCS / "renderers.md").read_text().replace("`", " ").split()), "every ability is told"


def test_a_message_is_one_line_and_what_is_none_is_refused():
    assert json.loads(as_line(Load(id=3, scene="a\nb"))) == {"say": "load", "id": 3, "scene": "a\nb"}
    assert as_line(Load(id=3, scene="a\nb")).count(b"\n") == 1
    for line in (b"rendering ...", b"[1]", b'{"say": "tide"}', b'{"say": "result"}', b'{"say": "loaded", "id": "x"}', b"\xff"):
        with pytest.raises(ValueError):
            read_answer(line)
    assert read_answer(b'{"say": "loaded", "id": 1, "weather": "fair"}').id == 1, "what is not known is not said"


def test_a_scene_that_is_kept_is_read_once_and_each_process_has_one_start(open_renderer):  # noqa: F811
    session = open_renderer.told(load=0.3).session()
    made = [session(replace(JOB, frame=f)) for f in (1001, 1002, 1003)]
    assert open_renderer.did("load") == ["load tide"] and open_renderer.processes() == 1
    assert made[0].load_seconds > 0.3 and max(m.load_seconds for m in made[1:]) < 0.15
    assert made[0].samples == 16 and made[0].memory_bytes > 1 << 20 and made[0].picture.guides.keys() >= {"Z", "motion.X", "albedo.R"}
    assert made[0].picture.attributes["hr:recipe"] == JOB.hash
    session(replace(JOB, recipe=PLAIN))
    session(replace(JOB, recipe=PLAIN, seed=2))
    assert open_renderer.did("load") == ["load tide"] * 3, "what is not to stay is read for each picture, as by a command line"
    session(replace(JOB, scene="moon"))
    assert open_renderer.did("load")[-1] == "load moon"


def test_two_threads_have_a_process_each_and_keep_it(open_renderer):  # noqa: F811
    session = open_renderer.told(sample=2e-5).session()
    threads = [threading.Thread(target=lambda a=a: [session(replace(JOB, frame=f)) for f in range(a, a + 3)]) for a in (1001, 1101)]
    [t.start() for t in threads], [t.join() for t in threads]
    assert open_renderer.processes() == 2 and open_renderer.did("load") == ["load tide"] * 2
    close_sessions()
    assert not children()


def test_a_history_is_gathered_once_and_is_the_same_however_frames_are_split(open_renderer):  # noqa: F811
    recipe = Recipe(name="Final", preroll=4)
    session = open_renderer.session()
    flowing = [session(replace(JOB, frame=f, recipe=recipe, samples=4096)).picture.rgb for f in (1001, 1002, 1003)]
    again = session(replace(JOB, frame=1003, recipe=recipe, samples=4096, seed=2)).picture.rgb
    assert [w.rpartition(" ")[2] for w in open_renderer.did("render")] == ["4", "0", "0", "0"]
    close_sessions()
    alone = session_of(OPEN)(replace(JOB, frame=1003, recipe=recipe, samples=4096)).picture.rgb
    # a fresh process simulates the four frames before; one that went on has six behind it: 0.75^5 and ^7 of the mist are open
    assert flowing[2].mean() == pytest.approx(again.mean(), rel=1e-3)
    assert alone.mean() / flowing[2].mean() == pytest.approx((1 - 0.3 * (1 - 0.75**5)) / (1 - 0.3 * (1 - 0.75**7)), rel=2e-3)


def test_a_history_goes_on_where_a_process_has_most_of_it_and_begins_anew_where_it_jumps(open_renderer):  # noqa: F811
    job = replace(JOB, recipe=Recipe(name="Final", preroll=4), samples=4096)
    session = open_renderer.told(history=0.15).session()
    first, near, far, back = (session(replace(job, frame=f)) for f in (1001, 1004, 1020, 1010))
    assert [w.rpartition(" ")[2] for w in open_renderer.did("render")] == ["4", "2", "4", "4"]
    assert [m.history_frames for m in (first, near, far, back)] == [4, 2, 4, 4]
    assert near.history_seconds == pytest.approx(0.3, rel=0.5) and near.load_seconds < 0.15, "it is not taken for loading"
    assert far.picture.rgb.mean() == pytest.approx(back.picture.rgb.mean(), rel=0.05), "what was gathered before a jump is forgotten"
    close_sessions()
    session = open_renderer.told(faults="fail@1011").session()
    with pytest.raises(RendererFault):
        session(replace(job, frame=1011))
    session(replace(job, frame=1012))
    assert open_renderer.did("render")[-1].endswith("after 4"), "how far an interrupted frame came is not known"


def test_light_caches_are_files_made_once_and_shared(open_renderer, tmp_path):  # noqa: F811
    recipe = Recipe(name="Final", cache_step=5, keep_scene=1)
    job = replace(JOB, recipe=recipe, moment=Moment((1001, 1006), 2), cache_folder=str(tmp_path / "caches"))
    session = open_renderer.told(cache=0.2).session()
    first, second = session(replace(job, frame=1002)), session(replace(job, frame=1003))
    assert open_renderer.did("cache") == ["cache 1001", "cache 1006"]
    assert first.cache_seconds > 0.4 and second.cache_seconds == 0 and first.cache_bytes > 0
    assert len(list((tmp_path / "caches").iterdir())) == 2 and not list((tmp_path / "caches").glob(".*"))
    make = cache_maker(session)
    assert make is not None
    made = make(replace(job, frame=1011), None)
    assert [(c.frame, Path(c.path).is_file()) for c in made.light_caches] == [(1011, True)] and made.cache_seconds > 0.2
    close_sessions()
    assert cache_maker(open_renderer.told(can="keep").session()) is None
    assert cache_maker(renderer_of(Link(name="x", command=("true", "{frame}", "{output}")))) is None


def test_all_that_is_asked_for_is_told(tmp_path, monkeypatch):
    seen = tmp_path / "seen"
    program = tmp_path / "echo.py"
    program.write_text(
        "import sys, json\n"
        "for line in sys.stdin:\n"
        f"    open({str(seen)!r}, 'a').write(line)\n"
        "    m = json.loads(line)\n"
        "    if m['say'] == 'hello': print(json.dumps({'say': 'hello', 'protocol': 1, 'can': ['crop', 'history'],\n"
        "        'settings': {'bounces': {'low': 0, 'high': 8}, 'own.brass': {'low': 0, 'high': 9}}}), flush=True)\n"
        "    elif m['say'] == 'load': print(json.dumps({'say': 'loaded', 'id': m['id']}), flush=True)\n"
        "    elif m['say'] == 'render': print(json.dumps({'say': 'failed', 'id': m['id'], 'words': 'no brass'}), flush=True)\n"
    )
    own = OwnSetting(name="brass", label="Brass", low=0, high=100, default=4)
    recipe = msgspec.structs.replace(PLAIN, bounces=3, shutter_angle=90.0, own=(OwnValue("brass", 7),), preroll=2).declared((own,))
    renderer = session_of(Link(name="echo", command=(sys.executable, str(program)), stays=True, timeout=10.0))
    job = FrameJob("tide", 1004, 40, 20, 32, recipe, seed=3, crop=(4, 2, 16, 8), floor=8, stop_noise=0.02, cap=7.0)
    with pytest.raises(RendererFault, match=r"Frame 1004: renderer 'echo' failed: no brass\."):
        renderer(job)
    told = json.loads(seen.read_text().splitlines()[-1])
    assert told["settings"] == {"bounces": 3.0, "own.brass": 7.0}, "those it knows"
    assert told["shutter"] == [1003.875, 1004.125] and told["history"] == [1002.0, 1003.0] and told["crop"] == [4, 2, 16, 8]
    assert (told["samples"], told["floor"], told["stop_noise"], told["cap"], told["preview"]) == (32, 8, 0.02, 7.0, "")
    assert told["seed"] == job.settings.seed and told["output"].endswith(".exr")
    with pytest.raises(RendererFault, match=r"Frame 1004: bounces is 12; renderer 'echo' takes 0 to 8\."):
        renderer(replace(job, recipe=msgspec.structs.replace(recipe, bounces=12)))
    close_sessions()


@pytest.mark.parametrize(
    "fault, words",
    [
        ("crash", r"Frame 1001: renderer 'Open stand-in' ended with status 3\. It said: ran out of brass"),
        ("fail", r"Frame 1001: renderer 'Open stand-in' failed: the tide gauge is not there\."),
        ("unsaid", r"says that it is done and wrote no picture"),
        ("half", r"Frame 1001: the picture is not whole"),
        ("size", r"Frame 1001: the picture is 48x26; expected 48x27"),
        ("nan", r"Frame 1001: 1 pixels are not finite"),
        ("lie", r"says that it rendered frame 1008"),
        ("flood", r"wrote (more than 1000 answers that nobody asked for|a line of more than 1 MB) and was ended"),
    ],
)
def test_each_fault_is_one_clear_message_and_the_next_frame_is_rendered(open_renderer, fault, words):  # noqa: F811
    session = open_renderer.told(faults=f"{fault}@1001").session()
    with pytest.raises(RendererFault, match=words) as error:
        session(JOB)
    assert "\n" not in str(error.value)
    assert session(replace(JOB, frame=1002)).samples == 16
    assert open_renderer.processes() == (1 if fault == "fail" else 2), "one that says so itself goes on"


def test_answers_out_of_order_and_lines_that_are_none_are_passed_over(open_renderer):  # noqa: F811
    made = open_renderer.told(faults="order@1001").session()(JOB)
    assert made.picture.attributes["hr:frame"] == "1001" and "what is this" in made.messages
    close_sessions()
    made = open_renderer.told(faults="times@1001").session()(JOB)
    assert 0 < made.sample_seconds < 5 and made.samples == 16 and "warning: its clock stands" in made.messages, "no figures from nowhere"


def test_one_that_hangs_is_ended_at_its_time_out_or_when_asked(open_renderer):  # noqa: F811
    session = open_renderer.told(faults="hang@1001").session(msgspec.structs.replace(OPEN, timeout=4.0))
    began = time.perf_counter()
    with pytest.raises(RendererFault, match=r"was ended after 4 s, its time-out"):
        session(JOB)
    cancel = CancelToken()

    def cancel_while_it_renders() -> None:
        while len(open_renderer.did("render")) < 2 and time.perf_counter() - began < 30:
            time.sleep(0.05)
        cancel.cancel()

    threading.Thread(target=cancel_while_it_renders).start()
    with pytest.raises(Stopped):
        session(JOB, silent, cancel)
    assert time.perf_counter() - began < 30
    assert not children()


def test_one_that_never_falls_silent_is_stopped_all_the_same(tmp_path):
    program = tmp_path / "chatty.py"
    program.write_text(
        "import sys, json, time\n"
        "for line in sys.stdin:\n"
        "    m = json.loads(line)\n"
        "    if m['say'] == 'hello': print(json.dumps({'say': 'hello', 'protocol': 1}), flush=True)\n"
        "    elif m['say'] == 'load': print(json.dumps({'say': 'loaded', 'id': m['id']}), flush=True)\n"
        "    else:\n"
        "        while True: print(json.dumps({'say': 'loaded', 'id': 0}), flush=True); time.sleep(.01)\n"
    )
    renderer = session_of(Link(name="chatty", command=(sys.executable, str(program)), stays=True, timeout=1.5))
    began = time.perf_counter()
    with pytest.raises(RendererFault, match=r"was ended after 1.5 s, its time-out"):
        renderer(JOB)
    cancel = CancelToken()
    threading.Timer(0.5, cancel.cancel).start()
    with pytest.raises(Stopped):
        renderer(JOB, silent, cancel)
    assert time.perf_counter() - began < 8
    close_sessions()


def test_one_that_is_stopped_gives_the_frame_up_and_keeps_its_scene(open_renderer):  # noqa: F811
    session = open_renderer.told(sample=2e-4).session()
    cancel, shares = CancelToken(), []
    with pytest.raises(Stopped):
        session(JOB, lambda share, words: (shares.append(share), cancel.cancel()), cancel)
    assert shares
    session(replace(JOB, samples=1))
    assert open_renderer.processes() == 1 and open_renderer.did("load") == ["load tide"]


def test_the_picture_is_shown_as_it_grows(open_renderer):  # noqa: F811
    shown: list[np.ndarray] = []
    open_renderer.session()(JOB, silent, None, shown.append)
    assert [s.shape for s in shown] in ([], [(27, 48, 3)]), "it may be done before the preview is looked at"


def test_what_is_no_renderer_is_told():
    ninth = """print('{"say": "hello", "protocol": 9}', flush=True); input(); input()"""
    for command, words in (
        (("no-such-program",), "no such program"),
        ((sys.executable, "-c", "print('tide tables', flush=True)"), r"renderer 'x' ended with status 0\."),
        ((sys.executable, "-c", ninth), "speaks protocol 9; expected 1"),
    ):
        with pytest.raises(RendererFault, match=words):
            session_of(Link(name="x", command=command, stays=True, timeout=5.0))(JOB)
    with pytest.raises(WrongInput, match="has a place in braces; expected none"):
        checked_link(Link(name="x", command=("render", "{frame}"), stays=True))
    with pytest.raises(WrongInput, match="has no command"):
        checked_link(Link(name="x", stays=True))
    close_sessions()


def test_the_adapter_runs_a_program_and_ends_it_when_it_is_not_wanted():
    sent: list[dict] = []
    job = link.Job({"id": 1, "frame": 7}, lambda **message: sent.append(message))
    assert job.start([sys.executable, "-c", "print('took 3 s')"]) == "took 3 s\n"
    with pytest.raises(RuntimeError, match=r"ended with status 2. no brass"):
        job.start([sys.executable, "-c", "import sys; print('no brass'); sys.exit(2)"])
    with pytest.raises(AttributeError, match="a job has no 'frames'; expected one of scene, frame"):
        job.frames  # noqa: B018
    job.progress(0.5)
    assert sent == [{"say": "progress", "id": 1, "share": 0.5}]
    threading.Timer(0.3, job.cancel).start()
    began = time.perf_counter()
    with pytest.raises(link.Cancelled):
        job.start([sys.executable, "-c", "import time; time.sleep(60)"])
    assert time.perf_counter() - began < 5


def test_tiles_halves_and_crops_are_rendered_through_it(open_renderer):  # noqa: F811
    session = open_renderer.session()
    whole = session(replace(JOB, samples=4096)).picture.rgb
    tiled = in_tiles(session)(replace(JOB, samples=4096, recipe=msgspec.structs.replace(KEPT, tiles=3)), silent, None, None)
    assert tiled.picture.rgb.shape == whole.shape and np.abs(tiled.picture.rgb - whole).mean() < 0.02
    assert open_renderer.did("load") == ["load tide"] and len(open_renderer.did("render")) == 10, "nine tiles, one scene"
    halves = render_halves(session, replace(JOB, samples=64), silent, None, None)
    one = session(replace(JOB, samples=64)), session(replace(JOB, samples=64, seed=2))
    between = float(np.std(one[0].picture.rgb - one[1].picture.rgb)) / np.sqrt(2.0)
    noise = float(np.std(halves.picture.rgb - whole))
    assert noise == pytest.approx(between, rel=0.1), "two halves of 32 samples are as clean as 64"
    assert halves.samples == 64 and float(halves.picture.attributes["hr:noise"]) > 0
    crop = session(replace(JOB, samples=4096, crop=(10, 5, 20, 12))).picture
    assert crop.rgb.shape == (12, 20, 3) and np.abs(crop.rgb - whole[5:17, 10:30]).mean() < 0.02
    close_sessions()
    with pytest.raises(RendererFault, match="does not say that it can 'crop'"):
        open_renderer.told(can="keep").session()(replace(JOB, crop=(0, 0, 8, 8)))
