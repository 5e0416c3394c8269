"""Denoising over time and space: noise with a known answer, clean pictures, motion, and rendered shots against their references."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import fourier_shift, gaussian_filter
from skimage.metrics import structural_similarity

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.picture import as_picture
from hasty_reel.bench.render import Settings, render
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.denoise import Denoiser, Denoising
from hasty_reel.finish.effect import EffectMeasurer, Way
from hasty_reel.finish.finisher import Finisher
from hasty_reel.finish.sparkspread import spread_sparks
from hasty_reel.image.lightness import lightness
from hasty_reel.image.luminance import luminance
from hasty_reel.measure.flicker import flicker
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.frame import Picture
from hasty_reel.predict.effects import Effects, blended, carried_on

NAMES = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z")


def grey(plane: np.ndarray, guided: bool, motion: tuple[float, float] = (0.0, 0.0), told: bool = True) -> Picture:
    ones = np.ones(plane.shape, np.float32)
    guides = dict.fromkeys(NAMES, 0.5 * ones) if guided else {}
    if told:
        guides |= {"motion.X": motion[0] * ones, "motion.Y": motion[1] * ones}
    return Picture(np.repeat(plane[..., None], 3, axis=-1).astype(np.float32), guides)


def noisy(seed: int, guided: bool = True, size: int = 96, sigma: float = 0.05) -> Picture:
    return grey(0.5 + np.random.RandomState(seed).normal(0, sigma, (size, size)), guided)


def l_star(rgb: np.ndarray) -> np.ndarray:
    return lightness(np.clip(luminance(rgb), 0, 1)).astype(np.float32)


def denoised(frames: list[Picture], at: int, reach: int = 2, thorough: bool = True) -> np.ndarray:
    return Denoiser(Denoising(reach, thorough), frames.__getitem__).denoise(at, range(len(frames)))


@pytest.mark.parametrize("guided", [True, False])
@pytest.mark.parametrize("reach, share", [(1, 0.577), (2, 0.447), (3, 0.378)])
def test_over_time_white_noise_falls_by_the_root_of_the_window(reach, share, guided):
    """||h|| of a box window: 1/sqrt(window), within 5 %."""
    frames = [noisy(k, guided) for k in range(11)]
    denoiser = Denoiser(Denoising(reach), frames.__getitem__)
    denoiser.denoise(5, range(11))
    (mean, left), *_ = denoiser._over_time(5, reach)
    light = mean.light
    assert luminance(light).std() / 0.05 == pytest.approx(share, rel=0.05)
    assert np.sqrt(left.mean()) / 0.05 == pytest.approx(share, rel=0.1), "and it is known how much is left"


@pytest.mark.parametrize("guided", [True, False])
def test_space_takes_most_of_what_time_leaves(guided):
    frames = [noisy(k, guided) for k in range(11)]
    out = denoised(frames, 5)
    assert luminance(out).std() < 0.08 * 0.05 and out.mean() == pytest.approx(0.5, rel=0.002)
    alone = denoised(frames, 5, reach=0)
    assert luminance(alone).std() / 0.05 == pytest.approx(0.119 if guided else 0.125, rel=0.15)


@pytest.mark.parametrize("guided", [True, False])
def test_a_clean_sequence_stays_as_it_is(guided):
    """A textured picture that moves by 0.7 pixels a frame: mean change below 0.2 L*, 99th percentile below 1 L*."""
    texture = gaussian_filter(np.random.RandomState(1).uniform(0, 1, (120, 160)), 1.2)
    texture = 0.05 + 0.8 * (texture - texture.min()) / np.ptp(texture)
    frames = []
    for k in range(9):
        plane = np.fft.ifftn(fourier_shift(np.fft.fftn(texture), (0.3 * k, 0.7 * k))).real
        frames.append(grey(plane, guided, (0.7, 0.3)))
    change = np.abs(l_star(denoised(frames, 4)) - l_star(frames[4].rgb))[12:-12, 12:-12]
    assert change.mean() < 0.2 and np.percentile(change, 99) < 1.0


def test_texture_in_the_albedo_comes_through_untouched():
    rs = np.random.RandomState(0)
    albedo = rs.uniform(0.1, 0.9, (40, 40)).astype(np.float32)
    frames = []
    for k in range(9):
        light = albedo * (0.7 + np.random.RandomState(k).normal(0, 0.05, (40, 40)))
        picture = grey(light, True)
        frames.append(Picture(picture.rgb, {**picture.guides, **dict.fromkeys(NAMES[:3], albedo)}))
    out = denoised(frames, 4)[..., 0]
    assert np.abs(out / albedo - 0.7).std() == pytest.approx(0.0068, rel=0.1), "a sixteenth of what texture would be that is smoothed away"


def test_what_is_uncovered_is_not_haunted():
    """A bright object that was there a frame ago, and is nearer by its depth, leaves no ghost: about 1 L* beside its edge at most."""

    def frame(x: int) -> Picture:
        light = np.full((60, 120), 0.1, np.float32)
        depth, motion = np.full((60, 120), 10.0, np.float32), np.zeros((60, 120), np.float32)
        light[20:40, x : x + 15], depth[20:40, x : x + 15], motion[20:40, x : x + 15] = 0.9, 3.0, 8.0
        picture = grey(light, True)
        return Picture(picture.rgb, {**picture.guides, "Z": depth, "motion.X": motion})

    frames = [frame(10 + 8 * k) for k in range(9)]
    assert np.abs(l_star(denoised(frames, 4)) - l_star(frames[4].rgb)).max() < 1.1


def test_a_hard_edge_that_moves_without_guides_leaves_no_ghost():
    """Noise of 0.03 over a dark and a bright half whose border moves by 3 pixels a frame: beyond the border the error stays below 1 L*."""
    frames, clean = [], []
    for k in range(9):
        plane = np.where(np.arange(120)[None, :] < 40 + 3 * k, 0.15, 0.6) * np.ones((60, 1))
        clean.append(plane)
        frames.append(grey(plane + np.random.RandomState(k).normal(0, 0.03, plane.shape), False, told=False))
    off = l_star(denoised(frames, 4)) - l_star(np.repeat(clean[4][..., None], 3, axis=2))
    near = slice(52 - 12, 52 + 12)
    apart = np.r_[np.abs(off[8:-8, near]).mean(axis=0)]
    assert np.delete(apart, [10, 11, 12, 13]).max() < 1.0


def test_a_cut_is_not_crossed():
    """Another picture from the fifth frame on, without guides: the last before and the first after keep their own light."""
    rng = np.random.RandomState(6)
    scenes = [gaussian_filter(rng.uniform(0, 1, (80, 100)), 3.0) for _ in range(2)]
    scenes = [0.1 + 0.7 * (s - s.min()) / np.ptp(s) for s in scenes]
    frames = [grey(scenes[k // 5] + np.random.RandomState(k).normal(0, 0.01, (80, 100)), False, told=False) for k in range(10)]
    for at in (4, 5):
        off = l_star(denoised(frames, at)) - l_star(np.repeat(scenes[at // 5][..., None], 3, axis=2))
        assert np.abs(off[6:-6, 6:-6]).mean() == pytest.approx(0.31, rel=0.15) and abs(float(off.mean())) < 0.03


def test_sparks_are_spread_and_their_light_is_kept():
    rgb = np.full((40, 40, 3), 0.2, np.float32)
    rgb[20, 20] = 30.0
    out = spread_sparks(rgb, [])
    assert out.sum() == pytest.approx(rgb.sum(), rel=1e-4) and out.max() < 1.5
    lamp = luminance(rgb)
    assert spread_sparks(rgb, [lamp * 9.0]) == pytest.approx(rgb), "what is bright in the frames beside too is a lamp"


@pytest.fixture(scope="module")
def shot_runs() -> list[list[Picture]]:
    """Nine frames of a shot at 16 samples with two seeds, small."""
    scene = find_scene("lamp_wakes")

    def one(frame: int, seed: int) -> Picture:
        settings = Settings(160, 90, 16, steps=8, ceiling=5.0, seed=seed << 24 | frame)
        return as_picture(render(scene, frame, settings), frame, settings)

    return [[one(f, s) for f in range(1056, 1065)] for s in (1, 2)]


def test_a_shot_at_sixteen_samples_gets_near_its_reference(shot_runs):
    """PSNR of the displayed picture against 1,024 samples rises by 3.8 dB or more over time, quickly by 3.3.

    A still by itself, of a scene full of detail at this size, gains likeness (SSIM) but no PSNR.
    """
    settings = Settings(160, 90, 1024, steps=8, ceiling=5.0, seed=3 << 24 | 1060, guides=False)
    reference = codes8(render(find_scene("lamp_wakes"), 1060, settings).rgb).astype(np.float64)

    def psnr(rgb: np.ndarray) -> float:
        return float(10 * np.log10(255**2 / np.mean((codes8(rgb) - reference) ** 2)))

    def likeness(rgb: np.ndarray) -> float:
        return float(structural_similarity(codes8(rgb), reference.astype(np.uint8), channel_axis=2))

    run = shot_runs[0]
    before = psnr(run[4].rgb)
    thorough, quick, still = (psnr(denoised(run, 4, *how)) for how in ((2, True), (2, False), (0, False)))
    assert thorough >= before + 3.8 and quick >= before + 3.3
    assert before - 0.5 < still < quick
    assert likeness(run[4].rgb) + 0.02 < likeness(denoised(run, 4, 0)) < likeness(denoised(run, 4))


def test_a_shot_flickers_far_less_and_the_same_in_any_order(shot_runs):
    run = shot_runs[0]
    vectors = [p.stack("motion.X", "motion.Y") for p in run]
    finisher = Finisher(Chain(window=5), run.__getitem__)
    after = {k: finisher.finish(k, finisher.chain.needed(k, range(9))).rgb for k in (3, 4, 5)}
    before = flicker([l_star(p.rgb) for p in run[3:6]], vectors[3:6], 1)
    assert flicker([l_star(after[k]) for k in (3, 4, 5)], vectors[3:6], 1) < 0.45 * before
    again = Finisher(Chain(window=5), run.__getitem__)
    assert np.array_equal(again.finish(5, again.chain.needed(5, range(9))).rgb, after[5]), "as when a run goes on where it stopped"


def test_what_denoising_does_is_told_by_two_seeds(shot_runs):
    """The ratios of the measurer are those of pictures; half strength lies where both have in common what they have."""
    measurer = EffectMeasurer(*shot_runs, samples=16.0)
    effect = measurer.measure(Way(5))
    assert effect.noise_ratio == pytest.approx(0.41, rel=0.12) and effect.noise_half == pytest.approx(0.62, rel=0.12)
    assert effect.seen_ratio == pytest.approx(0.42, rel=0.12) and effect.detail == pytest.approx(0.92, rel=0.15)
    assert effect.bias_L == pytest.approx(2.2, rel=0.15)
    at = Effects((effect,)).at(5, 16.0, strength=0.5)
    assert at is not None and at.noise_ratio == pytest.approx(effect.noise_half, rel=1e-6)
    assert blended(0.3, 0.0, 0.0) == 1.0 and blended(0.3, 0.6, 1.0) == pytest.approx(0.3)
    quick = measurer.measure(Way(5, thorough=False))
    assert quick.noise_ratio != effect.noise_ratio


def test_beyond_the_cleanest_run_a_rise_goes_on_and_a_fall_does_not():
    """On logarithmic axes: from 0.2 to 0.4 over four times the samples, 0.4 times the root of 2 at four times more, and no further."""
    known = np.log([4.0, 16.0])
    assert carried_on(np.log(8.0), known, [0.2, 0.4]) == pytest.approx(0.2 * np.sqrt(2.0))
    assert carried_on(np.log(64.0), known, [0.2, 0.4]) == pytest.approx(0.4 * np.sqrt(2.0))
    assert carried_on(np.log(4096.0), known, [0.2, 0.4]) == pytest.approx(0.4 * np.sqrt(2.0))
    assert carried_on(np.log(64.0), known, [0.4, 0.2]) == pytest.approx(0.2)
    assert carried_on(np.log(64.0), known, [0.3, 0.9]) == 1.0 and carried_on(np.log(1.0), known, [0.2, 0.4]) == pytest.approx(0.2)
