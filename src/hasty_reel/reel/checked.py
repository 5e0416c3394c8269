"""A reel that does not contradict itself: every field within bounds, every name known.

After an edit only what changed is looked at again, so that a reel of thousands of shots
is edited without a pause.
"""

from __future__ import annotations

import math
import os
import re
from collections import Counter
from pathlib import PurePosixPath

from hasty_reel.errors import ReelError, WrongInput
from hasty_reel.reel.document import FORMAT, Reel
from hasty_reel.reel.hours import checked_hours, zone_of
from hasty_reel.reel.machine import Machine
from hasty_reel.reel.moves import checked_move
from hasty_reel.reel.rate import FASTEST, SLOWEST, labels_a_second, read_timecode
from hasty_reel.reel.shot import HOLD_BOUNDS, Layer, Shot, layer_shot
from hasty_reel.reel.size import LARGEST, SMALLEST
from hasty_reel.settings.own import MOST_OWN_SETTINGS, OWN, checked_own_setting
from hasty_reel.settings.recipe import Recipe, checked_recipe

MOST_FRAMES = 1_000_000
MOST_SHOTS = 100_000
LONGEST_NAME, LONGEST_NOTE, LONGEST_FILE_NAME = 200, 20_000, 255
_ID = re.compile(r"[A-Za-z0-9][A-Za-z0-9_-]{0,63}\Z")
_SURROGATE = re.compile("[\ud800-\udfff]")
ID_EXPECTED = "letters, digits, - and _, such as sh010"


def checked_reel(reel: Reel, before: Reel | None = None) -> Reel:
    """Return the reel, if it does not contradict itself.

    Parameters
    ----------
    reel : the reel; it stays as it was
    before : an earlier reel that was checked; its very shots are not looked at again

    Raises
    ------
    ReelError
        One sentence with the path of the field and what was expected.
    """
    try:
        _check_head(reel)
        if before is None or reel.machines is not before.machines:
            _check_machines(reel)
        same_settings = before is not None and reel.settings is before.settings
        if not same_settings:
            _check_own_settings(reel)
        same_recipes = before is not None and reel.recipes is before.recipes and same_settings
        if not same_recipes:
            _check_recipes(reel)
        ids = [s.id for s in reel.shots]
        if len(set(ids)) != len(ids):
            twice = next(i for i, count in Counter(ids).items() if count > 1)
            _need(False, "$.shots", f"'{twice}' twice", "different ids")
        known: set[int] = set()
        if before is not None and reel.rate == before.rate:
            same_names = same_recipes or (same_settings and [r.name for r in reel.recipes] == [r.name for r in before.recipes])
            # a shot that follows its recipe in every line is as good as the recipe is
            known = {id(s) for s in before.shots if same_recipes or (same_names and not s.departures and not s.layers)}
        for k, shot in enumerate(reel.shots):
            if id(shot) not in known:
                _check_shot(reel, shot, f"$.shots[{k}]")
    except ReelError:
        raise
    except WrongInput as error:
        raise ReelError(str(error)) from error
    return reel


def _check_head(reel: Reel) -> None:
    _need(reel.reel_format == FORMAT, "$.reel_format", reel.reel_format, str(FORMAT))
    _check_name(reel.name, "$.name")
    good = min(reel.rate) > 0 and max(reel.rate) <= 10**9 and SLOWEST <= reel.rate[0] / reel.rate[1] <= FASTEST
    _need(good, "$.rate", list(reel.rate), f"{SLOWEST} to {FASTEST} frames a second")
    if labels_a_second(reel.fps) is not None:
        try:
            read_timecode(reel.timecode_start, reel.fps, reel.drop_frame)
        except WrongInput as error:
            raise ReelError(f"$.timecode_start: {error}") from error
    _need(len(reel.timecode_start) <= 20, "$.timecode_start", repr(reel.timecode_start[:20]), "a timecode")
    for side in ("width", "height"):
        _need(SMALLEST <= getattr(reel, side) <= LARGEST, f"$.{side}", getattr(reel, side), f"{SMALLEST} to {LARGEST} pixels")
    for name in ("pixel_aspect", "camera_aspect"):
        value = getattr(reel, name)
        if value is not None:
            good = min(value) > 0 and max(value) <= 10**6 and 0.1 <= value[0] / value[1] <= 10
            _need(good, f"$.{name}", list(value), "two whole numbers, width and height, at most 10 to 1")
    if reel.panorama is not None:
        p = reel.panorama
        _need(1 <= p.width <= 360, "$.panorama.width", p.width, "1 to 360 degrees")
        _need(1 <= p.height <= 180, "$.panorama.height", p.height, "1 to 180 degrees")
    try:
        good = reel.due_time.tzinfo is not None and 1971 <= reel.due_time.year <= 9000
    except (ValueError, OverflowError):
        good = False
    _need(good, "$.due", repr(reel.due[:60]), "a time with its zone such as 2026-11-25T09:00:00+00:00")
    folder = PurePosixPath(reel.proofs)
    inside = not folder.is_absolute() and ".." not in folder.parts and bool(folder.parts) and bool(reel.proofs.strip())
    _need(inside, "$.proofs", repr(reel.proofs[:60]), "a folder beside the reel file")
    _need(not _SURROGATE.search(reel.proofs), "$.proofs", "half a character", "whole characters")
    _need(reel.proofs.isprintable(), "$.proofs", repr(reel.proofs[:60]), "a name without line breaks and control characters")
    longest = max(len(os.fsencode(part)) for part in folder.parts)
    _need(longest <= LONGEST_FILE_NAME, "$.proofs", f"a name of {longest} bytes", f"up to {LONGEST_FILE_NAME} in each name")
    for name in ("shots", "recipes", "machines"):
        _need(len(getattr(reel, name)) > 0, f"$.{name}", "empty", f"at least one {name[:-1]}")
    _need(len(reel.shots) <= MOST_SHOTS, "$.shots", len(reel.shots), f"at most {MOST_SHOTS:,} shots")


def _check_machines(reel: Reel) -> None:
    for k, machine in enumerate(reel.machines):
        check_machine(machine, f"$.machines[{k}]")
    names = [m.name for m in reel.machines]
    _need(len(set(names)) == len(names), "$.machines", "two of one name", "different names")


def check_machine(machine: Machine, at: str) -> None:
    """Raise a ReelError where a machine is out of bounds.

    Parameters
    ----------
    machine : the machine
    at : the machine in words, for the message
    """
    _check_name(machine.name, f"{at}.name")
    _need(math.isfinite(machine.speed) and 0.001 <= machine.speed <= 1000, f"{at}.speed", machine.speed, "0.001 to 1000")
    _need(1 <= machine.workers <= 1024, f"{at}.workers", machine.workers, "1 to 1024")
    gain = machine.together
    _need(gain is None or 0.01 <= gain <= machine.workers, f"{at}.together", gain, f"0.01 to {machine.workers}, its workers")
    price = machine.price_per_hour
    _need(math.isfinite(price) and 0 <= price <= 1e9, f"{at}.price_per_hour", price, "0 or more")
    memory = machine.memory_gb
    _need(memory is None or 0.1 <= memory <= 1e6, f"{at}.memory_gb", memory, "0.1 to 1000000, or none")
    _need(len(machine.free) <= 200, f"{at}.free", len(machine.free), "at most 200 windows")
    try:
        zone_of(machine.zone)
        for j, hours in enumerate(machine.free):
            checked_hours(hours, f"{at}.free[{j}]")
    except WrongInput as error:
        words = str(error)
        raise ReelError(words if words.startswith("$") else f"{at}.zone: {words}") from error


def _check_recipes(reel: Reel) -> None:
    names = [r.name for r in reel.recipes]
    _need(len(set(names)) == len(names), "$.recipes", "two of one name", "different names")
    for k, recipe in enumerate(reel.recipes):
        _check_name(recipe.name, f"$.recipes[{k}].name")
        _check_own_values(reel, recipe, f"$.recipes[{k}].own")
        checked_recipe(reel.declared(recipe))


def _check_own_settings(reel: Reel) -> None:
    names = [s.name for s in reel.settings]
    _need(len(names) <= MOST_OWN_SETTINGS, "$.settings", len(names), f"at most {MOST_OWN_SETTINGS} own settings")
    _need(len(set(names)) == len(names), "$.settings", "two of one name", "different names")
    for setting in reel.settings:
        checked_own_setting(setting, "$.settings")


def _check_own_values(reel: Reel, recipe: Recipe, at: str) -> None:
    _need(not recipe.own_settings, f"{at}_settings", "declarations in a recipe", "them in $.settings of the reel")
    names = [v.name for v in recipe.own]
    _need(len(set(names)) == len(names), at, "two values of one name", "different names")
    for value in recipe.own:
        setting = reel.setting(f"{OWN}{value.name}")
        if setting is None:
            known = ", ".join(s.name for s in reel.settings) or "none, since the reel has no own settings"
            raise ReelError(f"{at}: {value.name[:40]!r}; expected {known}.")
        setting.checked(value.value, at)


def _check_shot(reel: Reel, shot: Shot, at: str) -> None:
    _need(bool(_ID.match(shot.id)), f"{at}.id", repr(shot.id[:64]), ID_EXPECTED)
    _need(not shot.evidence or bool(_ID.match(shot.evidence)), f"{at}.evidence", repr(shot.evidence[:64]), ID_EXPECTED)
    _check_name(shot.name, f"{at}.name")
    _need(not _SURROGATE.search(shot.note), f"{at}.note", "half a character", "whole characters")
    _need(len(shot.note) <= LONGEST_NOTE, f"{at}.note", f"{len(shot.note)} characters", f"at most {LONGEST_NOTE}")
    _need(1 <= shot.step <= 10_000, f"{at}.step", shot.step, "1 to 10000")
    for side in ("handle_in", "handle_out"):
        _need(0 <= getattr(shot, side) <= 10_000, f"{at}.{side}", getattr(shot, side), "0 to 10000 frames")
    _need(abs(shot.offset) <= 10 * MOST_FRAMES, f"{at}.offset", shot.offset, f"at most {10 * MOST_FRAMES:,} either way")
    _check_range(shot, at)
    if shot.move is not None:
        checked_move(shot.move, f"{at}.move")
        count = shot.move.count(reel.fps)
        _need(count == shot.length, f"{at}.last", shot.last, f"{shot.first + count - 1}, since its move has {count} frames")
    _check_settings(reel, shot, at)
    for proof, mark in shot.marks.items():
        _need(bool(_ID.match(proof)), f"{at}.marks", repr(proof[:64]), "the id of a proof such as p001")
        _need(len(mark.note) <= LONGEST_NOTE and not _SURROGATE.search(mark.note), f"{at}.marks.{proof}.note", "too long", "a note")
    ids = [y.id for y in shot.layers]
    _need(len(set(ids)) == len(ids), f"{at}.layers", "two of one id", "different ids")
    for k, layer in enumerate(shot.layers):
        _check_layer(reel, shot, layer, f"{at}.layers[{k}]")


def _check_layer(reel: Reel, shot: Shot, layer: Layer, at: str) -> None:
    _need(bool(_ID.match(layer.id)), f"{at}.id", repr(layer.id[:64]), ID_EXPECTED)
    for name in ("first", "last", "held"):
        value = getattr(layer, name)
        good = value is None or shot.begin <= value <= shot.last + shot.handle_out
        _need(good, f"{at}.{name}", value, f"a frame of {shot.id}, {shot.begin} to {shot.last + shot.handle_out}, or none")
    _need((layer.first is None) == (layer.last is None), f"{at}.first", layer.first, "both first and last, or neither")
    part = layer_shot(shot, layer)
    _check_range(part, at)
    _check_settings(reel, part, at)


def _check_range(shot: Shot, at: str) -> None:
    _need(shot.begin >= 0, f"{at}.first", shot.first, f"{shot.handle_in} or more" if shot.handle_in else "0 or more")
    _need(shot.last >= shot.first, f"{at}.last", shot.last, f"the first frame {shot.first} or a later one")
    _need(shot.last < 10 * MOST_FRAMES and shot.last - shot.first < MOST_FRAMES, f"{at}.last", shot.last, f"at most {MOST_FRAMES:,} frames")


def _check_settings(reel: Reel, shot: Shot, at: str) -> None:
    _check_name(shot.scene, f"{at}.scene")
    _need(any(r.name == shot.recipe for r in reel.recipes), f"{at}.recipe", repr(shot.recipe[:60]), "a recipe of this reel")
    for field, value in shot.departures.items():
        setting = reel.setting(field)
        if setting is None:
            raise ReelError(f"{at}.departures: {field[:60]!r}; expected one of {reel.setting_names}.")
        setting.checked(value, f"{at}.departures")
    checked_recipe(reel.recipe_of(shot))
    low, high = HOLD_BOUNDS[shot.hold.kind]
    good = math.isfinite(shot.hold.value) and low <= shot.hold.value <= high
    _need(good, f"{at}.hold.value", f"{shot.hold.value:g}", f"a number from {low:g} to {high:g} where it holds '{shot.hold.kind}'")
    for frame, samples in shot.pins.items():
        _need(frame in shot.frames, f"{at}.pins", frame, "a frame of the shot")
        _need(1 <= samples <= 65536, f"{at}.pins.{frame}", samples, "1 to 65536 samples")
    for frame in shot.weights:
        _need(frame in shot.frames, f"{at}.weights", frame, "a frame of the shot")
    for before, frame in zip((shot.begin - 1, *shot.caches), shot.caches):
        _need(frame in shot.frames and frame > before, f"{at}.caches", frame, "frames of the shot, each once and in order")


def _check_name(name: str, at: str) -> None:
    _need(bool(name.strip()), at, repr(name[:60]), "a name with at least one character that shows")
    _need(len(name) <= LONGEST_NAME, at, f"a name of {len(name)} characters", f"up to {LONGEST_NAME}")
    _need(not _SURROGATE.search(name), at, "half a character", "whole characters")
    _need(name.isprintable(), at, repr(name[:60]), "a name without line breaks and control characters")


def _need(good: bool, at: str, value: object, expected: str) -> None:
    if not good:
        raise ReelError(f"{at}: {value}; expected {expected}.")
