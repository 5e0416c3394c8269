"""Bundles: settings that together make a shot play clean, and three of them to choose from.

Every value that proofs tried, and of which they tell what it changes in the picture, is combined with every other;
samples are the fewest that play clean. What no proof tried is in no bundle. Values that cost look and save nothing are left out
beforehand, so that few combinations are planned; among these the search is exhaustive.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import msgspec
import numpy as np

from hasty_reel.evidence.looks import Looks
from hasty_reel.plan.frames.finishing import finishing_of
from hasty_reel.plan.shot import ShotPlan, plan_shot
from hasty_reel.plan.time.deadline import Deadline
from hasty_reel.predict.effects import BEYOND
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.calm import MOST_CALM, Calm
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import CLEAN
from hasty_reel.settings.recipe import DENOISE_WINDOWS, SETTING, Recipe, Value, departing, differences
from hasty_reel.viewers import limit_of, seen_by

MOST_SAMPLES = int(SETTING["samples_ceiling"].high)
MOST_VALUES, MOST_PLANS = 4, 400
"""Values of one setting, and combinations, that are planned."""
CALMEST = 5.0
"""Percent of viewers below which calmer is not looked for: half as many as the strictest level."""
CALMER_ROUNDS, CLOSE = 6, 1.03
"""How often a calmer plan is tried, and the factor of what is held within which it is no calmer."""
OF_MOTION = ("shutter_angle", "shutter_steps")
"""Settings that are left as they are: what they do shows in motion, and not in single frames."""
MOST_LOSS, ALIKE = 2.5, 0.25
"""L* beyond which a value makes another picture, and steps in which what is lost is compared: proofs tell no finer."""
SAVES = 0.02
"""Share of the seconds a value must save at equal noise, so that it may cost look."""


@dataclass(frozen=True)
class Bundle:
    """Settings that go together, planned.

    name : what it is best at; recipe : with its changes; calm : the shot's level, None as the reel says; words : the changes
    loss : what they change in the picture besides noise, root mean square in L*
    clean : every frame plays clean; in_time : ready when due, nine times in ten
    """

    name: str
    recipe: Recipe
    calm: Calm | None
    plan: ShotPlan
    words: tuple[str, ...]
    loss: float
    clean: bool
    in_time: bool

    @property
    def seconds(self) -> float:
        """All frames, on a machine of speed 1."""
        return self.plan.total_seconds


@dataclass(frozen=True)
class Alternatives:
    """Up to three bundles; why there are fewer, where there are.

    missing : what proof would open more, '' for none
    """

    bundles: tuple[Bundle, ...] = ()
    why: str = ""
    missing: str = ""


def allowed_work(when: Deadline, plan: ShotPlan) -> float:
    """Return the seconds a shot may take so that the reel is ready when due nine times in ten, on a machine of speed 1.

    Parameters
    ----------
    when : the reel is ready, with the plan as it stands
    plan : of the shot, as it stands
    """
    return when.sure_work - (when.work - plan.total_seconds if when.work else 0.0)


def alternatives(reel: Reel, plan: ShotPlan, model: ShotModel, looks: Looks, allowed: float) -> Alternatives:
    """Return the sharpest, the calmest and the fastest bundle of a shot that play clean.

    Parameters
    ----------
    reel : says size and rate
    plan : of the shot, as it stands
    model : what its proofs say
    looks : what settings change in the picture
    allowed : seconds the shot may take, on a machine of speed 1

    Returns
    -------
    Alternatives
        What is lost counts against the recipe without the shot's departures. Sharpest loses least of the look, then changes least;
        calmest shows least flicker in the time there is; fastest takes least.
    """
    found = every_bundle(reel, plan, model, looks, allowed)
    clean = [b for b in found if b.clean]
    if not clean:
        best = min(found, key=lambda b: b.plan.worst_flicker)
        why = best.plan.budget.why or f"not proven yet: {', '.join(n.replace('_', ' ') for n in best.plan.unproven)}"
        return Alternatives(why=f"no settings that proofs tried are calm enough: {why}", missing=_missing(model))
    in_time = [b for b in clean if b.in_time]
    among = in_time or clean
    fastest = min(clean, key=lambda b: (b.seconds, b.loss))
    sharpest = min(among, key=lambda b: (round(b.loss / ALIKE), len(b.words), b.seconds))
    named = [("sharpest", sharpest), ("fastest", fastest)]
    if in_time:
        calmest = _calmest(reel, plan, model, min(in_time, key=lambda b: b.seconds), allowed)
        named.insert(1, ("calmest", calmest))
    why = "" if in_time else "no bundle that is calm enough is ready when due"
    most = max(b.plan.typical_samples for _, b in named)
    return Alternatives(tuple(replace(b, name=name) for name, b in named), why, _missing(model, most))


def every_bundle(reel: Reel, plan: ShotPlan, model: ShotModel, looks: Looks, allowed: float) -> list[Bundle]:
    """Return every combination that is worth planning, planned; also those that do not play clean.

    Parameters
    ----------
    reel : says size and rate
    plan : of the shot, as it stands
    model : what its proofs say
    looks : what settings change in the picture
    allowed : seconds the shot may take, on a machine of speed 1
    """
    every = _combined(plan, model, looks, reel.recipe(plan.shot.recipe))
    return [_bundle(reel, plan, model, changes, loss, plan.shot.calm, allowed) for changes, loss in every]


def _bundle(
    reel: Reel, plan: ShotPlan, model: ShotModel, changes: Mapping[str, Value], loss: float, calm: Calm | None, allowed: float
) -> Bundle:
    wide = departing(plan.recipe, {**changes, "samples_ceiling": MOST_SAMPLES})
    shot = msgspec.structs.replace(plan.shot, hold=CLEAN, calm=calm)
    made = plan_shot(reel, shot, model, wide, plan.eyes)
    ceiling = plan.recipe.samples_ceiling
    most = int(made.samples.max())
    if most > ceiling:
        ceiling = min(MOST_SAMPLES, 1 << (most - 1).bit_length())
    recipe = msgspec.structs.replace(wide, samples_ceiling=ceiling)
    own = finishing_of(shot, reel.resolved(shot, recipe), model, made.typical_samples).bias_L
    words = tuple(differences(recipe, plan.recipe))
    return Bundle(
        "", recipe, calm, made, words, math.hypot(loss, own), made.budget.solved and not made.unproven, made.total_seconds <= allowed
    )


def _calmest(reel: Reel, plan: ShotPlan, model: ShotModel, start: Bundle, allowed: float) -> Bundle:
    """The fastest settings, with the time that is left spent on samples, as far as they still play surely clean."""
    best, enough, too_far = start, start.plan.eyes.limit, 0.0
    least = limit_of(CALMEST / 100.0)
    changes = {s.field: start.recipe.value(s.field) for s in start.recipe.settings if s.field != "samples_ceiling"}
    for _ in range(CALMER_ROUNDS):
        sampled = float(best.plan.sample.sum())
        spare = allowed - best.seconds
        if sampled <= 0 or spare <= 0.01 * allowed or enough <= max(least, too_far * CLOSE):
            break
        # seen flicker falls as the root of the samples
        limit = math.sqrt(enough * too_far) if too_far else max(least, enough * math.sqrt(sampled / (sampled + 0.97 * spare)))
        calm = round(min(max(100.0 * seen_by(limit), CALMEST), MOST_CALM), 1)
        calmer = _bundle(reel, plan, model, changes, start.loss, calm, allowed)
        if calmer.clean and calmer.in_time:
            best, enough = calmer, limit
        else:
            too_far = limit
    return best


def _combined(plan: ShotPlan, model: ShotModel, looks: Looks, usual: Recipe) -> Iterator[tuple[dict[str, Value], float]]:
    """Changes of the recipe and what they lose of the look, every combination of the options."""
    settings = [options for f in model.settings if f not in OF_MOTION and (options := _options(f, plan, model, looks, usual))]
    denoising: list[Option] = [(way, 0.0) for way in denoise_ways(plan.recipe, model)]  # what they lose is counted at their samples
    for chosen in itertools.islice(itertools.product(denoising, *settings), MOST_PLANS):
        changes: dict[str, Value] = {}
        for change, _ in chosen:
            changes |= change
        yield changes, float(np.sqrt(sum(loss**2 for _, loss in chosen)))


Option = tuple[dict[str, Value], float]
"""A change of the recipe, and what it loses of the look in L*."""


def _options(setting: str, plan: ShotPlan, model: ShotModel, looks: Looks, usual: Recipe) -> list[Option]:
    """Values of a setting that proofs tried: the usual one, and those that save time at equal noise for what they lose."""
    factor = model.factors[setting]
    now = usual.value(setting)
    if factor is None or not factor.covers(now):
        now = plan.recipe.value(setting)
    out: list[Option] = [({setting: now}, 0.0)]
    if factor is None or not factor.covers(now):
        return out
    base = factor.log_cost(now) + factor.log_variance(now)
    tried = {r.recipe.value(setting) for r in model.rows}
    kept = []
    for value in tried - {now}:
        loss = looks.between(setting, now, value)
        saved = base - factor.log_cost(value) - factor.log_variance(value)
        if loss is not None and loss <= MOST_LOSS and saved > SAVES:
            kept.append((saved, value, loss))
    kept.sort(key=lambda k: k[2])
    best = 0.0
    for saved, value, loss in kept:  # of two values the one that loses more must save more
        if saved > best:
            out.append(({setting: value}, loss))
            best = saved
    return out[:1] + out[1:][-(MOST_VALUES - 1) :]


def denoise_ways(recipe: Recipe, model: ShotModel) -> list[dict[str, Value]]:
    """Return the recipe's way to denoise, and those that proof runs tried, as changes of the recipe.

    Parameters
    ----------
    recipe : with its departures
    model : of the shot
    """
    fields = ("denoise_window", "denoise_thorough", "denoise_strength")
    ways = {tuple(getattr(recipe, f) for f in fields)}
    for window in DENOISE_WINDOWS:
        for care in (0, 1):
            if model.effects.at(window, None, bool(care)) is not None:
                ways.add((window, care, 100.0))
    return [dict(zip(fields, way)) for way in sorted(ways)]


def _missing(model: ShotModel, samples: float = 0.0) -> str:
    """The proof that would open more bundles, or make them surer, in words; '' where the usual ones are there."""
    # in the order of what they open: denoising buys most, then bounces, then the ceiling on sparks
    if not any(model.effects.at(w, None, True) is not None for w in DENOISE_WINDOWS):
        return "a run of five frames or more, for denoising"
    for setting, words in (("bounces", "bounces"), ("brightness_ceiling", "brightness ceiling")):
        if model.factors[setting] is None:
            return f"a sweep over {words}"
    # beyond so many times the samples of the cleanest run it is not known what denoising leaves
    tried = max((e.samples for e in model.effects.found), default=0.0)
    if samples > BEYOND * tried > 0:
        return f"a run of nine frames with {_handy(samples / BEYOND)} samples: denoising was tried with {tried:.0f} at most"
    return ""


def _handy(samples: float) -> int:
    """The next power of two."""
    return 1 << max(0, math.ceil(math.log2(samples)))
