"""One frame: the same on any number of threads, its guides, its settings, its scenes."""

from __future__ import annotations

import numba
import numpy as np
import pytest

from hasty_reel.bench.library import SCENES, find_scene, moving_edge
from hasty_reel.bench.packing import pack
from hasty_reel.bench.render import Settings, render
from hasty_reel.bench.shapes import FAR
from hasty_reel.bench.tracing import closest
from hasty_reel.errors import Stopped, WrongInput
from hasty_reel.work import CancelToken


def test_the_same_seed_gives_the_same_picture_on_any_number_of_threads():
    scene, settings = find_scene("lamp_wakes"), Settings(40, 24, 8, steps=4, seed=5)
    pictures = []
    for threads in (1, numba.config.NUMBA_NUM_THREADS):
        numba.set_num_threads(threads)
        pictures.append(render(scene, 1040, settings).rgb)
    numba.set_num_threads(numba.config.NUMBA_NUM_THREADS)
    assert np.array_equal(pictures[0], pictures[1])
    other = render(scene, 1040, Settings(40, 24, 8, steps=4, seed=6)).rgb
    assert not np.array_equal(pictures[0], other)


def test_a_crop_is_that_part_of_the_whole():
    scene = find_scene("comet_pass")
    whole = render(scene, 1030, Settings(48, 27, 4)).rgb
    part = render(scene, 1030, Settings(48, 27, 4, crop=(10, 5, 20, 12))).rgb
    assert np.array_equal(part, whole[5:17, 10:30])


def test_growing_pictures_end_in_the_final_one():
    seen = []
    made = render(find_scene("furnace"), 1, Settings(64, 64, 40), show=seen.append)
    assert len(seen) >= 3
    assert np.array_equal(seen[-1], made.rgb)


def test_a_cancelled_frame_stops():
    cancel = CancelToken()
    cancel.cancel()
    with pytest.raises(Stopped):
        render(find_scene("furnace"), 1, Settings(8, 8, 4), cancel=cancel)


def test_motion_vectors_lead_to_the_next_frame():
    """The moving edge slides 0.1 units a frame: 3.2 pixels of 64."""
    guides = render(moving_edge(0.1), 5, Settings(64, 64, 16, angle=180)).guides
    left = (slice(20, 40), slice(4, 24))
    assert guides["motion.X"][left] == pytest.approx(3.2, abs=1e-3)
    assert guides["motion.Y"][left] == pytest.approx(0.0, abs=1e-3)


def test_guides_say_what_is_seen():
    guides = render(find_scene("furnace"), 1, Settings(32, 32, 16)).guides
    assert guides["albedo.R"][16, 16] == pytest.approx(0.8, abs=1e-6)
    assert guides["normal.Z"][16, 16] == pytest.approx(1.0, abs=0.01)
    assert guides["Z"][16, 16] == pytest.approx(3.0, abs=0.01)


@pytest.mark.parametrize("name", ["lamp_wakes", "comet_pass"])
def test_the_hierarchy_finds_what_trying_every_shape_finds(name):
    packed = pack(find_scene(name), 1033, 180.0, 64, 36)
    rng = np.random.RandomState(3)
    none = np.zeros((0, 6))
    for _ in range(300):
        origin = rng.uniform((-6, 0.2, -6), (6, 8, 9))
        way = rng.normal(size=3)
        way /= np.linalg.norm(way)
        args = (rng.rand(), *origin, *way, 1e-5, FAR)
        fast = closest(packed.tags, packed.solid, packed.planes, packed.boxes, packed.ways, *args)
        best = (FAR, -1)
        for k in range(len(packed.tags)):
            if k < packed.planes:
                one = closest(packed.tags[k : k + 1], packed.solid[k : k + 1], 1, none, packed.ways[:, :0], *args)
            else:
                box = np.array([[-FAR, -FAR, -FAR, FAR, FAR, FAR]])
                way_on = np.array([[[-1, -1, 0, 1]]] * 8, np.int16)
                one = closest(packed.tags[k : k + 1], packed.solid[k : k + 1], 0, box, way_on, *args)
            if one[0] < best[0]:
                best = (one[0], k)
        assert fast[0] == pytest.approx(best[0], rel=1e-9)
        assert fast[1] == best[1]


@pytest.mark.parametrize(
    "change, words",
    [
        ({"samples": 0}, "samples is 0; expected 1 to 1048576"),
        ({"samples": 9, "steps": 4}, "multiple of 4"),
        ({"angle": 400.0}, "shutter angle is 400.0; expected 0 to 360"),
        ({"bounces": -1}, "bounces is -1"),
        ({"ceiling": 0.0}, "brightness ceiling is 0.0"),
        ({"crop": (30, 0, 10, 10)}, "does not lie in 32x32"),
        ({"width": 0}, "size is (0, 32)"),
    ],
)
def test_settings_out_of_bounds_are_refused_in_one_sentence(change, words):
    with pytest.raises(WrongInput) as error:
        render(find_scene("furnace"), 1, Settings(**{"width": 32, "height": 32, "samples": 4, **change}))
    assert words in str(error.value)


def test_an_unknown_scene_is_told_with_those_there_are():
    with pytest.raises(WrongInput, match="no scene 'attic'; expected one of lamp_wakes, comet_pass"):
        find_scene("attic")


@pytest.mark.parametrize("name", list(SCENES))
def test_every_scene_renders_finite_light(name):
    scene = find_scene(name)
    rgb = render(scene, scene.last, Settings(16, 9, 2)).rgb
    assert np.isfinite(rgb).all() and rgb.min() >= 0
