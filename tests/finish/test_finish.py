"""The finishing chain: what it must do on noise with a known answer, and on the demo shot."""

from __future__ import annotations

import gc
import tracemalloc
import weakref

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.render import Settings, render
from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.despike import despike
from hasty_reel.finish.finisher import Finisher
from hasty_reel.finish.sequence import finish_sequence
from hasty_reel.image.luminance import luminance
from hasty_reel.image.sampling import add_cubic
from hasty_reel.image.sharpen import sharpen, sharpened_noise
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture
from hasty_reel.settings.finishorder import ENLARGED_FIRST


def noisy(seed: int, size: int = 120, sigma: float = 0.05) -> Picture:
    rs = np.random.RandomState(seed)
    light = 0.5 + rs.normal(0, sigma, (size, size))
    plane = np.full((size, size), 0.5, np.float32)
    names = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z")
    guides = dict.fromkeys(names, plane) | dict.fromkeys(("motion.X", "motion.Y"), np.zeros_like(plane))
    return Picture(np.repeat(light[..., None], 3, axis=-1).astype(np.float32), guides)


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
    for c in range(10, 110):
        add_cubic(frames[0].rgb, np.float32(c - 0.5), np.float32(12), np.float32(1.0), total, 12, c)
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


@pytest.mark.parametrize("chain", [Chain(window=5), Chain(window=5, despike=True, size=(24, 24), order=ENLARGED_FIRST)])
def test_memory_does_not_grow_with_the_sequence(chain):
    """Of the rendered pictures those of one window are alive, and the memory of what is kept besides stops growing."""
    loads, alive = [], []

    def load(frame: int) -> Picture:
        loads.append(frame)
        picture = noisy(frame, 16)
        alive.append(weakref.ref(picture))
        return picture

    finisher = Finisher(chain, load)
    gc.freeze()  # what is there already is not searched again after each frame
    tracemalloc.start()
    frames, held = list(range(24)), []
    for frame in frames:
        finisher.finish(frame, chain.needed(frame, set(frames)))
        gc.collect()
        assert sum(r() is not None for r in alive) <= 2 * chain.reach + 4
        held.append(tracemalloc.get_traced_memory()[0])
    assert len(loads) == 24
    tracemalloc.stop()
    gc.unfreeze()
    assert max(held[18:]) < 1.05 * max(held[10:16])


def test_frames_of_other_sizes_and_broken_frames_are_told(tmp_path):
    source = write_run(tmp_path / "in")
    write_picture(source.path(1003), noisy(1, 30))
    target = read_pattern(str(tmp_path / "out" / "b.####.exr"))
    with pytest.raises(PictureError, match="its neighbours are not"):
        finish_sequence(Chain(window=3), source.frames(), source.path, target.path)
    with pytest.raises(WrongInput, match="window is 4; expected 1, 3, 5, 7, 9 or 11"):
        Chain(window=4).checked()
    with pytest.raises(WrongInput, match="strength 120 %; expected 0 to 100 %"):
        Chain(window=3, strength=1.2).checked()
    with pytest.raises(WrongInput, match="Sharpen: 9; expected 0 to 2"):
        Chain(sharpen=9).checked()


def test_sharpening_is_an_unsharp_mask_and_keeps_lamps_without_rings():
    """Against SciPy's Gaussian, within the reach OpenCV gives it; beside light above white it is held within what is around."""
    rng = np.random.RandomState(4)
    rgb = np.repeat(gaussian_filter(rng.uniform(0.1, 0.8, (40, 60)), 1.0)[..., None], 3, axis=2).astype(np.float32)
    expected = rgb + 0.5 * (rgb - gaussian_filter(rgb, (1.0, 1.0, 0.0), truncate=3.0, mode="mirror"))
    assert sharpen(rgb, 0.5)[4:-4, 4:-4] == pytest.approx(expected[4:-4, 4:-4], abs=2e-3)
    rgb[20, 30] = 40.0
    near = sharpen(rgb, 0.5)[17:24, 27:34]
    assert near.min() >= rgb[16:25, 26:35].min() and near.max() <= 40.0
    assert sharpen(np.full((9, 9, 3), 0.3, np.float32), 1.0) == pytest.approx(0.3)


def test_strength_mixes_what_was_rendered_back_in():
    frames = [noisy(k, 40) for k in range(9)]
    whole, half, none = (Finisher(Chain(window=3, strength=s), frames.__getitem__).finish(4, range(9)).rgb for s in (1.0, 0.5, 0.0))
    assert none == pytest.approx(frames[4].rgb) and half == pytest.approx((whole + frames[4].rgb) / 2, abs=1e-6)


def test_alpha_and_other_channels_go_along_to_the_delivered_size():
    """Premultiplied colour, its alpha and a channel of another kind are resized alike; guides are left behind."""
    frames = []
    for k in range(7):
        picture = noisy(k, 32)
        matte = np.zeros((32, 32), np.float32)
        matte[8:24, 8:24] = 1.0
        frames.append(Picture(picture.rgb * matte[..., None], {**picture.guides, "A": matte, "crypto.R": 5.0 * matte}))
    made = Finisher(Chain(window=3, size=(64, 64)), frames.__getitem__).finish(3, range(7))
    assert set(made.guides) == {"A", "crypto.R"} and made.guides["A"].shape == (64, 64)
    alpha = made.guides["A"]
    assert alpha.min() >= 0.0 and alpha.max() <= 1.0 and alpha[32, 32] == pytest.approx(1.0) and alpha[2, 2] == pytest.approx(0.0, abs=1e-3)
    assert made.guides["crypto.R"][32, 32] == pytest.approx(5.0, rel=1e-3)
    assert np.abs(made.rgb[alpha == 0.0]).max() < 0.02


@pytest.mark.parametrize("amount", [0.1, 0.125, 1.0])
def test_sharpening_raises_white_noise_as_much_as_the_plan_counts(amount):
    """Within 1 % on planted white noise; noise of four pixels is raised by far less."""
    noise = np.random.RandomState(1).normal(0.4, 0.01, (400, 400, 1)).repeat(3, axis=2).astype(np.float32)
    assert sharpen(noise, amount).std() / noise.std() == pytest.approx(sharpened_noise(amount), rel=0.01)
    coarse = (0.4 + gaussian_filter(noise - 0.4, (4, 4, 0))).astype(np.float32)
    assert 1.0 <= sharpen(coarse, amount).std() / coarse.std() < 1.0 + 0.2 * (sharpened_noise(amount) - 1.0)
