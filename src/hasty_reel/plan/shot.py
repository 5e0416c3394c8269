"""The plan of one shot: samples, seconds by part, noise and flicker per frame."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.budget.samples import Budget, Problem, hold_cap, hold_noise, hold_total
from hasty_reel.measure.seen import STANDARD, Eyes, grain_weight
from hasty_reel.pictures.resize import white_noise_gain
from hasty_reel.predict.model import FrameModel, ShotModel, table_at
from hasty_reel.reel.caching import cache_frames
from hasty_reel.reel.document import Reel
from hasty_reel.reel.recipe import LINE, Recipe
from hasty_reel.reel.shot import Hold, Shot

RATIO = 1.25
"""Noise of neighbouring frames differs by at most this factor, so that it does not pump."""
UNPRICED = ("preroll",)
"""Lines whose price the plan does not know: where they are used it says 'not proven yet'."""
PARTS = ("load", "cache", "sample", "denoise", "write")


@dataclass(frozen=True)
class ShotPlan:
    """One shot, all arrays (f,).

    samples : per pixel, whole
    load, cache, sample, denoise, write : seconds by part on a machine of speed 1
    noise : standard deviation of linear luminance in the finished frame
    noise_L : the same in L* of the plain view
    seen_flicker : predicted in JND of the standard observer, from where `eyes` sit
    budget : the solver's answer; unproven : lines of the recipe without a proof behind them
    eyes : who looks, and from which limit on they see it
    """

    shot: Shot
    recipe: Recipe
    width: int
    height: int
    frames: np.ndarray
    samples: np.ndarray
    load: np.ndarray
    cache: np.ndarray
    sample: np.ndarray
    denoise: np.ndarray
    write: np.ndarray
    noise: np.ndarray
    noise_L: np.ndarray
    seen_flicker: np.ndarray
    budget: Budget
    shared_spread: float
    own_spread: float
    unproven: tuple[str, ...]
    eyes: Eyes = STANDARD

    def index(self, frame: int) -> int:
        """Place in the arrays of a frame, or of the rendered frame that is held there."""
        return self.shot.index(self.shot.nearest(frame))

    @property
    def seconds(self) -> np.ndarray:
        """Per frame, all parts."""
        return self.load + self.cache + self.sample + self.denoise + self.write

    @property
    def total_seconds(self) -> float:
        """All frames, on a machine of speed 1."""
        return float(self.seconds.sum())

    @property
    def variance(self) -> np.ndarray:
        """Of a finished frame at one sample per pixel, (f,)."""
        return self.noise**2 * self.samples

    @property
    def flat_samples(self) -> float:
        """The same samples for every frame that take the same time in all."""
        return float(self.sample.sum() / np.sum(self.sample / self.samples))

    @property
    def flat_noise(self) -> np.ndarray:
        """Noise per frame with `flat_samples` everywhere, (f,)."""
        return np.sqrt(self.variance / self.flat_samples)

    @property
    def visible(self) -> np.ndarray:
        """Frames whose flicker is seen, (f,) bool."""
        return self.seen_flicker >= self.eyes.limit

    @property
    def at_risk(self) -> np.ndarray:
        """Frames whose flicker a keen eye may see, (f,) bool."""
        return (self.seen_flicker >= self.eyes.at_risk) & ~self.visible


def rendered_size(reel: Reel, recipe: Recipe) -> tuple[int, int]:
    """Size rendered, in whole pixels, for the delivered size and the render scale."""
    s = recipe.render_scale / 100.0
    width, height = reel.picture_size
    return max(1, round(width * s)), max(1, round(height * s))


def denoise_window(shot: Shot, recipe: Recipe) -> int:
    """Frames denoised over: 1 where no neighbouring frames are rendered, as in a held plate or with a step."""
    return recipe.denoise_window if shot.step == 1 and len(shot.frames) > 1 else 1


def effect_of(shot: Shot, model: ShotModel, recipe: Recipe) -> tuple[float, float, float, float, bool]:
    """Of denoising: noise ratio, flicker ratio, seconds a rendered pixel, a resized one; whether it is proven."""
    window = denoise_window(shot, recipe)
    effect = model.effects.get(window)
    resize = float(np.mean([e.resize_seconds_per_pixel for e in model.effects.values()])) if model.effects else 0.0
    if window == 1:
        return 1.0, 1.0, 0.0, resize, True
    if effect is None:  # nothing is promised of a filter that was not tried on this shot
        return 1.0, 1.0, 0.0, resize, False
    return effect.noise_ratio, effect.flicker_ratio, effect.seconds_per_pixel, resize, True


def load_seconds(at: FrameModel) -> np.ndarray:
    """Seconds of reading the scene, (f,): the shot is one chunk, its first frame reads all of it."""
    load = np.full(len(at.frames), at.load_seconds)
    load[0] = at.first_load_seconds
    return load


def cache_seconds(shot: Shot, recipe: Recipe, at: FrameModel) -> np.ndarray:
    """Seconds of light caches, on the frames that own one, (f,)."""
    owners = cache_frames(shot.begin, shot.end, recipe.cache_step)
    return np.where(np.isin(at.frames, owners), at.cache_seconds, 0.0)


def problem_of(reel: Reel, shot: Shot, recipe: Recipe, model: ShotModel) -> tuple[Problem, FrameModel]:
    """The budget problem of a shot: variance counts in the finished frame, cost in seconds a sample."""
    at = model.at(recipe)
    width, height = rendered_size(reel, recipe)
    pixels = width * height
    noise_ratio, _, filter_seconds, resize_seconds, _ = effect_of(shot, model, recipe)
    gain = white_noise_gain(recipe.render_scale / 100.0)
    fixed = filter_seconds * pixels + at.write_seconds_per_pixel * pixels
    if recipe.render_scale != 100.0:
        fixed += resize_seconds * float(np.prod(reel.picture_size))
    pins = None
    if shot.pins:
        pins = np.zeros(len(at.frames), np.int64)
        for frame, samples in shot.pins.items():
            pins[shot.index(frame)] = samples
    problem = Problem(
        variance=at.variance * (noise_ratio * gain) ** 2,
        cost=at.cost * pixels,
        fixed=fixed + load_seconds(at) + cache_seconds(shot, recipe, at),
        floor=recipe.samples_floor,
        ceiling=recipe.samples_ceiling,
        steps=recipe.shutter_steps,
        pins=pins,
        ratio=RATIO,
    )
    return problem, at


def solve(problem: Problem, hold: Hold) -> Budget:
    """Samples under what the shot holds."""
    if hold.kind == "noise":
        return hold_noise(problem, hold.value)
    if hold.kind == "total":
        return hold_total(problem, hold.value)
    return hold_cap(problem, hold.value)


def plan_shot(reel: Reel, shot: Shot, model: ShotModel, recipe: Recipe | None = None, eyes: Eyes = STANDARD) -> ShotPlan:
    """The plan of a shot; with `recipe`, as if that were its recipe."""
    recipe = reel.recipe_of(shot) if recipe is None else recipe
    problem, at = problem_of(reel, shot, recipe, model)
    budget = solve(problem, shot.hold)
    return _laid_out(reel, shot, recipe, model, problem, at, budget, eyes)


def _laid_out(
    reel: Reel, shot: Shot, recipe: Recipe, model: ShotModel, problem: Problem, at: FrameModel, budget: Budget, eyes: Eyes
) -> ShotPlan:
    width, height = rendered_size(reel, recipe)
    pixels = width * height
    noise_ratio, flicker_ratio, filter_seconds, resize_seconds, proven = effect_of(shot, model, recipe)
    scale = recipe.render_scale / 100.0
    gain = white_noise_gain(scale)
    ones = np.ones(len(at.frames))
    finish = filter_seconds * pixels
    if recipe.render_scale != 100.0:
        finish += resize_seconds * float(np.prod(reel.picture_size))
    # resizing acts on the variance like more samples do
    equal = budget.samples / gain**2
    weight = grain_weight(eyes.pixels_per_degree(reel.height, recipe.render_scale), float(reel.fps))
    return ShotPlan(
        shot=shot,
        recipe=recipe,
        width=width,
        height=height,
        frames=at.frames,
        samples=budget.samples,
        load=load_seconds(at),
        cache=cache_seconds(shot, recipe, at),
        sample=problem.cost * budget.samples,
        denoise=ones * finish,
        write=ones * at.write_seconds_per_pixel * pixels,
        noise=problem.noise(budget.samples),
        noise_L=table_at(at.lightness_table, equal) * noise_ratio,
        seen_flicker=table_at(at.contrast_table, equal) * weight * flicker_ratio,
        budget=budget,
        shared_spread=at.shared_spread,
        own_spread=at.own_spread,
        unproven=(*at.unproven, *(() if proven else ("denoise_window",)), *(f for f in UNPRICED if getattr(recipe, f) != LINE[f].neutral)),
        eyes=eyes,
    )


def sentence(plan: ShotPlan, speed: float) -> str:
    """The plan of a shot as one sentence with numbers in it.

    Parameters
    ----------
    speed : frames rendered in the time one takes on a machine of speed 1
    """
    low, high = int(plan.samples.min()), int(plan.samples.max())
    span = f"{low}" if low == high else f"{low}–{high}"
    worst, hours = float(plan.noise.max()), spoken(plan.total_seconds / speed)
    kind, value = plan.shot.hold.kind, plan.shot.hold.value
    if not plan.budget.solved:
        return f"Cannot hold this: {plan.budget.why}."
    if kind == "noise":
        return f"Noise at most {value:.3g} in every frame: {hours} with {span} samples."
    if kind == "total":
        return f"In {hours}: noise comes down to {worst:.3g} with {span} samples."
    return f"At most {spoken(value)} a frame: noise reaches {worst:.3g} at frame {int(plan.frames[plan.noise.argmax()])}, {hours} in all."


def spoken(seconds: float) -> str:
    """A duration as it is read aloud: 6 h 12, 12 min, 45 s, 0.8 s."""
    if seconds >= 3570:
        minutes = round(seconds / 60)
        return f"{minutes // 60} h {minutes % 60:02d}"
    if seconds >= 59.5:
        return f"{round(seconds / 60)} min"
    return f"{seconds:.0f} s" if seconds >= 9.95 else f"{seconds:.1f} s"
