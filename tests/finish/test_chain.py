"""Orders of the finishing chain, and steps of the artist's own in it: a small script stands in for them."""

from __future__ import annotations

import sys
from pathlib import Path

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import PictureError, ReelError, RendererFault, Stopped, WrongInput
from hasty_reel.finish.chain import FINISH, Chain
from hasty_reel.finish.effect import EffectMeasurer
from hasty_reel.finish.finisher import Finisher
from hasty_reel.finish.sequence import finish_sequence
from hasty_reel.image.resize import resize
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture
from hasty_reel.programs.ownsteps import OWN_STEPS, OwnStep, check_step, own_step
from hasty_reel.settings.finishorder import ENLARGED_FIRST, USUAL, chain_words, checked_order, with_order
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken

SCRIPT = Path(__file__).parent.parent / "own_step.py"


def step(act: str = "double", folder: bool = False, **more) -> OwnStep:
    return OwnStep(
        name="Grade", command=(sys.executable, str(SCRIPT), "{input}", "{output}", act), folder=folder, **{"timeout": 60.0, **more}
    )


def picture(seed: int, width: int = 24, height: int = 16) -> Picture:
    rs = np.random.RandomState(seed)
    light = (0.4 + rs.normal(0, 0.03, (height, width, 3))).astype(np.float32)
    plane = np.full((height, width), 0.5, np.float32)
    names = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z", "A")
    guides = dict.fromkeys(names, plane) | dict.fromkeys(("motion.X", "motion.Y"), np.zeros_like(plane))
    return Picture(light, guides, {"hr:seed": "7"})


def written(folder, count: int = 5):
    pattern = read_pattern(str(folder / "a.####.exr"))
    for k in range(count):
        write_picture(pattern.path(1001 + k), picture(k))
    return pattern


def with_own(*order: str, **more) -> Chain:
    return Chain(order=(*order, *(n for n in USUAL if n not in order)), **more)


def test_resizing_first_denoises_the_pixels_that_are_delivered():
    """By hand: the frames enlarged, their motion in the new pixels, then denoised; alpha stays in both orders."""
    run = [picture(k) for k in range(5)]
    made = Finisher(Chain(window=3, size=(48, 32), order=ENLARGED_FIRST), run.__getitem__).finish(2, range(5))
    by_hand = [Finisher(Chain(size=(48, 32)), run.__getitem__, keep=True).finish(k, [k]) for k in range(5)]
    assert made.rgb == pytest.approx(Finisher(Chain(window=3), by_hand.__getitem__).finish(2, range(5)).rgb)
    usual = Finisher(Chain(window=3, size=(48, 32)), run.__getitem__).finish(2, range(5))
    assert usual.rgb == pytest.approx(resize(Finisher(Chain(window=3), run.__getitem__).finish(2, range(5)).rgb, 48, 32))
    assert not np.allclose(usual.rgb, made.rgb)
    assert set(made.guides) == set(usual.guides) == {"A"}


def test_motion_is_told_in_the_pixels_of_the_size():
    ones = np.ones((16, 24), np.float32)
    found = Finisher(Chain(size=(48, 16)), lambda k: Picture(picture(k).rgb, {"motion.X": 2 * ones, "motion.Y": ones}), keep=True)
    guides = found.finish(0, [0]).guides
    assert guides["motion.X"].mean() == pytest.approx(4.0) and guides["motion.Y"].mean() == pytest.approx(1.0)


@pytest.mark.parametrize("folder", [False, True])
def test_a_step_of_the_artists_own_runs_where_it_stands(tmp_path, folder):
    """Doubling light before denoising and sharpening gives twice what they give alone, on frames and on a folder alike."""
    source, own, plain = (written(tmp_path / "in"), *(read_pattern(str(tmp_path / n / "b.####.exr")) for n in ("own", "plain")))
    told = []
    chain = with_own("despike", "Grade", "denoise", window=3, sharpen=0.1, own=(step("double", folder, progress=r"done (\d+)"),))
    done = finish_sequence(chain, source.frames(), source.path, own.path, lambda share, words: told.append(share))
    finish_sequence(Chain(window=3, sharpen=0.1), source.frames(), source.path, plain.path)
    assert done.frames == source.frames() and told == sorted(told) and told[-1] == 1.0
    for frame in source.frames():
        a, b = (read_picture(p.path(frame)) for p in (own, plain))
        assert a.rgb == pytest.approx(2 * b.rgb, rel=0.02), "half floats on the way"
        assert set(a.guides) == {"A"} and a.guides["A"].mean() == pytest.approx(1.0), "what the command wrote counts"
        assert "Grade" in str(a.attributes[FINISH]) and a.attributes["hr:seed"] == "7"
    assert sorted(p.name for p in own.folder.iterdir()) == [f"b.{f}.exr" for f in source.frames()], "nothing is left beside"


def test_a_step_may_enlarge_and_gives_the_size_that_is_delivered(tmp_path):
    source, target = written(tmp_path / "in", 3), read_pattern(str(tmp_path / "out" / "b.####.exr"))
    chain = with_own("Grade", size=(48, 32), own=(step("enlarge"),))
    finish_sequence(chain, source.frames(), source.path, target.path)
    made = read_picture(target.path(1002))
    assert (made.width, made.height) == (48, 32) and made.guides["A"].shape == (32, 48)
    last = Chain(size=(24, 16), order=(*USUAL, "Grade"), own=(step("enlarge"),))
    with pytest.raises(PictureError, match="own steps made it 48x32; expected 24x16, or resize after them"):
        finish_sequence(last, source.frames(), source.path, target.path)


@pytest.mark.parametrize(
    "act, words",
    [
        ("fail", "ended with status 1. It said: no licence for this"), ("nothing", "ended well but wrote no picture"),
        ("broken", "is not whole"), ("nan", "not finite numbers"),
    ],
)  # fmt: skip
@pytest.mark.parametrize("folder", [False, True])
def test_what_a_step_does_wrong_is_told_and_nothing_is_left(tmp_path, act, words, folder):
    source, target = written(tmp_path / "in", 3), read_pattern(str(tmp_path / "out" / "b.####.exr"))
    with pytest.raises(RendererFault, match=f"Frame.*own step 'Grade'.*{words}"):
        finish_sequence(with_own("Grade", own=(step(act, folder),)), source.frames(), source.path, target.path)
    assert not target.folder.exists() or not list(target.folder.iterdir())


def test_a_step_that_writes_in_place_spoils_no_rendered_frame(tmp_path):
    source, target = written(tmp_path / "in", 3), read_pattern(str(tmp_path / "out" / "b.####.exr"))
    before = source.path(1001).read_bytes()
    finish_sequence(with_own("Grade", own=(step("in place", True),)), source.frames(), source.path, target.path)
    assert source.path(1001).read_bytes() == before and len(target.frames()) == 3


def test_a_step_that_hangs_is_ended_by_its_time_out_and_by_cancel(tmp_path):
    hangs = OwnStep(name="Grade", command=(sys.executable, "-c", "import time; time.sleep(60)", "{input}", "{output}"), timeout=0.5)
    source, target = written(tmp_path / "in", 2), read_pattern(str(tmp_path / "out" / "b.####.exr"))
    with pytest.raises(RendererFault, match=r"ended after 0\.5 s, its time-out"):
        finish_sequence(with_own("Grade", own=(hangs,)), source.frames(), source.path, target.path)
    cancel = CancelToken()
    cancel.cancel()
    with pytest.raises(Stopped):
        finish_sequence(with_own("Grade", own=(hangs,)), source.frames(), source.path, target.path, cancel=cancel)


def test_a_chain_is_measured_as_a_whole():
    """Doubled light has twice the noise: that is no calm. What a step takes for every frame is told from what grows with the pixels."""
    runs = [[picture(10 * s + k, 96, 64) for k in range(5)] for s in (1, 2)]
    measurer = EffectMeasurer(*runs, samples=16)
    chain = Chain(window=3, order=(*USUAL, "Grade"), own=(step("double"),))
    whole, alone = measurer.measure_chain(chain, "denoise 3 100 % > Grade"), measurer.measure_chain(Chain(window=3), "denoise 3 100 %")
    assert whole.noise_ratio == pytest.approx(2 * alone.noise_ratio, rel=0.02)
    slow = measurer.measure_chain(Chain(order=(*USUAL, "Grade"), own=(step("slow"),)), "Grade")
    assert slow.seconds_per_frame > 0.4 > slow.seconds_per_pixel * 96 * 64, "it waits for half a second however small the frame is"
    assert whole.own == {"Grade": step("double").fingerprint} != {"Grade": step("enlarge").fingerprint}
    usual = measurer.measure_chain(Chain(window=3, size=(192, 128)), "x")
    assert 0 < usual.seen_ratio < 1 and usual.detail == pytest.approx(1.0, abs=0.5)


def test_orders_that_make_no_sense_are_refused():
    with pytest.raises(ReelError, match="has resize 0 times; expected each of despike, denoise, resize, sharpen once"):
        checked_order(("despike", "denoise", "sharpen"), "Recipe 'x'")
    with pytest.raises(ReelError, match="despike after denoise"):
        checked_order(("denoise", "despike", "resize", "sharpen"), "Recipe 'x'")
    with pytest.raises(ReelError, match="each once"):
        checked_order((*USUAL, "Grade", "Grade"), "Recipe 'x'")
    with pytest.raises(WrongInput, match="own step 'Grade' has no command"):
        Chain(order=(*USUAL, "Grade")).checked()
    assert with_order((*USUAL, "Grade"), "Grade", -1) == ("despike", "denoise", "resize", "Grade", "sharpen")
    assert with_order(USUAL, "despike", -1) == USUAL


def test_a_chain_has_words_of_its_own_only_where_it_is_another():
    recipe = Recipe(name="x", denoise_window=5, render_scale=50.0)
    assert chain_words(recipe, 5) == "" == chain_words(Recipe(name="x", finish_order=ENLARGED_FIRST), 5), "nothing is resized"
    other = Recipe(name="x", denoise_window=5, render_scale=50.0, finish_order=(*ENLARGED_FIRST, "Grade"), sharpen=0.1)
    assert chain_words(other, 5) == "resize from 50 % > denoise 5 100 % > sharpen 0.1 > Grade"


def test_own_steps_are_kept_on_this_machine_and_checked():
    kept = OWN_STEPS.shipped.added(step())
    OWN_STEPS.save(kept)
    assert own_step("Grade") == step()
    with pytest.raises(WrongInput, match=r"'Glow' is not kept on this machine; expected one that is \('Grade'\)"):
        own_step("Glow")
    with pytest.raises(WrongInput, match=r"{output} is missing; expected the place of what is written"):
        check_step(OwnStep(name="x", command=("a", "{input}")), "Own step 'x'")
    with pytest.raises(WrongInput, match=r"'{frame}'; expected one of {input}, {output}, {first}"):
        check_step(OwnStep(name="x", command=("a", "{input}", "{output}", "{frame}"), folder=True), "Own step 'x'")


def test_what_own_steps_did_counts_while_their_commands_are_the_same(tmp_path):
    from hasty_reel.evidence.proof import FILTER, DenoiseEffect, read_effects, write_effects

    plain = DenoiseEffect(filter=FILTER, window=3, noise_ratio=0.5, flicker_ratio=0.5, seconds_per_pixel=1e-6)
    tried = msgspec.structs.replace(plain, chain="denoise 3 100 % > Grade", own={"Grade": step().fingerprint})
    write_effects(tmp_path, [plain, tried])
    assert read_effects(tmp_path) == [plain], "there is no such step"
    OWN_STEPS.save(OWN_STEPS.shipped.added(step()))
    assert read_effects(tmp_path) == [plain, tried]
    OWN_STEPS.save(OWN_STEPS.shipped.added(step("enlarge")))
    assert read_effects(tmp_path) == [plain]
    OWN_STEPS.path.write_text("not JSON")
    assert read_effects(tmp_path) == [plain], "a broken list of steps loses no other evidence"
