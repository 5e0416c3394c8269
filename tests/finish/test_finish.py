"""The finishing chain: what it must do on noise with a known answer, and on the demo shot."""

from __future__ import annotations

import numpy as np
import pytest

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.picture import as_picture
from hasty_reel.bench.render import Settings, render
from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.finish.chain import Chain, Finisher, finish_sequence, prepare_picture
from hasty_reel.finish.despike import despike
from hasty_reel.finish.overtime import denoise, denoise_still, prepare
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.image.sampling import add_cubic
from hasty_reel.measure.flicker import flicker
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture


def noisy(seed: int, size: int = 120, sigma: float = 0.05) -> Picture:
    rs = np.random.RandomState(seed)
    light = 0.5 + rs.normal(0, sigma, (size, size))
    plane = np.full((size, size), 0.5, np.float32)
    names = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z")
    guides = dict.fromkeys(names, plane) | dict.fromkeys(("motion.X", "motion.Y"), np.zeros_like(plane))
    return Picture(np.repeat(light[..., None], 3, axis=-1).astype(np.float32), guides)


@pytest.mark.parametrize("guided", [True, False])
@pytest.mark.parametrize("window, share", [(3, 0.577), (5, 0.447), (7, 0.378)])
def test_white_noise_over_a_still_picture_falls_by_the_root_of_the_window(window, share, guided):
    """||h|| of a box window: 1/sqrt(window), within 5 %."""
    frames = [noisy(k) if guided else Picture(noisy(k).rgb) for k in range(window)]
    out = denoise([prepare_picture(p) for p in frames], window // 2)
    assert luminance(out).std() / 0.05 == pytest.approx(share, rel=0.05)


def test_flicker_of_white_noise_falls_with_the_window():
    """Box of five frames: 0.163 of the flicker is left."""
    frames = [noisy(k) for k in range(7)]
    ready = [prepare_picture(p) for p in frames]
    after = [luminance(denoise(ready[k : k + 5], 2)) for k in range(3)]
    before = flicker([luminance(p.rgb) for p in frames[2:5]], [None] * 3, 1)
    assert flicker(after, [None] * 3, 1) / before == pytest.approx(0.163, rel=0.08)


def test_texture_in_the_albedo_comes_through_untouched():
    rs = np.random.RandomState(0)
    albedo = np.repeat(rs.uniform(0.1, 0.9, (40, 40, 1)), 3, axis=-1).astype(np.float32)
    up = np.zeros_like(albedo)
    up[..., 2] = 1
    frames = [prepare(albedo * 0.7, albedo, up, np.full((40, 40), 5.0, np.float32), np.zeros((40, 40, 2), np.float32)) for _ in range(3)]
    assert denoise(frames, 1) == pytest.approx(albedo * 0.7, rel=1e-4)


def test_what_is_uncovered_is_not_haunted():
    """A bright object that was there a frame ago, and is nearer by its depth, leaves no ghost."""

    def frame(x: int) -> Picture:
        light = np.full((60, 80), 0.1, np.float32)
        depth = np.full((60, 80), 10.0, np.float32)
        motion = np.zeros((60, 80), np.float32)
        light[20:40, x : x + 15], depth[20:40, x : x + 15], motion[20:40, x : x + 15] = 0.9, 3.0, 8.0
        ones = np.ones_like(light)
        guides = dict.fromkeys(("albedo.R", "albedo.G", "albedo.B", "normal.Z"), ones)
        guides |= {"normal.X": 0 * ones, "normal.Y": 0 * ones, "Z": depth, "motion.X": motion, "motion.Y": 0 * ones}
        return Picture(np.repeat(light[..., None], 3, axis=-1), guides)

    frames = [frame(10 + 8 * k) for k in range(5)]
    out = denoise([prepare_picture(p) for p in frames], 2)
    assert np.abs(out - frames[2].rgb).max() < 0.02


def test_a_spark_is_lowered_and_an_edge_is_not():
    rgb = np.full((20, 20, 3), 0.2, np.float32)
    rgb[:, 10:] = 0.9
    calm = rgb.copy()
    rgb[5, 4] = 8.0
    found = despike(rgb, [calm])
    assert found.sparks == 1 and found.rgb[5, 4].max() < 1.0
    assert found.rgb.sum() == pytest.approx(rgb.sum(), rel=1e-5) and found.moved == pytest.approx(7.8 * 1.0 / rgb[..., 0].sum(), rel=0.02)
    assert np.array_equal(despike(calm, [calm]).rgb, calm)
    # a lamp of one pixel that is there in the frame beside stays, and so does all of a picture that nothing contradicts
    assert despike(rgb, [rgb]).sparks == 0 and despike(rgb, []).sparks == 0


@pytest.mark.parametrize("name", ["bay_fog", "gears_jewels"])
def test_despiking_keeps_the_light_of_every_tile(name):
    """On rendered frames, told by another seed: the mean within 0.2 %, every tile of 20 pixels within 1 %."""
    scene = find_scene(name)
    a, b = (render(scene, 1036, Settings(160, 100, 4, steps=0, bounces=4, ceiling=None, seed=s << 24, guides=False)).rgb for s in (1, 2))
    found = despike(a, [b])
    assert found.sparks > 20
    before, after = (p.reshape(5, 20, 8, 20, 3).mean(axis=(1, 3, 4)) for p in (a, found.rgb))
    assert after.mean() == pytest.approx(before.mean(), rel=0.002)
    assert after == pytest.approx(before, rel=0.01)


@pytest.fixture(scope="module")
def shot_run() -> list[Picture]:
    """Seven frames of the demo at 16 samples, small."""
    scene = find_scene("lamp_wakes")

    def one(frame: int) -> Picture:
        settings = Settings(160, 90, 16, steps=8, ceiling=5.0, seed=1 << 24 | frame)
        return as_picture(render(scene, frame, settings), frame, settings)

    return [one(f) for f in range(1057, 1064)]


def test_the_demo_at_sixteen_samples_gets_closer_to_its_reference(shot_run):
    """PSNR of the displayed picture against 1,024 samples rises by 3.8 dB or more, sparks left in."""
    settings = Settings(160, 90, 1024, steps=8, ceiling=5.0, seed=3 << 24 | 1060, guides=False)
    reference = codes8(render(find_scene("lamp_wakes"), 1060, settings).rgb).astype(np.float64)

    def psnr(rgb: np.ndarray) -> float:
        return float(10 * np.log10(255**2 / np.mean((codes8(rgb) - reference) ** 2)))

    ready = [prepare_picture(p) for p in shot_run]
    before, after = psnr(shot_run[3].rgb), psnr(denoise(ready[1:6], 2))
    assert after >= before + 3.8
    assert psnr(denoise_still(ready[3])) > before


def test_the_demo_at_sixteen_samples_flickers_less(shot_run):
    ready = [prepare_picture(p) for p in shot_run]
    vectors = [p.stack("motion.X", "motion.Y") for p in shot_run]

    def l_star(rgb: np.ndarray) -> np.ndarray:
        return lightness(np.clip(luminance(rgb), 0, 1)).astype(np.float32)

    before = flicker([l_star(p.rgb) for p in shot_run[2:5]], vectors[2:5], 1)
    after = flicker([l_star(denoise(ready[k - 2 : k + 3], 2)) for k in (2, 3, 4)], vectors[2:5], 1)
    assert after < 0.65 * before


def write_run(folder, count: int = 5, size: int = 24):
    pattern = read_pattern(str(folder / "a.####.exr"))
    for k in range(count):
        write_picture(pattern.path(1001 + k), noisy(k, size))
    return pattern


def test_detail_survives_motion_of_half_a_pixel():
    """A wave of six pixels, carried over half a pixel by the cubic, keeps its height within 6 %: a line between pixels leaves 87 %."""
    x = np.arange(120.0)
    frames = []
    for k in range(3):
        wave = 0.5 + 0.2 * np.sin(2 * np.pi * (x - 0.5 * k) / 6.0)
        plane = np.repeat(np.repeat(wave[None, :, None], 24, axis=0), 3, axis=2).astype(np.float32)
        ones = np.ones((24, 120), np.float32)
        frames.append(Picture(plane, {"motion.X": 0.5 * ones, "motion.Y": 0 * ones}))
    total = np.zeros((24, 120, 3), np.float32)
    weights = np.empty(4, np.float32), np.empty(4, np.float32)
    for c in range(10, 110):
        add_cubic(frames[0].rgb, np.float32(c - 0.5), np.float32(12), np.float32(1.0), total, 12, c, *weights)
    kept = total[12, 10:110, 0].std() / frames[1].rgb[12, 10:110, 0].std()
    assert 0.94 < kept < 1.02


def test_finished_frames_are_measured_along_the_motion_of_those_they_were_made_of(tmp_path):
    """The rendered frames lie beside; their vectors, in half-size pixels, are told in the pixels of the finished ones."""
    from hasty_reel.pictures.footage import Footage

    ones = np.ones((20, 30), np.float32)
    rendered = Picture(np.repeat(0.3 * ones[..., None], 3, axis=-1), {"motion.X": 2 * ones, "motion.Y": -ones, "Z": 4 * ones})
    (tmp_path / "rendered").mkdir()
    write_picture(tmp_path / "rendered" / "a.1001.exr", rendered)
    write_picture(tmp_path / "a.1001.exr", Picture(np.full((40, 60, 3), 0.3, np.float32)))
    read = Footage(read_pattern(str(tmp_path / "a.####.exr"))).read(1001, ("motion.X", "motion.Y", "Z"))
    assert read.guides["motion.X"].shape == (40, 60)
    assert read.guides["motion.X"].mean() == pytest.approx(4.0) and read.guides["motion.Y"].mean() == pytest.approx(-2.0)
    assert read.guides["Z"].mean() == pytest.approx(4.0)
    assert Footage(read_pattern(str(tmp_path / "a.####.exr"))).read(1001, ()).guides == {}


def test_a_sequence_is_finished_frame_by_frame_and_resized(tmp_path):
    source, target = write_run(tmp_path / "in"), read_pattern(str(tmp_path / "out" / "b.####.exr"))
    done = finish_sequence(Chain(window=3, size=(48, 40)), source.frames(), source.path, target.path)
    assert done.frames == [1001, 1002, 1003, 1004, 1005]
    made = read_picture(target.path(1003))
    assert (made.width, made.height) == (48, 40)
    assert luminance(made.rgb).std() < 0.05


def test_memory_does_not_grow_with_the_sequence(tmp_path):
    loads = []

    def load(frame: int) -> Picture:
        loads.append(frame)
        return noisy(frame, 16)

    finisher = Finisher(Chain(window=5), load)
    frames = list(range(40))
    for frame in frames:
        finisher.finish(frame, Chain(window=5).needed(frame, set(frames)))
        assert len(finisher._pictures) <= 7
    assert len(loads) == 40


def test_frames_of_other_sizes_and_broken_frames_are_told(tmp_path):
    source = write_run(tmp_path / "in")
    write_picture(source.path(1003), noisy(1, 30))
    target = read_pattern(str(tmp_path / "out" / "b.####.exr"))
    with pytest.raises(PictureError, match="its neighbours are not"):
        finish_sequence(Chain(window=3), source.frames(), source.path, target.path)
    with pytest.raises(WrongInput, match="window is 4; expected 1, 3, 5 or 7"):
        Chain(window=4).checked()
