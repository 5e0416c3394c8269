"""What helps against a cause, as a change of the recipe, and what it costs over the shot."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import msgspec

from hasty_reel.errors import HastyReelError
from hasty_reel.evidence.settings import SAMPLE_SETTINGS
from hasty_reel.plan.compare.baseline import baseline
from hasty_reel.plan.compare.prices import flicker_effect, plan_seen_alike
from hasty_reel.plan.compare.remedies import Remedy
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Hold, Shot
from hasty_reel.settings.recipe import Recipe, departing, differences


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


def levers(reel: Reel, model: ShotModel, plan: ShotPlan, remedies: Sequence[Remedy]) -> list[Lever]:
    """Return what helps, each with its price against the plan as it stands.

    Parameters
    ----------
    reel : says size and rate
    model : what the proofs of the shot say
    plan : as it stands
    remedies : what helps

    Returns
    -------
    list[Lever]
        One lever for each remedy.
    """
    base = baseline(reel, plan, model, as_noise=True)
    held = base.shot
    make = {"noise": _calmer_noise, "line": _changed, "advice": _advice}
    # what is compared is held alike: under a time hold the plan as it stands has another flicker
    return [replace(make[r.kind](reel, held, model, base, r), base=base.worst_flicker) for r in remedies]


def _advice(reel: Reel, shot: Shot, model: ShotModel, base: ShotPlan, remedy: Remedy) -> Lever:
    """What no recipe holds: told, without a price."""
    return Lever(remedy.words, "", None, None, 0.0, None, remedy.advice)


def _calmer_noise(reel: Reel, shot: Shot, model: ShotModel, base: ShotPlan, remedy: Remedy) -> Lever:
    """Hold less noise: as much as brings seen flicker to the limit, or three quarters of it where that is reached."""
    now = base.worst_flicker
    share = min(0.75, base.eyes.limit / now) if now > 0 else 0.75
    value = float(f"{shot.hold.value * share:.3g}")
    hold = msgspec.structs.replace(shot.hold, kind="noise", value=value)
    words = f"noise at most {shot.hold.value:.3g} → {value:.3g}"
    try:
        other = plan_shot(reel, msgspec.structs.replace(shot, hold=hold), model, base.recipe, base.eyes)
    except HastyReelError as error:
        return Lever(remedy.words, words, None, hold, None, None, str(error))
    why = "" if other.budget.solved else other.budget.why
    return Lever(remedy.words, words, None, hold, other.total_seconds - base.total_seconds, other.worst_flicker, why)


def _changed(reel: Reel, shot: Shot, model: ShotModel, base: ShotPlan, remedy: Remedy) -> Lever:
    field = remedy.field
    value = remedy.pick(base.recipe)
    if value == base.recipe.value(field):
        line = base.recipe.setting(field)
        most = ", the most there is" if value == line.high and line.high > 1 else ""
        return Lever(remedy.words, "", None, None, 0.0, base.worst_flicker, f"{line.words} is {line.text(value)} already{most}")
    recipe = departing(base.recipe, {field: value})
    words = ", ".join(differences(recipe, base.recipe))
    known = field not in SAMPLE_SETTINGS or (model.proven(field, value) and field not in base.unproven)
    other = plan_shot(reel, shot, model, recipe, base.eyes, base.samples)
    if not known or field in other.unproven:
        return Lever(remedy.words, words, recipe, None, None, None, "not proven yet: no proof has varied it")
    # a held seed changes nothing that two seeds at one frame could tell
    flicker = None if field in ("seed_held", "preroll", "shutter_steps") else other.worst_flicker
    seconds = plan_seen_alike(reel, shot, model, other, base).total_seconds - base.total_seconds
    return Lever(remedy.words, words, recipe, None, seconds, flicker)
