"""Values set by their path, as a command line names them: of the reel, of shots and layers, of recipes and machines.

    size=1920x1080   rate=24   due=2026-12-02T09:00   calm=usual   viewing=cinema
    sh010.hold=clean   sh010.calm=strict   sh010.range=1001-1096   sh010.bounces=4
    recipe.Final.bounces=4   machine.Tower.speed=2

A line of a recipe set at a shot is a departure of that shot; 'follow' has it follow its recipe again.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from datetime import datetime

from hasty_reel.commands import whole_numbers
from hasty_reel.errors import WrongInput
from hasty_reel.reel.calm import VIEWINGS, Viewing, read_calm
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import read_duration
from hasty_reel.reel.edits.delivery import with_rate, with_size
from hasty_reel.reel.edits.machines import with_machine
from hasty_reel.reel.edits.recipes import departed, rejoined, with_finish_order, with_recipe_line
from hasty_reel.reel.edits.shots import with_calm, with_frames, with_hold, with_shot_fields
from hasty_reel.reel.edits.whole import with_fields
from hasty_reel.reel.frames import read_frames
from hasty_reel.reel.rate import read_rate
from hasty_reel.reel.shot import CLEAN, Hold
from hasty_reel.settings.finishorder import read_order
from hasty_reel.settings.own import OWN
from hasty_reel.settings.setting import Setting, Value
from hasty_reel.typednumbers import need_number, need_whole_number

FOLLOW = "follow"
"""Value with which a shot follows its recipe again in a line."""
_HOLD = re.compile(r"(clean|noise|worst|total|cap|flat)(?:\s+(\S.*))?")


def with_value(reel: Reel, path: str, text: str) -> Reel:
    """Return the reel with one value set, checked as an edit in the window is.

    Parameters
    ----------
    reel : the reel; it stays as it was
    path : what is set, as 'sh010.hold' or 'recipe.Final.bounces'
    text : its new value, as typed

    Raises
    ------
    WrongInput
        When there is nothing of that path, or its value is none it takes; says what was expected.
    ReelError
        When the reel would contradict itself.
    """
    if path in _OF_REEL:
        return _OF_REEL[path](reel, text)
    kind, _, rest = path.partition(".")
    owner, _, field = path.rpartition(".")
    if owner.endswith(f".{OWN[:-1]}"):  # sh010.own.quality
        owner, field = owner.removesuffix(f".{OWN[:-1]}"), f"{OWN}{field}"
    name = owner.partition(".")[2]
    if kind == "recipe" and name:
        return _of_recipe(reel, name, field, text)
    if kind == "machine" and name:
        return _of_machine(reel, name, field, text)
    if owner and reel.has_shot(owner):
        return _of_shot(reel, owner, field, text)
    if rest:
        reel.shot(owner)  # says which there are
    raise WrongInput(f"'{path[:80]}': expected {', '.join(_OF_REEL)}, SHOT.FIELD, recipe.NAME.FIELD or machine.NAME.FIELD.")


def read_due(text: str) -> str:
    """Return a due time as the reel keeps it; without a zone it is that of this machine.

    Parameters
    ----------
    text : ISO 8601, as 2026-12-02T09:00 or with a zone behind it

    Raises
    ------
    WrongInput
        When it is no time.
    """
    try:
        return datetime.fromisoformat(text.strip()).astimezone().isoformat(timespec="seconds")
    except (ValueError, OverflowError):
        raise WrongInput(f"due '{text[:40]}'; expected a time such as 2026-12-02T09:00, with a zone behind it or without.") from None


def read_hold(text: str) -> Hold:
    """Return what a shot holds, as typed: 'clean', 'noise 0.02', 'worst 0.02', 'total 2 h', 'cap 30 s'.

    Parameters
    ----------
    text : as typed; a total is in seconds of work on a machine of speed 1

    Raises
    ------
    WrongInput
        When it is none of them.
    """
    match = _HOLD.fullmatch(text.strip())
    if match is not None and match[1] == "clean" and match[2] is not None:
        raise WrongInput(f"hold '{text[:40]}'; expected clean alone: how calm that is says calm, as in calm=usual or calm=1 in 4.")
    if match is None or (match[2] is None and match[1] != "clean"):
        raise WrongInput(f"hold '{text[:40]}'; expected clean, noise 0.02, worst 0.02, total 2 h, cap 30 s or flat 64.")
    kind, amount = match[1], match[2]
    if kind == "clean":
        return CLEAN
    if kind in ("noise", "worst"):
        return Hold(kind="noise", value=need_number(amount, f"hold {kind}"), of="worst" if kind == "worst" else "mean")
    if kind == "flat":
        return Hold(kind="flat", value=need_number(amount, "hold flat"))
    return Hold(kind="total" if kind == "total" else "cap", value=read_duration(amount, f"hold {kind}"))


def _viewing(text: str) -> Viewing:
    found = next((v for v in VIEWINGS if v == text.strip()), None)
    if found is None:
        raise WrongInput(f"viewing '{text[:40]}'; expected {', '.join(VIEWINGS)}.")
    return found


def _size(reel: Reel, text: str) -> Reel:
    width, height = whole_numbers(text, 2, "x", "size")
    return with_size(reel, width, height)


_OF_REEL: dict[str, Callable[[Reel, str], Reel]] = {
    "name": lambda reel, text: with_fields(reel, name=text),
    "size": _size,
    "rate": lambda reel, text: with_rate(reel, read_rate(text)),
    "due": lambda reel, text: with_fields(reel, due=read_due(text)),
    "calm": lambda reel, text: with_calm(reel, None, read_calm(text)),
    "viewing": lambda reel, text: with_fields(reel, viewing=_viewing(text)),
    "timecode_start": lambda reel, text: with_fields(reel, timecode_start=text),
}


def _range(reel: Reel, shot: str, text: str) -> Reel:
    frames = read_frames(text)
    step = frames[1] - frames[0] if len(frames) > 1 else 1
    if tuple(frames) != tuple(range(frames[0], frames[-1] + 1, step)):
        raise WrongInput(f"range '{text[:40]}'; expected frames in a row or evenly apart, such as 1001-1096 or 1001-1096x2.")
    return with_frames(reel, shot, frames[0], frames[-1], step)


_WORDS, _WHOLE = ("name", "scene", "recipe", "note"), ("priority", "offset", "handle_in", "handle_out")


def _of_shot(reel: Reel, shot: str, field: str, text: str) -> Reel:
    where = f"{shot}.{field}"
    if field == "hold":
        return with_hold(reel, shot, read_hold(text))
    if field == "calm":
        return with_calm(reel, shot, None if text == FOLLOW else read_calm(text, where))
    if field == "range":
        return _range(reel, shot, text)
    if field in _WORDS:
        return with_shot_fields(reel, shot, **{field: text})
    if field in _WHOLE:
        return with_shot_fields(reel, shot, **{field: need_whole_number(text, where)})
    if field == "enabled":
        if text not in ("on", "off"):
            raise WrongInput(f"{where}: '{text[:40]}'; expected on or off.")
        return with_shot_fields(reel, shot, enabled=text == "on")
    if (setting := reel.setting(field)) is not None:
        return rejoined(reel, shot, field) if text == FOLLOW else departed(reel, shot, field, _typed(setting, text, where))
    raise WrongInput(
        f"{where}: no such field; expected hold, calm, range, {', '.join((*_WORDS, *_WHOLE))}, enabled, or one of {reel.setting_names}."
    )


def _of_recipe(reel: Reel, name: str, field: str, text: str) -> Reel:
    where = f"recipe.{name}.{field}"
    recipe = reel.recipe(name)
    if field == "finish_order":
        users = [s.id for s in reel.shots if s.recipe == recipe.name]
        if not users:
            raise WrongInput(f"{where}: no shot uses this recipe; expected one that is used.")
        return with_finish_order(reel, users[0], read_order(text, where))
    setting = reel.setting(field)
    if setting is None:
        raise WrongInput(f"{where}: no such line; expected finish_order or one of {reel.setting_names}.")
    return with_recipe_line(reel, name, field, _typed(setting, text, where))


def _of_machine(reel: Reel, name: str, field: str, text: str) -> Reel:
    where = f"machine.{name}.{field}"
    place = next((k for k, m in enumerate(reel.machines) if m.name == name), None)
    if place is None:
        raise WrongInput(f"{where}: no such machine; expected one of {', '.join(m.name for m in reel.machines)}.")
    if field == "workers":
        return with_machine(reel, place, workers=need_whole_number(text, where))
    if field == "name":
        return with_machine(reel, place, name=text)
    if field not in ("speed", "price_per_hour", "fail_per_frame"):
        raise WrongInput(f"{where}: no such field; expected name, speed, workers, price_per_hour or fail_per_frame.")
    return with_machine(reel, place, **{field: need_number(text, where)})


def _typed(setting: Setting, text: str, where: str) -> Value:
    try:
        return setting.read(text)
    except ValueError:
        raise WrongInput(f"{where}: '{text[:40]}' is no number; expected {setting.expected}.") from None
