"""The plan of one shot: samples, seconds by part, noise and flicker per frame."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from hasty_reel.budget.samples import EASE, Budget, Problem, hold_cap, hold_clean, hold_flat, hold_noise, hold_total
from hasty_reel.budget.stopping import Stopping, solve_stopping
from hasty_reel.evidence.seentable import SAMPLE_GRID
from hasty_reel.measure.seen import STANDARD, Eyes, grain_weight
from hasty_reel.measure.varianceshares import WEIGHTS
from hasty_reel.measure.viewing import eyes_for
from hasty_reel.measure.worst import worst
from hasty_reel.plan.frames.chunks import chunk_count, start_seconds
from hasty_reel.plan.frames.finishing import Finishing, falling_ratios, finishing_of, ratio_at, seen_ratios, seen_spread_at
from hasty_reel.plan.frames.rendered import rendered_pixels, told_around, with_calm_around
from hasty_reel.predict.model import FrameModel, ShotModel
from hasty_reel.predict.tables import table_at
from hasty_reel.reel.caching import owners_of
from hasty_reel.reel.document import Reel
from hasty_reel.reel.resolved import ResolvedRecipe
from hasty_reel.reel.shot import Hold, Shot
from hasty_reel.settings.recipe import Recipe
from hasty_reel.viewers import MOST_SHARE, limit_of, seen_by

RATIO = 1.25
"""Noise of neighbouring frames differs by at most this factor, so that it does not pump."""
SURE, MARGIN = 95, 1.645
"""In how many of 100 frames a noise that is held is kept, and the quantile of the normal distribution for it."""
PARTS = ("load", "cache", "sample", "denoise", "write")
"""Parts of the seconds of a frame, in the order of the work; those of `RENDER_PARTS` are measured on proofs."""


@dataclass(frozen=True)
class ShotPlan:
    """One shot, all arrays (f,).

    pixels : that are rendered of each frame: all, or those of a crop
    samples : the most a pixel gets, whole; mean_samples : that it gets in the mean, where places stop at noise
    load, cache, sample, denoise, write : seconds by part on a machine of speed 1
    noise : standard deviation of linear luminance in the finished frame
    equal_samples : that show as much noise at the delivered size; denoised : noise after denoising / before
    seen_flicker : predicted in JND, from where `eyes` sit
    seen_spread : standard deviation of the logarithm of what finishing leaves of it
    budget : the solver's answer; unproven : lines of the recipe without a proof behind them
    frame_model : what its recipe costs, and how sure that is
    raw_seen : (grid, f) contrast as rendered that is seen as noise in its picture, at the counts of `SAMPLE_GRID`
    degrees : height of the picture as it is seen
    without_caution : gives the samples that what is expected alone would take, (f,), where it is held to be calm
    eyes : who looks, from where, and from which seen flicker on it is not as calm as it is to be
    """

    shot: Shot
    resolved: ResolvedRecipe
    frames: np.ndarray
    pixels: np.ndarray
    samples: np.ndarray
    mean_samples: np.ndarray
    load: np.ndarray
    cache: np.ndarray
    sample: np.ndarray
    denoise: np.ndarray
    write: np.ndarray
    noise: np.ndarray
    equal_samples: np.ndarray
    denoised: np.ndarray
    seen_flicker: np.ndarray
    budget: Budget
    unproven: tuple[str, ...]
    frame_model: FrameModel
    seen_spread: np.ndarray
    raw_seen: np.ndarray
    degrees: float
    without_caution: Callable[[], np.ndarray]
    eyes: Eyes = STANDARD

    @property
    def recipe(self) -> Recipe:
        """The recipe that is planned, with its departures."""
        return self.resolved.recipe

    @property
    def width(self) -> int:
        """Of a frame as it is rendered, in pixels."""
        return self.resolved.width

    @property
    def height(self) -> int:
        """Of a frame as it is rendered, in pixels."""
        return self.resolved.height

    def index(self, frame: int) -> int:
        """Return the place in the arrays of a frame, or of the rendered frame that is held there.

        Parameters
        ----------
        frame : as the shot numbers it
        """
        return self.shot.index(self.shot.nearest(frame))

    @property
    def seconds(self) -> np.ndarray:
        """Per frame, all parts."""
        return self.load + self.cache + self.sample + self.denoise + self.write

    @property
    def seen_band(self) -> tuple[np.ndarray, np.ndarray]:
        """Seen flicker between which each frame falls nine times in ten, as far as its variance and denoising are known, (f,) both.

        Returns
        -------
        low, high : np.ndarray
            (f,) in JND.
        """
        away = seen_margin(self.frame_model, self.seen_spread)
        return self.seen_flicker / away, self.seen_flicker * away

    @property
    def seen_sparks(self) -> np.ndarray:
        """The part of seen flicker that is sparks, (f,) in JND."""
        share = table_at(self.frame_model.spark_table, self.samples) / np.maximum(
            table_at(self.frame_model.contrast_table, self.samples), 1e-12
        )
        return self.seen_flicker * np.minimum(share, 1.0)

    @property
    def untold_words(self) -> str:
        """That nothing tells how its seconds grow, or ''."""
        if self.frame_model.fixed.known:
            return ""
        return "seconds that grow with pixels and samples are not told from those that do not: no 9 in 10 before another proof tells"

    @cached_property
    def caution_seconds(self) -> float:
        """Seconds that go into keeping frames calm though proofs do not tell all of them, on a machine of speed 1; 0 where none do."""
        if self.shot.hold.kind != "clean" or len(self.samples) == 0:
            return 0.0
        share = 1.0 - np.minimum(1.0, self.without_caution() / np.maximum(self.samples, 1))
        return float(np.sum(self.sample * share))

    @property
    def typical_samples(self) -> float:
        """Geometric mean of the samples."""
        return _typical(self.samples)

    @property
    def unseen_words(self) -> str:
        """That long stretches of the shot were never looked at, or ''."""
        if self.frame_model.blind_scan and self.frame_model.unseen:
            told = "nearly all seconds of its scan are the renderer's start, and tell nothing of the frames"
            return f"{told}: up to {self.frame_model.unseen} frames between proofs unseen"
        return f"not scanned: up to {self.frame_model.unseen} frames between proofs unseen" if self.frame_model.unseen else ""

    @property
    def total_seconds(self) -> float:
        """All frames, on a machine of speed 1."""
        return float(self.seconds.sum())

    @property
    def variance(self) -> np.ndarray:
        """Of a finished frame at one sample per pixel, (f,)."""
        return self.noise**2 * self.mean_samples

    @property
    def raw_noise(self) -> np.ndarray:
        """Standard deviation of linear luminance of the frames as they are rendered, before finishing, (f,)."""
        return np.sqrt(self.frame_model.variance / self.equal_samples) / self.resolved.resize_gain

    @property
    def flat_samples(self) -> float:
        """The same samples for every frame that take the same time in all."""
        return float(self.sample.sum() / np.sum(self.sample / self.mean_samples))

    @property
    def flat_noise(self) -> np.ndarray:
        """Noise per frame with `flat_samples` everywhere, (f,)."""
        return np.sqrt(self.variance / self.flat_samples)

    @property
    def visible(self) -> np.ndarray:
        """Frames whose flicker is seen, (f,) bool."""
        return self.seen_flicker >= self.eyes.limit

    @cached_property
    def noise_L(self) -> np.ndarray:
        """Noise of a finished frame in L* of the plain view, (f,)."""
        return table_at(self.frame_model.lightness_table, self.equal_samples) * self.denoised

    @cached_property
    def worst_flicker(self) -> float:
        """Seen flicker that stands for the shot: 95th percentile of its frames, in JND."""
        return worst(self.seen_flicker)

    @property
    def at_risk(self) -> np.ndarray:
        """Frames that more viewers than may may see after all, since proofs do not tell them well enough, (f,) bool."""
        return (self.seen_band[1] > self.eyes.limit * (1.0 + EASE)) & ~self.visible

    @cached_property
    def unrest_level(self) -> np.ndarray:
        """How calm each frame is, (f,): 0 calm, 1 at risk, 2 seen by more viewers than may, 3 by more than twice as many."""
        twice = limit_of(min(MOST_SHARE, 2.0 * seen_by(self.eyes.limit)))
        return np.where(self.seen_flicker >= twice, 3, np.where(self.visible, 2, self.at_risk.astype(np.int64)))


def cache_seconds(shot: Shot, recipe: Recipe, at: FrameModel) -> np.ndarray:
    """Return the seconds of light caches, on the frames that own one, (f,); each half of a frame has its own.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    at : cost and noise of the recipe over the frames
    """
    own = np.zeros(len(at.frames))
    for owner in owners_of(shot, recipe):  # where not every frame is rendered, the one at or before it
        own[shot.index(shot.nearest(owner))] += 1
    return own * at.cache_seconds * (2 if recipe.halves else 1)


def budget_problem(shot: Shot, recipe: Recipe, at: FrameModel, finishing: Finishing, load: np.ndarray) -> Problem:
    """Return what is to be solved for: variance counts in the finished frame, cost in seconds a sample.

    Parameters
    ----------
    shot : whose pins and weights count
    recipe : with its departures
    at : cost and noise of the recipe over the frames
    finishing : what is done to the frames after rendering
    load : (f,) seconds before the first sample

    Returns
    -------
    Problem
        What the solver is asked.
    """
    pins = None
    if shot.pins:
        pins = np.zeros(len(at.frames), np.int64)
        for frame, samples in shot.pins.items():
            pins[shot.index(frame)] = samples
    weight = np.array([shot.weights.get(int(f), 1.0) for f in at.frames]) if shot.weights else None
    worst = shot.hold.kind == "noise" and shot.hold.of == "worst"
    return Problem(
        variance=(at.worst_variance if worst else at.variance) * finishing.gain**2,
        cost=at.cost * rendered_pixels(shot, recipe, finishing.width, finishing.height),
        fixed=finishing.seconds + at.write_seconds_per_pixel * finishing.pixels + load + cache_seconds(shot, recipe, at),
        floor=recipe.samples_floor,
        ceiling=recipe.samples_ceiling,
        steps=recipe.sample_step,
        weight=weight,
        pins=pins,
        ratio=RATIO,
        cap=recipe.time_cap,
        frames=at.frames,
    )


def seen_margin(at: FrameModel, seen_spread: np.ndarray) -> np.ndarray:
    """Return the factor below which seen flicker stays over what is expected in `SURE` of 100 frames, (f,).

    Parameters
    ----------
    at : cost and noise of the recipe over the frames
    seen_spread : (f,) standard deviation of the logarithm of what finishing leaves of seen flicker
    """
    return np.exp(MARGIN * np.hypot(at.variance_spread / 2.0, seen_spread))


def stopping_of(recipe: Recipe, at: FrameModel) -> Stopping | None:
    """Return where places of the frames stop; None where every place gets all samples.

    Parameters
    ----------
    recipe : with its departures
    at : cost and noise of the recipe over the frames
    """
    if recipe.stop_noise is None:
        return None
    return Stopping(at.variance, at.shares, WEIGHTS, at.spark_share, recipe.stop_noise, recipe.samples_floor, recipe.sample_step)


def solve(
    problem: Problem,
    hold: Hold,
    at: FrameModel,
    stopping: Stopping | None,
    seen: Callable[[np.ndarray], np.ndarray],
    eyes: Eyes,
    recipe: Recipe,
) -> Budget:
    """Samples under what the shot holds; noise and seen flicker are kept in `SURE` of 100 frames, by a margin for what proofs do not tell.

    Parameters
    ----------
    problem : what is solved for
    hold : the promise and its value
    at : cost and noise of the recipe over the frames
    stopping : where places of the frames stop; None for nowhere
    seen : gives the seen flicker below which the finished frames surely stay, in JND at samples (f,)
    eyes : who looks
    recipe : with its departures
    """

    def _answer(asked: Problem) -> Budget:
        if hold.kind == "clean":
            return hold_clean(asked, seen, eyes.limit)
        if hold.kind == "noise":
            return hold_noise(asked, hold.value)
        if hold.kind == "total":
            return hold_total(asked, hold.value, hold.goal)
        return hold_flat(asked, hold.value) if hold.kind == "flat" else hold_cap(asked, hold.value)

    margin = np.exp(MARGIN * at.variance_spread) if hold.kind == "noise" else np.ones(len(at.frames))
    asked = replace(problem, variance=problem.variance * margin)
    if stopping is None or hold.kind == "clean":  # what stops is in `seen`
        return _answer(asked)

    def _left(samples: np.ndarray) -> np.ndarray:
        if hold.kind == "noise" and hold.of == "worst":
            return stopping.left_of(at.worst_variance * margin, samples)
        return stopping.left(samples, margin)

    level, total = (hold.value if hold.kind == kind else None for kind in ("noise", "total"))
    return solve_stopping(asked, stopping, _left, _answer, level, total)


def plan_shot(
    reel: Reel,
    shot: Shot,
    model: ShotModel,
    recipe: Recipe | None = None,
    eyes: Eyes = STANDARD,
    samples: np.ndarray | None = None,
    about: float | None = None,
) -> ShotPlan:
    """Return the plan of a shot: its recipe's cost and noise, the samples that keep what it holds, and what comes of them.

    Parameters
    ----------
    reel : says size and rate
    shot : the shot or layer
    model : what its proofs say
    recipe : planned as if it were the shot's; None: its own
    eyes : who was tested; the reel says from where it is seen otherwise, and how calm it is to be
    samples : (f,) that are given, whatever the shot holds; None: those that keep what it holds
    about : samples for which the effect of denoising is taken; None: it is looked for

    Returns
    -------
    ShotPlan
        The plan, with what it lacks where it cannot be made.
    """
    # what the recipe comes to here, what it costs and how noisy it is, frame by frame
    resolved = reel.resolved(shot, recipe)
    recipe = resolved.recipe
    about = about if samples is None else _typical(samples)
    finishing = finishing_of(shot, resolved, model, about)
    at = model.at(recipe, finishing.pixels)
    load = start_seconds(at, recipe, finishing.pixels, chunk_count(reel, len(at.frames)))
    problem = budget_problem(shot, recipe, at, finishing, load)
    stopping = stopping_of(recipe, at)
    # how much is seen of contrast, by pixel density and frame rate: the same for all frames
    eyes = eyes_for(reel, shot, eyes)
    degrees = eyes.degrees(reel.height)
    weight = grain_weight(eyes.pixels_per_degree(reel.height, recipe.render_scale), float(reel.fps))

    def _raw(samples: np.ndarray) -> np.ndarray:
        """Contrast of grain that is seen as much as the noise of the rendered frames; shrinking acts on variance like more samples do."""
        places = every_frame if stopping is None else stopping.left_of(at.worst_variance, samples)
        return table_at(at.seen_table(degrees), samples / places / finishing.resize_gain**2)

    def _seen(samples: np.ndarray) -> np.ndarray:
        """Seen flicker of the finished frames, (f,) in JND: it nowhere rises with the samples."""
        return _raw(samples) * weight * ratio_at(ratios, samples)

    def _surely(samples: np.ndarray) -> np.ndarray:
        """The same over which it stays in `SURE` of 100 frames alone."""
        return _seen(samples) * seen_margin(at, seen_spread_at(shot, resolved, model, samples))

    # what finishing leaves of seen flicker depends on what is seen before it: told over the grid of sample counts
    every_frame = np.ones(len(at.frames))
    plain = stopping is None and finishing.resize_gain == 1.0
    over_grid = at.seen_table(degrees).T if plain else np.array([_raw(np.full(len(at.frames), n)) for n in SAMPLE_GRID])
    ratios = falling_ratios(seen_ratios(shot, resolved, model), over_grid)
    budget = solve(problem, shot.hold, at, stopping, _surely, eyes, recipe) if samples is None else Budget(samples, True, "", np.nan)
    if about is None and np.any(finishing.seen_ratio != 1.0):  # what denoising does depends on the samples, and they on it
        finishing = finishing_of(shot, resolved, model, _typical(budget.samples))
        problem = budget_problem(shot, recipe, at, finishing, load)
        if shot.hold.kind != "clean":  # that knows it of every sample count
            budget = solve(problem, shot.hold, at, stopping, _surely, eyes, recipe)
    # the frame around a crop is as calm as denoising makes the others
    if samples is None and shot.hold.kind in ("clean", "noise"):  # else the seconds are what is held
        budget = replace(budget, samples=with_calm_around(shot, recipe, problem, budget.samples, finishing.noise_ratio))
    # where places stop at noise a pixel gets fewer samples in the mean, and what is left of noise is more
    taken = budget.samples * (1.0 if stopping is None else stopping.taken(budget.samples))
    left = every_frame if stopping is None else stopping.left(budget.samples)
    in_places = every_frame if stopping is None else stopping.left_of(at.worst_variance, budget.samples)
    equal = budget.samples / left / finishing.resize_gain**2
    noise = problem.noise(budget.samples) * np.sqrt(in_places if shot.hold.kind == "noise" and shot.hold.of == "worst" else left)
    unproven = at.unproven if finishing.proven else (*at.unproven, "denoise_window")
    return ShotPlan(
        shot=shot,
        resolved=resolved,
        frames=at.frames,
        pixels=rendered_pixels(shot, recipe, finishing.width, finishing.height),
        samples=budget.samples,
        mean_samples=taken,
        load=load,
        cache=cache_seconds(shot, recipe, at),
        sample=problem.cost * taken,
        denoise=every_frame * finishing.seconds,
        write=every_frame * at.write_seconds_per_pixel * finishing.pixels,
        noise=noise,
        equal_samples=equal,
        denoised=finishing.noise_ratio,
        seen_flicker=_seen(budget.samples.astype(np.float64)),
        budget=told_around(shot, recipe, problem, budget, noise, finishing.noise_ratio),
        unproven=unproven,
        frame_model=at,
        seen_spread=seen_spread_at(shot, resolved, model, budget.samples.astype(np.float64)),
        raw_seen=over_grid,
        degrees=degrees,
        without_caution=lambda: hold_clean(problem, _seen, eyes.limit).samples,
        eyes=eyes,
    )


def _typical(samples: np.ndarray) -> float:
    return float(np.exp(np.mean(np.log(samples))))
