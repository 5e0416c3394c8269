"""What helps against a cause, as a change of the recipe, and what it costs over the shot."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import msgspec

from hasty_reel.errors import HastyReelError
from hasty_reel.evidence.settings import SETTINGS
from hasty_reel.plan.prices import flicker_effect, priced_hold
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.recipe import LINE, Recipe, Value, differences
from hasty_reel.reel.shot import Hold, Shot


@dataclass(frozen=True)
class Lever:
    """One change.

    helps : its name among what helps; recipe : the recipe with it, None where the hold changes instead
    words : what changes, '' where it is as it should be already; seconds : over the shot, None: not proven yet
    flicker : seen flicker with it (95th percentile of the frames) in JND, None: not proven yet; base : without it
    """

    helps: str
    words: str
    recipe: Recipe | None
    hold: Hold | None
    seconds: float | None
    flicker: float | None
    why_not: str = ""
    base: float = 0.0

    @property
    def effect(self) -> str:
        """'calmer', 'same', 'more' or 'unproven'."""
        return flicker_effect(None if self.flicker is None else self.flicker - self.base, self.base)


def _raised(field: str) -> Callable[[Recipe], Value]:
    """One step of the line up, as far as the line goes."""
    line = LINE[field]
    return lambda recipe: line.nearest(getattr(recipe, field) + line.step)


def _doubled(field: str, least: int) -> Callable[[Recipe], Value]:
    """Twice as much, at least some, as far as the line goes."""
    line = LINE[field]
    return lambda recipe: line.nearest(max(least, 2 * getattr(recipe, field)))


def _steps(recipe: Recipe) -> Value:
    """Twice the shutter steps; random times stay random."""
    return _doubled("shutter_steps", 1)(recipe) if recipe.shutter_steps else 0


def _ceiling(recipe: Recipe) -> Value:
    """Half the ceiling, or 5 where there is none."""
    ceiling = recipe.brightness_ceiling
    return LINE["brightness_ceiling"].nearest(5.0 if ceiling is None else ceiling / 2.0)


CHANGES: dict[str, tuple[str, Callable[[Recipe], Value]]] = {
    "denoise over time": ("denoise_window", _raised("denoise_window")),
    "shared light cache": ("cache_step", lambda r: r.cache_step or 5),
    "brightness ceiling": ("brightness_ceiling", _ceiling),
    "despike": ("despike", lambda r: 1),
    "light paths": ("lamps", lambda r: 1),
    "new seed each frame": ("seed_held", lambda r: 0),
    "held seed": ("seed_held", lambda r: 1),
    "render scale above 100 %": ("render_scale", lambda r: max(125.0, r.render_scale)),
    "shutter steps": ("shutter_steps", _steps),
    "random shutter times": ("shutter_steps", lambda r: 0),
    "pre-roll": ("preroll", _doubled("preroll", 8)),
}
"""The line that is moved, and where to; common practice, no source."""


def levers(reel: Reel, shot: Shot, model: ShotModel, plan: ShotPlan, helps: tuple[str, ...]) -> list[Lever]:
    """What helps, each with its price against the plan as it stands; what no recipe holds is left out."""
    held = msgspec.structs.replace(shot, hold=priced_hold(plan))
    base = plan if held.hold == shot.hold else plan_shot(reel, held, model, plan.recipe, plan.eyes)
    out = []
    for name in helps:
        if name in ("samples", "samples there", "even noise", "ratio limit"):
            out.append(_calmer_noise(reel, held, model, base, name))
        elif name in CHANGES:
            out.append(_changed(reel, held, model, base, name))
    # what is compared is held alike: under a time hold the plan as it stands has another flicker
    return [replace(lever, base=base.worst_flicker) for lever in out]


def _calmer_noise(reel: Reel, shot: Shot, model: ShotModel, base: ShotPlan, name: str) -> Lever:
    """Hold less noise: as much as brings seen flicker to the limit, or three quarters of it where that is reached."""
    now = base.worst_flicker
    share = min(0.75, base.eyes.limit / now) if now > 0 else 0.75
    value = float(f"{shot.hold.value * share:.3g}")
    hold = Hold(kind="noise", value=value)
    words = f"noise at most {shot.hold.value:.3g} → {value:.3g}"
    try:
        other = plan_shot(reel, msgspec.structs.replace(shot, hold=hold), model, base.recipe, base.eyes)
    except HastyReelError as error:
        return Lever(name, words, None, hold, None, None, str(error))
    why = "" if other.budget.solved else other.budget.why
    return Lever(name, words, None, hold, other.total_seconds - base.total_seconds, other.worst_flicker, why)


def _changed(reel: Reel, shot: Shot, model: ShotModel, base: ShotPlan, name: str) -> Lever:
    field, pick = CHANGES[name]
    value = pick(base.recipe)
    if value == getattr(base.recipe, field):
        line = LINE[field]
        most = ", the most there is" if value == line.high and line.high > 1 else ""
        return Lever(name, "", None, None, 0.0, base.worst_flicker, f"{line.words} is {line.text(value)} already{most}")
    recipe = msgspec.structs.replace(base.recipe, **{field: value})
    words = ", ".join(differences(recipe, base.recipe))
    known = field not in SETTINGS or (model.proven(field, value) and field not in base.unproven)
    other = plan_shot(reel, shot, model, recipe, base.eyes)
    if not known or field in other.unproven:
        return Lever(name, words, recipe, None, None, None, "not proven yet: no proof has varied it")
    # despike and a held seed change nothing that two seeds at one frame could tell
    flicker = None if field in ("despike", "seed_held", "preroll", "shutter_steps") else other.worst_flicker
    return Lever(name, words, recipe, None, other.total_seconds - base.total_seconds, flicker)
