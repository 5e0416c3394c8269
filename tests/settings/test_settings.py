"""Every setting follows from its declaration: its hash, the file, the job, the link, the comparison, the schema."""

from __future__ import annotations

import json
from datetime import datetime

import msgspec
import pytest

from hasty_reel.bench.settings import NO_CEILING
from hasty_reel.farm.job import FrameJob, moment_of
from hasty_reel.farm.renderers.command import placeholder_values
from hasty_reel.farm.renderers.links import OF_JOB, PLACEHOLDERS
from hasty_reel.finish.chain import Chain
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits import departed, rejoined, with_line, with_own_setting
from hasty_reel.reel.file import decoded, reel_text, schema_text
from hasty_reel.reel.fresh import fresh_reel
from hasty_reel.run.folder import final_hash
from hasty_reel.scaledsize import scaled_size
from hasty_reel.settings.own import OwnSetting
from hasty_reel.settings.recipe import BRIGHTEST, SETTINGS, Recipe, departing, differences
from hasty_reel.settings.setting import Acts, Setting

OWN = (
    OwnSetting(name="shadow_quality", label="Shadow quality", low=0, high=10, step=1, whole=True, default=4),
    OwnSetting(name="order", label="Bucket order", kind="choice", choices=("rows", "spiral"), acts_on="time"),
)
EVERY = (*SETTINGS, *(s.setting for s in OWN))
WITH = {
    "cache_blend": {"cache_step": 5},
    "denoise_window": {"denoise_window": 5},
    "approximate_distance": {"approximate_after": 1},
    "approximate_strength": {"approximate_after": 1},
}
"""What a setting needs beside it to act on anything."""


@pytest.fixture(scope="module")
def reel() -> Reel:
    """A reel of one shot with two own settings."""
    made = fresh_reel("Tidal Orrery", "lamp_wakes", datetime(2026, 12, 1, 9, 0).astimezone())
    for setting in OWN:
        made = with_own_setting(made, setting)
    return made


def other_value(setting: Setting, recipe: Recipe):
    """A value within bounds that the recipe has not."""
    now = recipe.value(setting.field)
    step = 2 * setting.step if setting.odd else setting.step
    tries = (*(v for v, _ in setting.names), *((now + step, now - step) if now is not None else ()), setting.low, setting.high)
    for value in tries:
        if value != now and value is not None and setting.low <= value <= setting.high:
            return setting.checked(value, "")
    raise AssertionError(setting.field)


def hashes(reel: Reel) -> tuple[str, str]:
    """Of the picture, and of what finishing makes of it."""
    shot = reel.shots[0]
    recipe = reel.recipe_of(shot)
    job = FrameJob(
        shot.scene, 1001, *scaled_size(reel.picture_size, recipe.render_scale), 64, recipe, moment=moment_of(shot, recipe, 1001),
        floor=recipe.samples_floor, stop_noise=recipe.stop_noise, cap=recipe.time_cap,
    )  # fmt: skip
    chain = Chain.of(reel.resolved(shot), reel.picture_size if recipe.render_scale != 100 else None, ())
    return job.hash, final_hash("", chain)


@pytest.mark.parametrize("setting", EVERY, ids=lambda s: s.field)
def test_a_setting_changes_the_hash_of_what_it_acts_on_and_no_other(reel, setting):
    shot = reel.shots[0].id
    for field, value in WITH.get(setting.field, {}).items():
        reel = with_line(reel, shot, field, value)
    changed = with_line(reel, shot, setting.field, other_value(setting, reel.recipe_of(reel.shots[0])))
    (picture, finishing), (new_picture, new_finishing) = hashes(reel), hashes(changed)
    assert (picture != new_picture) == (setting.acts is Acts.PICTURE)
    # another size is resized back, which is finishing
    assert (finishing != new_finishing) == (setting.acts is Acts.FINISHING or setting.field == "render_scale")


@pytest.mark.parametrize("setting", EVERY, ids=lambda s: s.field)
def test_a_setting_comes_back_from_the_file_and_shows_in_the_comparison(reel, setting):
    shot = reel.shots[0].id
    value = other_value(setting, reel.recipe_of(reel.shots[0]))
    changed = decoded(reel_text(with_line(reel, shot, setting.field, value)).encode())
    before, after = reel.recipe_of(reel.shots[0]), changed.recipe_of(changed.shots[0])
    assert after.value(setting.field) == value
    assert differences(after, before) == [f"{setting.words} {setting.text(before.value(setting.field))} → {setting.text(value)}"]
    own = departed(reel, shot, setting.field, value)
    assert decoded(reel_text(own).encode()).recipe_of(own.shots[0]).value(setting.field) == value
    assert rejoined(own, shot, setting.field).recipe_of(reel.shots[0]) == before


@pytest.mark.parametrize("setting", EVERY, ids=lambda s: s.field)
def test_a_setting_that_a_renderer_needs_reaches_the_link(reel, setting, tmp_path):
    recipe = reel.recipe_of(reel.shots[0])
    value = other_value(setting, recipe)
    job = FrameJob("lamp_wakes", 1001, 64, 36, 64, departing(recipe, {setting.field: value}))
    told = placeholder_values(job, tmp_path / "frame.exr")
    rendered = setting.acts is Acts.PICTURE and not setting.field.startswith(("crop_", "halves", "stop_noise"))
    assert bool(setting.placeholder) == (rendered or setting.field in ("keep_scene", "own.order"))
    if setting.placeholder:
        assert float(told[setting.placeholder]) == pytest.approx(float(value))


def test_no_two_places_of_a_link_have_one_name_and_what_has_no_limit_is_told_as_the_most():
    assert len(set(PLACEHOLDERS)) == len(PLACEHOLDERS)
    assert set(OF_JOB) <= set(PLACEHOLDERS)
    assert BRIGHTEST == NO_CEILING
    for setting in SETTINGS:
        if setting.optional and setting.placeholder:
            assert setting.told(None) == f"{setting.high:.10g}"


@pytest.mark.parametrize("setting", SETTINGS, ids=lambda s: s.field)
def test_the_schema_says_the_bounds_of_a_setting(setting):
    field = json.loads(schema_text())["$defs"]["Recipe"]["properties"][setting.field]
    kind = next(k for k in field.get("anyOf", [field]) if k["type"] != "null")
    assert (kind["minimum"], kind["maximum"]) == (setting.low, setting.high)
    assert field["description"] == setting.meaning


def test_the_default_of_every_setting_is_within_its_bounds():
    plain = Recipe(name="Plain")
    for setting in SETTINGS:
        assert setting.checked(plain.value(setting.field), "default") == plain.value(setting.field)


def test_a_setting_declared_later_leaves_the_hash_of_earlier_frames(reel):
    bare = msgspec.structs.replace(reel, settings=())
    assert hashes(bare) == hashes(reel)
