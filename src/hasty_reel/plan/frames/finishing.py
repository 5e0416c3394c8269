"""What finishing does to the frames of a shot: denoising over time and space, then resizing to the delivered size."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.evidence.proof import DenoiseEffect
from hasty_reel.evidence.seentable import SAMPLE_GRID
from hasty_reel.image.sharpen import sharpened_noise
from hasty_reel.predict.effectplaces import UNTOLD_PLACE
from hasty_reel.predict.model import ShotModel
from hasty_reel.predict.tables import column_at
from hasty_reel.reel.resolved import ResolvedRecipe
from hasty_reel.reel.shot import Shot
from hasty_reel.settings.setting import Acts

RECENT = 32
"""Ratios over the frames that are remembered."""
GRID = np.log(SAMPLE_GRID)
"""Logarithms of the sample counts of tables."""


@dataclass(frozen=True)
class Finishing:
    """What finishing does and takes.

    width, height : rendered, in pixels
    noise_ratio, seen_ratio : (f,) after denoising / before: at the ends of a shot there are fewer frames to denoise over
    resize_gain : standard deviation of seen noise after shrinking / before; what an enlarging filter blurs is not noise removed,
        since the picture is blurred as much
    seconds : a frame, on a machine of speed 1
    detail : contrast of edges after denoising / before; bias_L : what it changes besides noise, root mean square in L*
    proven : whether a proof run tried this denoising; where none did, nothing is promised of it
    """

    width: int
    height: int
    noise_ratio: np.ndarray
    seen_ratio: np.ndarray
    resize_gain: float
    seconds: float
    detail: float
    bias_L: float
    proven: bool

    @property
    def pixels(self) -> int:
        """Rendered pixels of a frame."""
        return self.width * self.height

    @property
    def gain(self) -> np.ndarray:
        """Standard deviation of the noise of a finished frame / of a rendered one, (f,)."""
        return self.noise_ratio * self.resize_gain


def finishing_of(shot: Shot, resolved: ResolvedRecipe, model: ShotModel, samples: float | None = None) -> Finishing:
    """Return what finishing does to the frames of a shot, by what was measured on its proof runs.

    Parameters
    ----------
    shot : the shot or layer
    resolved : its recipe
    model : of the shot
    samples : per pixel, about; None where they are not known yet

    Returns
    -------
    Finishing
        What finishing does to noise, seen flicker and seconds.
    """
    if resolved.chain:
        return _whole_chain(model.effects.chain_at(resolved.chain, samples), resolved)
    window, strength = resolved.window, resolved.strength
    touched = (window > 1 and strength > 0) or resolved.despike
    effect = model.effects.at(window, samples, resolved.thorough or window == 1, strength) if touched else None
    seconds = 0.0 if effect is None else effect.seconds_per_pixel * resolved.pixels
    if resolved.scaled:
        seconds += model.effects.resize_seconds_per_pixel * float(np.prod(resolved.delivered))
    noise, seen = _ratios(model, shot, samples, resolved)
    raised = sharpened_noise(resolved.recipe.sharpen)
    return Finishing(
        resolved.width,
        resolved.height,
        noise * raised,
        seen * raised,
        resolved.resize_gain,
        seconds,
        detail=1.0 if effect is None else effect.detail or 1.0,
        bias_L=0.0 if effect is None else effect.bias_L,
        proven=not touched or effect is not None,
    )


def seen_ratios(shot: Shot, resolved: ResolvedRecipe, model: ShotModel) -> np.ndarray:
    """Return what finishing leaves of seen flicker at the sample counts of `SAMPLE_GRID`, (grid, f).

    Parameters
    ----------
    shot : the shot or layer
    resolved : its recipe
    model : of the shot
    """
    key = (resolved.chain, resolved.window, resolved.loop, shot.begin, resolved.frames, shot.step, *resolved.recipe.acting(Acts.FINISHING))
    known = model.effects.remembered
    if key not in known:
        known[key] = np.array([_seen_ratio(model, shot, float(n), resolved) for n in SAMPLE_GRID])
    return known[key]


def falling_ratios(ratios: np.ndarray, raw: np.ndarray) -> np.ndarray:
    """Return what finishing leaves so that what is seen in the end nowhere rises with the samples, (grid, f) logarithms.

    Denoising leaves a larger share of cleaner pictures, as runs at a few counts tell it, with their errors; that it would leave
    more in all of pictures with more samples is such an error.

    Parameters
    ----------
    ratios : (grid, f) that are left at the sample counts of `SAMPLE_GRID`
    raw : (grid, f) what is seen of the frames as rendered at these
    """
    left = np.maximum(ratios * raw, 1e-12)
    return np.log(np.maximum.accumulate(left[::-1], axis=0)[::-1] / np.maximum(raw, 1e-12))


def seen_ratio_at(shot: Shot, resolved: ResolvedRecipe, model: ShotModel, samples: np.ndarray, raw: np.ndarray) -> np.ndarray:
    """Return what finishing leaves of seen flicker at samples that differ from frame to frame, (f,).

    Parameters
    ----------
    shot : the shot or layer
    resolved : its recipe
    model : of the shot
    samples : (f,) per pixel
    raw : (grid, f) what is seen of the frames as rendered at the counts of `SAMPLE_GRID`
    """
    return ratio_at(falling_ratios(seen_ratios(shot, resolved, model), raw), samples)


def ratio_at(logs: np.ndarray, samples: np.ndarray) -> np.ndarray:
    """Return what finishing leaves of seen flicker at samples that differ from frame to frame, (f,).

    Parameters
    ----------
    logs : (grid, f) as `falling_ratios` gives them; between counts their logarithm is interpolated, as that of what is rendered
    samples : (f,) per pixel
    """
    return np.exp(column_at(logs, GRID, np.log(samples)))


def seen_spread_at(shot: Shot, resolved: ResolvedRecipe, model: ShotModel, samples: np.ndarray) -> np.ndarray:
    """Return how well runs tell what finishing leaves of seen flicker, (f,) standard deviation of its logarithm.

    Parameters
    ----------
    shot : the shot or layer
    resolved : its recipe
    model : of the shot
    samples : (f,) per pixel
    """
    window, strength = resolved.window, resolved.strength
    if window < 3 or strength <= 0:
        return np.zeros(resolved.frames)
    if resolved.chain:
        return np.full(resolved.frames, UNTOLD_PLACE)
    key = ("spreads", window, resolved.thorough, shot.begin, resolved.frames)
    known = model.effects.remembered
    if key not in known:
        known[key] = model.effects.seen_spreads(window, resolved.thorough, shot.frames, SAMPLE_GRID)
    return strength * column_at(known[key], GRID, np.log(samples))


def _seen_ratio(model: ShotModel, shot: Shot, samples: float, resolved: ResolvedRecipe) -> np.ndarray:
    if resolved.chain:
        effect = model.effects.chain_at(resolved.chain, samples)
        return np.full(resolved.frames, 1.0 if effect is None else effect.seen)
    return _ratios(model, shot, samples, resolved)[1] * sharpened_noise(resolved.recipe.sharpen)


def _whole_chain(effect: DenoiseEffect | None, resolved: ResolvedRecipe) -> Finishing:
    """What a chain as a whole does that a proof run tried; of one that none tried nothing is promised."""
    width, height, count, gain = resolved.width, resolved.height, resolved.frames, resolved.resize_gain
    if effect is None:
        return Finishing(width, height, np.ones(count), np.ones(count), gain, 0.0, detail=1.0, bias_L=0.0, proven=False)
    seconds = effect.seconds_per_pixel * width * height + effect.seconds_per_frame
    noise, seen = (np.full(count, r) for r in (effect.noise_ratio, effect.seen))
    return Finishing(width, height, noise, seen, gain, seconds, detail=effect.detail or 1.0, bias_L=effect.bias_L, proven=True)


def _ratios(model: ShotModel, shot: Shot, samples: float | None, resolved: ResolvedRecipe) -> tuple[np.ndarray, np.ndarray]:
    """What denoising leaves of noise and of what is seen of it, (f,) both; the last ones are remembered, for prices ask for the same."""
    known = model.effects.recent
    key = (resolved.window, resolved.loop, samples, *resolved.recipe.acting(Acts.FINISHING), shot.begin, resolved.frames, shot.step)
    found = known.get(key)
    if found is None:
        if len(known) >= RECENT:  # samples are any number, and not all can be kept
            known.clear()
        found = known[key] = _found_ratios(model, shot, samples, resolved)
    return found


def _found_ratios(model: ShotModel, shot: Shot, samples: float | None, resolved: ResolvedRecipe) -> tuple[np.ndarray, np.ndarray]:
    """The same, by where a frame is and how many it is denoised over."""
    count, window = resolved.frames, resolved.window
    reach, place = window // 2, np.arange(count)
    over = np.minimum(place, reach) + np.minimum(count - 1 - place, reach) + 1
    if resolved.loop is not None and count > window:  # no frame stands at an end
        over = np.full(count, window)
    strength, thorough = resolved.strength, resolved.thorough
    tried = {w: model.effects.at(w, samples, thorough, strength) for w in range(3, window + 1, 2)}
    alone = model.effects.at(1, samples) if resolved.despike else None
    known = {1: (1.0, 1.0) if alone is None else (alone.noise_ratio, alone.seen)}
    known |= {w: (e.noise_ratio, e.seen) for w, e in tried.items() if e is not None}
    if window > 1 and window not in known:
        return np.ones(count), np.ones(count)  # what nobody tried is promised nothing of
    at, counts = np.log(sorted(known)), np.log(np.arange(1, window + 1))
    noise, seen = (np.exp(np.interp(counts, at, np.log(np.maximum([known[w][k] for w in sorted(known)], 1e-6))))[over - 1] for k in (0, 1))
    if window < 3 or strength <= 0:
        return noise, seen
    there = model.effects.over(window, samples, thorough, strength, shot.frames)
    return np.minimum(noise * there.noise, 1.0), np.minimum(seen * there.seen, 1.0)
