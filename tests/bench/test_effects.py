"""What each setting of the bench renderer does to the picture and to its time."""

from __future__ import annotations

import math
from dataclasses import replace
from itertools import count

import numpy as np
import pytest

from hasty_reel.bench.adaptive import pixel_variance
from hasty_reel.bench.library import find_scene
from hasty_reel.bench.packing import settled_share
from hasty_reel.bench.render import KEPT, Moment, mean_light, render
from hasty_reel.bench.scene import CameraPose, Fog, Scene, glowing, plane
from hasty_reel.bench.settings import Camera, Settings
from hasty_reel.errors import WrongInput
from hasty_reel.reel.caching import cache_frames


def bank(thickness: float, colour: float = 0.0) -> Scene:
    """A bank of even fog, 10 deep, before a wall of radiance 1."""
    fog = Fog((-5, -5, -5), (5, 5, 5), lambda f: np.ones((10, 10, 10)), thickness, (colour,) * 3)
    wall = plane((0, 0, -6), (0, 0, 1), glowing((1, 1, 1)))
    return Scene(f"bank{thickness}{colour}", (wall,), lambda f: CameraPose((0, 0, 6), (0, 0, 0), 1.0), 0.01, fog=fog)


@pytest.mark.parametrize("thickness", [0.05, 0.2, 0.5])
@pytest.mark.parametrize("step", [25.0, 100.0, 400.0])
def test_fog_lets_through_what_beer_and_lambert_say(thickness, step):
    """Beer-Lambert: exp(-extinction x length)."""
    shown = render(bank(thickness), 1, Settings(24, 24, 256, fog_step=step)).rgb.mean()
    assert shown == pytest.approx(math.exp(-10 * thickness), rel=0.03, abs=0.002)


def test_coarse_steps_through_fog_take_less_time():
    scene = find_scene("bay_fog")
    fine, coarse = (
        min(render(scene, 1040, Settings(96, 54, 16, steps=4, fog_step=s)).sample_seconds for _ in range(2)) for s in (25.0, 400.0)
    )
    assert coarse < 0.8 * fine


def test_cutting_light_rays_darkens_and_never_brightens():
    scene = find_scene("bay_fog")
    means = [render(scene, 1040, Settings(64, 36, 64, steps=4, fog_cut=c, ceiling=5.0)).rgb.mean() for c in (0.0, 50.0, 90.0)]
    assert means[0] > means[1] > means[2]


@pytest.mark.parametrize(
    "scene, kind",
    [("soft_corner", "matte"), ("gears_jewels", "glossy"), ("gears_jewels", "glass"), ("bay_fog", "fog_bounces")],
)
def test_a_limit_for_one_kind_of_bounce_lies_between_all_and_none(scene, kind):
    chosen = find_scene(scene)
    base = Settings(64, 36, 128, steps=4, ceiling=3.0, bounces=4)
    frame = (chosen.first + chosen.last) // 2
    full, none = (render(chosen, frame, replace(base, bounces=b)).rgb.mean() for b in (4, 0))
    limited = render(chosen, frame, replace(base, **{kind: 0})).rgb.mean()
    assert none * 0.98 <= limited < full
    assert render(chosen, frame, replace(base, **{kind: 64})).rgb.mean() == pytest.approx(full, rel=1e-6), (
        "a limit that is never met changes nothing"
    )


def test_approximated_light_is_cheaper_and_near_with_darker_corners():
    scene = find_scene("soft_corner")
    base = Settings(96, 54, 256, bounces=6)
    full, direct, near = (
        render(scene, 1, s).rgb for s in (base, replace(base, bounces=0), replace(base, approximate_after=0, approximate_distance=0.5))
    )
    assert direct.mean() < near.mean() < 1.5 * full.mean()
    assert abs(near.mean() - full.mean()) < abs(direct.mean() - full.mean()), "closer to the full count than none at all"
    weaker = render(scene, 1, replace(base, approximate_after=0, approximate_distance=0.5, approximate_strength=0.5)).rgb.mean()
    assert direct.mean() < weaker < near.mean()
    further = render(scene, 1, replace(base, approximate_after=0, approximate_distance=2.0)).rgb.mean()
    assert further < near.mean(), "a surface must be open further: corners get darker"
    assert mean_light(scene, base) == pytest.approx(mean_light(scene, replace(base, width=10)))


def test_the_light_cache_stays_near_the_full_picture_and_is_calmer():
    """Bias of the light cache against the full path: at most 8 % of the mean, 12 % in any ninth of the picture."""
    scene = find_scene("soft_corner")
    base = Settings(96, 54, 256, bounces=6)
    full, cached = render(scene, 1, base).rgb, render(scene, 1, replace(base, cache=True)).rgb
    assert cached.mean() == pytest.approx(full.mean(), rel=0.08)
    for rows in np.array_split(np.arange(54), 3):
        for columns in np.array_split(np.arange(96), 3):
            a, b = full[np.ix_(rows, columns)].mean(), cached[np.ix_(rows, columns)].mean()
            assert b == pytest.approx(a, rel=0.12, abs=0.002)
    few = replace(base, samples=8)
    noise = [
        np.std(render(scene, 1, replace(few, cache=c, seed=1)).rgb - render(scene, 1, replace(few, cache=c, seed=2)).rgb)
        for c in (False, True)
    ]
    assert noise[1] < noise[0]


def test_caches_belong_to_every_nth_frame_and_are_blended():
    """Common practice, no source: 240 frames at step 5 have 48 caches and the end; the 5 nearest are blended."""
    frames = cache_frames(1, 240, 5)
    assert len(frames) == 49 and frames[:3] == [1, 6, 11] and frames[-1] == 240
    assert cache_frames(1, 240, 0) == [] and cache_frames(7, 7, 5) == [7]
    shares = Moment(tuple(frames), 5).nearest(103)
    assert sorted(f for f, _ in shares) == [91, 96, 101, 106, 111] and sum(w for _, w in shares) == pytest.approx(1.0)
    assert shares[0][0] == 101 and shares == sorted(shares, key=lambda s: -s[1])
    assert Moment(tuple(frames), 1).nearest(101) == [(101, 1.0)]


def test_a_kept_cache_costs_nothing_and_an_owner_alone_decides_what_is_in_it():
    scene = find_scene("lamp_wakes")
    settings = Settings(16, 9, 4, steps=4, cache=True, seed=1 << 24)
    moment = Moment(owners=(1040, 1050), cache_blend=2)
    first = render(scene, 1045, settings, moment=moment)
    second = render(scene, 1046, settings, moment=moment)
    assert first.cache_seconds > 10 * second.cache_seconds
    again = render(scene, 1045, settings, moment=moment)
    assert np.array_equal(first.rgb, again.rgb)


def test_the_forward_part_of_an_all_round_picture_is_that_part_of_it():
    scene = find_scene("gears_jewels")
    whole = render(scene, 1001, Settings(160, 80, 8, steps=4, camera=Camera(forward=(360.0, 180.0)))).rgb
    part = render(scene, 1001, Settings(40, 40, 8, steps=4, camera=Camera(forward=(90.0, 90.0)))).rgb
    assert np.array_equal(part, whole[20:60, 60:100])


def test_a_crop_is_that_part_of_the_picture_and_pixels_may_be_wide():
    scene = find_scene("tide_dial")
    whole = render(scene, 1001, Settings(64, 36, 8, steps=4)).rgb
    assert np.array_equal(render(scene, 1001, Settings(64, 36, 8, steps=4, crop=(10, 5, 20, 12))).rgb, whole[5:17, 10:30])
    wide = render(scene, 1001, Settings(64, 72, 8, steps=4, camera=Camera(pixel_aspect=2.0))).rgb
    assert wide.reshape(36, 2, 64, 3).mean(axis=(1, 2, 3)) == pytest.approx(whole.mean(axis=(1, 2)), rel=0.25, abs=0.02)


@pytest.mark.parametrize("name, frame, level", [("gears_jewels", 1030, 0.01), ("lamp_wakes", 1048, 0.01), ("lamp_wakes", 1048, 0.004)])
def test_stopping_at_noise_reaches_its_level_on_seeds_that_were_held_back(name, frame, level):
    """Pixels that needed more than the floor and less than the ceiling come to the level within 5 %; 10 % are asked."""
    scene = find_scene(name)
    settings = Settings(96, 54, 4096, stop_noise=level, floor=16, bounces=4, ceiling=1.0)
    one, two = (render(scene, frame, replace(settings, seed=s)) for s in (21, 22))
    inside = (one.counts > 16) & (one.counts < 4096) & (two.counts > 16) & (two.counts < 4096)
    assert inside.mean() > 0.2
    d = (one.rgb - two.rgb) @ np.array([0.2126, 0.7152, 0.0722])
    reached = math.sqrt(np.mean(d[inside] ** 2) / 2)
    assert reached == pytest.approx(level, rel=0.05)
    assert one.counts.min() >= 16 and one.counts.mean() < 0.15 * 4096


def test_a_time_cap_never_undercuts_the_floor():
    """Common practice, no source: a frame that has not reached its floor at the cap runs on until it has."""
    scene = find_scene("soft_corner")
    slow = count(0, 10)  # ten seconds pass between two looks at the clock
    capped = render(scene, 1, Settings(32, 18, 512, cap=3.0, floor=24, steps=8), clock=lambda: float(next(slow)))
    assert capped.counts.min() == capped.counts.max() and 24 <= capped.counts.min() < 64
    fast = render(scene, 1, Settings(32, 18, 64, cap=1e5, floor=8, steps=8))
    assert fast.counts.min() == 64, "with time enough every pixel gets all samples"
    assert (capped.counts % 8 == 0).all()


def test_variance_is_estimated_without_bias():
    rng = np.random.default_rng(3)
    samples = rng.gamma(2.0, 0.1, size=(64, 64, 32))
    light = np.repeat(samples.sum(axis=2)[..., None], 3, axis=2)
    found = pixel_variance(light, (samples**2).sum(axis=2), np.full((64, 64), 32))
    assert found.mean() == pytest.approx(2.0 * 0.01, rel=0.03)


def test_rows_tiles_and_passes_make_the_same_picture_and_tell_progress():
    scene = find_scene("soft_corner")
    settings = Settings(100, 50, 8)
    shown: dict[str, list[float]] = {"passes": [], "rows": [], "tiles": []}
    pictures = [
        render(scene, 1, settings, lambda share, words, o=o: shown[o].append(share), order=o).rgb for o in ("passes", "rows", "tiles")
    ]
    assert np.array_equal(pictures[0], pictures[1]) and np.array_equal(pictures[0], pictures[2])
    assert len(shown["tiles"]) > len(shown["rows"]) >= 3 and all(s == sorted(s) and s[-1] == 1.0 for s in shown.values())


def test_lamps_found_by_chance_are_noisier():
    scene = find_scene("soft_corner")
    noise = {}
    for lamps in (True, False):
        a, b = (render(scene, 1, Settings(48, 27, 64, lamps=lamps, seed=s)).rgb for s in (1, 2))
        noise[lamps] = float(np.std(a - b))
        assert a.mean() == pytest.approx(render(scene, 1, Settings(48, 27, 512)).rgb.mean(), rel=0.12)
    assert noise[False] > 2 * noise[True]


def test_a_scene_that_needs_history_settles_over_its_first_frames():
    scene = find_scene("bay_fog")
    shares = [settled_share(scene, h) for h in (0, 10, 32, 64)]
    assert shares == sorted(shares) and shares[0] < 0.15 and shares[-1] > 0.99 and settled_share(scene, None) == 1.0
    assert settled_share(find_scene("lamp_wakes"), 0) == 1.0
    base = Settings(48, 27, 64, steps=4, ceiling=5.0)
    settled, first, rolled = (render(scene, 1001, base, moment=Moment(history=h)).rgb.mean() for h in (None, 0, 64))
    assert rolled == pytest.approx(settled, rel=0.02) and abs(first - settled) > 0.1 * settled


def test_a_scene_that_stays_loaded_gives_the_same_picture_and_loads_quicker():
    scene = find_scene("gears_jewels")
    fresh = Settings(48, 27, 8, steps=4)
    KEPT.clear()
    first = render(scene, 1001, replace(fresh, keep=True))
    later = [render(scene, f, replace(fresh, keep=True)) for f in (1002, 1030, 1060)]
    for frame, kept in zip((1002, 1030, 1060), later):
        assert np.array_equal(kept.rgb, render(scene, frame, fresh).rgb)
    assert min(k.load_seconds for k in later) < 0.7 * first.load_seconds


def test_half_as_much_again_is_50_percent():
    """Common practice, no source: 24 s becoming 36 s is +50 %, not +33 %."""
    from hasty_reel.evidence.percent import change_percent

    assert change_percent(24.0, 36.0) == 50.0 and change_percent(36.0, 24.0) == pytest.approx(-33.333, abs=0.001)
    assert change_percent(0.0, 5.0) is None


@pytest.mark.parametrize(
    "change",
    [
        {"floor": 0},
        {"floor": 999},
        {"stop_noise": 0.0},
        {"cap": -1.0},
        {"matte": 99},
        {"fog_step": 0.5},
        {"fog_cut": 100.0},
        {"approximate_distance": 0.0},
        {"fog_bounces": -1},
    ],
)
def test_settings_out_of_bounds_are_told(change):
    with pytest.raises(WrongInput, match="Bench renderer: "):
        render(find_scene("furnace"), 1, Settings(8, 8, 4, **change))
