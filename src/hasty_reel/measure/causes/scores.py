"""From what was gathered to scores: how plain each cause is to see, 0 to 1.

Every cause gets the amplitude in L* (sparks: their number) of the unrest that bears its
mark, so that mixed causes are told apart by what they contribute. A score of one half
stands where the standard observer begins to see it at 56 pixels a degree.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from hasty_reel.measure.causes.copies import SHARES
from hasty_reel.measure.causes.gathered import CELL, Gathered

PLAIN = {
    "grain": 1.2,
    "blotches": 0.45,
    "sparks": 60.0,
    "pinned_pattern": 0.8,
    "shimmer": 2.0,
    "strobing": 2.0,
    "pumping": 0.6,
    "settling": 0.6,
    "lens_noise": 1.2,
}
"""Amplitude in L* (sparks: a megapixel) at which the score is one half."""
BLOTCH_LEFT = 0.55
"""Share of their variance that blotches keep in means over 4 x 4 pixels."""
WORST = 95


@dataclass(frozen=True)
class Trace:
    """What speaks for one cause.

    amplitude : see `PLAIN`; curve : of each frame (frames,); tiles : of each tile (down, across), where it sits; note : in words
    """

    amplitude: float
    curve: np.ndarray
    tiles: np.ndarray
    note: str
    detail: np.ndarray = field(default_factory=lambda: np.empty((0, 2)))


def score(name: str, amplitude: float) -> float:
    """0 to 1 for an amplitude; half where it begins to be seen.

    Parameters
    ----------
    name : of the cause
    amplitude : of the unrest, in the unit of the cause
    """
    share = max(0.0, amplitude) / PLAIN[name]
    return float(share * share / (1.0 + share * share))


def traces(g: Gathered) -> dict[str, Trace]:
    """Return the trace of every cause in what was gathered.

    Parameters
    ----------
    g : what was gathered
    """
    even, coarse = np.stack(g.even), np.stack(g.coarse)
    # of the variance of pixels and of cells: what is white, and what is coarse
    white = 1.0 / CELL**2
    blotch = np.maximum(0.0, (coarse - white * even) / (BLOTCH_LEFT - white))
    # the estimate of a tile wavers with its 16 cells; what may be chance is not counted
    blotch = np.maximum(0.0, blotch - 1.0 * white * even / (BLOTCH_LEFT - white))
    blotch = np.minimum(blotch, even)
    grain = np.maximum(0.0, even - blotch)
    pinned, pin_share = _pinned(g)
    lens_share, lens_tiles = _lens(g, grain)
    free = grain * (1.0 - pin_share)
    held = np.nan_to_num(lens_tiles) * lens_share
    return {
        "grain": _steady(np.sqrt(free * (1.0 - held)), "White in space and in time: {:.1f} L* in the noisiest parts."),
        "blotches": _steady(np.sqrt(blotch), "Coarse and new in each frame: patches of {:.1f} L*."),
        "lens_noise": _steady(np.sqrt(free * held), "Noise of {:.1f} L* where the picture is out of focus, and calm where it is sharp."),
        "pinned_pattern": pinned,
        "sparks": _sparks(g),
        "shimmer": _shimmer(g),
        "strobing": _strobing(g),
        "pumping": _pumping(g),
        "settling": _settling(g),
    }


def _percentile(values: np.ndarray, which: float) -> float:
    good = values[np.isfinite(values)]
    return float(np.percentile(good, which)) if good.size else 0.0


def _over(values: np.ndarray, which: float, axis) -> np.ndarray:
    """Percentile that leaves nan out and is 0 where all is."""
    known = np.isfinite(values).any(axis=axis, keepdims=True)
    return np.nanpercentile(np.where(known, values, 0.0), which, axis=axis)


def _steady(amplitude: np.ndarray, note: str) -> Trace:
    """Of what is there in all frames: the lower quartile over time in each tile, the worst tiles of these."""
    tiles = _over(amplitude, 25, 0)
    value = _percentile(tiles, WORST)
    return Trace(value, _over(amplitude, WORST, (1, 2)), tiles, note.format(value))


def _sparks(g: Gathered) -> Trace:
    counts = np.stack(g.sparks)
    pixels = g.shape[0] * g.shape[1]
    rate = counts.sum(axis=(1, 2)) / pixels * 1e6
    # one or two may be glints of the scene itself
    value = float(rate.mean()) * min(1.0, float(counts.sum()) / 4.0)
    return Trace(value, rate, counts.mean(axis=0), f"{rate.mean():.0f} a megapixel stand alone in a single frame.")


def _pinned(g: Gathered) -> tuple[Trace, float]:
    """The part of the fine pattern that stays in place while the scene moves, and its share."""
    both = np.stack(g.pinned)  # (frames, 2, down, across)
    likeness, power = both[:, 0], both[:, 1]
    known = np.isfinite(likeness)
    if np.count_nonzero(known) < 4:
        empty = np.zeros(len(g.frames))
        return Trace(0.0, empty, np.zeros(likeness.shape[1:]), "Nothing moves far enough to tell."), 0.0
    share = float(np.sum(likeness[known]) / max(np.sum(power[known]), 1e-12))
    # less than this may be the surface itself
    share = float(np.clip((share - 0.15) / 0.5, 0.0, 1.0))
    amplitude = np.sqrt(np.maximum(likeness, 0.0)) * np.sqrt(share) * 1.25
    tiles = _over(amplitude, 50, 0)
    value = _percentile(tiles[np.isfinite(likeness).any(axis=0)], 90)
    note = f"{100 * share:.0f} % of the fine pattern keeps its place on the screen while the scene moves."
    return Trace(value, _over(amplitude, 90, (1, 2)), tiles, note), share


def _lens(g: Gathered, grain: np.ndarray) -> tuple[float, np.ndarray]:
    """How clearly noise sits out of focus (0..1), and how far out of focus each tile is, 0..1 (down, across).

    The focus lies where the sharpest edges are. What is far from it in 1/Z is out of
    focus where its edges are wider, too: a far wall of a picture without a lens is not.
    """
    near = _middle(np.stack(g.near))
    width, of = np.stack(g.edges_width).transpose(1, 0, 2, 3).reshape(2, -1)
    known = np.isfinite(width) & np.isfinite(of)
    width, of = width[known], of[known]
    nothing = np.zeros(near.shape)
    if len(width) < 12:
        return 0.0, nothing
    focus = float(np.median(of[width <= np.percentile(width, 15)]))
    away, edge_away = np.abs(near - focus), np.abs(of - focus)
    far = _percentile(away, 90)
    soft, sharp = away > 0.5 * far, away < 0.3 * far
    wide, narrow = width[edge_away > 0.5 * far], width[edge_away < 0.3 * far]
    level = _over(grain, 25, 0)
    if far < 0.2 * focus or min(len(wide), len(narrow)) < 30 or min(np.count_nonzero(soft), np.count_nonzero(sharp)) < 2:
        return 0.0, nothing
    # out of focus nothing is sharp, and in focus something is
    wider = float(np.percentile(wide, 2) / np.percentile(narrow, 30))
    noisier = np.sqrt(np.median(level[soft]) / max(float(np.median(level[sharp])), 0.01))
    return float(np.clip((wider - 1.0) / 0.15, 0.0, 1.0) * np.clip((noisier - 1.15) / 0.2, 0.0, 1.0)), np.clip(
        (away / far - 0.15) / 0.3, 0.0, 1.0
    )


def _middle(planes: np.ndarray) -> np.ndarray:
    """Median over time of (frames, down, across); nan where nothing was ever known."""
    known = np.isfinite(planes).any(axis=0)
    return np.where(known, np.nanmedian(np.where(known, planes, 0.0), axis=0), np.nan)


def _shimmer(g: Gathered) -> Trace:
    edges, share = np.stack(g.edges), np.stack(g.edge_share)
    even = np.nan_to_num(np.stack(g.even))
    extra = np.sqrt(np.maximum(0.0, edges - even))
    weight = np.where(np.isfinite(extra), share, 0.0)
    if weight.sum() * 256 < 24:
        return Trace(0.0, np.zeros(len(g.frames)), np.zeros(edges.shape[1:]), "No thin bright edges in motion.")
    amplitude = np.nan_to_num(extra)
    curve = np.sqrt((amplitude**2 * weight).sum(axis=(1, 2)) / np.maximum(weight.sum(axis=(1, 2)), 1e-9))
    tiles = np.sqrt((amplitude**2 * weight).sum(axis=0) / np.maximum(weight.sum(axis=0), 1e-9))
    value = float(np.sqrt((amplitude**2 * weight).sum() / weight.sum()))
    return Trace(value, curve, tiles, f"{value:.1f} L* of unrest along thin bright edges in motion, against less beside them.")


def _strobing(g: Gathered) -> Trace:
    clear, at, step = g.copies.comb()
    value = float(np.clip((clear - 0.05) / 0.15, 0.0, 1.0)) * step
    tiles = np.zeros(g.level[0].shape)
    for rows, columns in g.copies.places:
        inside = (rows >= 0) & (rows < g.shape[0]) & (columns >= 0) & (columns < g.shape[1])
        np.add.at(tiles, (rows[inside].astype(int) // 16, columns[inside].astype(int) // 16), 1.0)
    curve = np.zeros(len(g.frames))
    curve[: len(g.copies.step)] = [min(1.0, value / max(step, 1e-6)) * s for s in g.copies.step]
    detail = np.column_stack([SHARES, np.mean(g.copies.likeness, axis=0)]) if g.copies.likeness else np.empty((0, 2))
    words = (
        f"Edges come back every {100 * at:.0f} % of the way of a frame, in steps of {step:.1f} L*." if value > 0 else "No copies of edges."
    )
    return Trace(value, curve, tiles / max(tiles.max(), 1.0), words, detail)


def _pumping(g: Gathered) -> Trace:
    """Steps of the light of all the frame, and of its noise."""
    light = np.abs(np.array(g.light))
    noise = np.stack(g.noise)
    # what is in every frame is texture or steady noise
    steady = np.nanmin(np.where(np.isfinite(noise), noise, np.inf), axis=0)
    level = np.array([float(np.nanmean(n)) if np.isfinite(n).any() else 0.0 for n in noise])
    steps = np.abs(np.diff(level)) if len(level) > 1 else np.zeros(1)
    ratio = np.max([max(a, b) / max(min(a, b), 0.01) for a, b in pairwise(level)], initial=1.0)
    gate = float(np.clip((np.sqrt(ratio) - 1.15) / 0.2, 0.0, 1.0))
    jumps = np.sqrt(np.concatenate([[0.0], steps])) * gate
    curve = np.hypot(light, jumps)
    value = max(_percentile(light, 90) / 0.6, float(jumps.max()) * 0.8)
    tiles = np.sqrt(np.maximum(0.0, np.nanmax(np.nan_to_num(noise), axis=0) - np.where(np.isfinite(steady), steady, 0.0)))
    if float(jumps.max()) * 0.8 >= _percentile(light, 90) / 0.6:
        k = int(np.argmax(jumps))
        note = (
            f"Noise steps from {np.sqrt(level[k - 1]):.1f} to {np.sqrt(level[k]):.1f} L* at frame {g.frames[k]}." if k else "Noise is even."
        )
    else:
        note = f"The light of all the frame jumps by {_percentile(light, 90):.2f} L*."
    return Trace(value, curve, tiles, note)


def _settling(g: Gathered) -> Trace:
    """Change along the motion that dies away from the first frame on."""
    drift = np.stack(g.drift)
    curve = np.array([np.sqrt(np.nanmean(d * d)) if np.isfinite(d).any() else np.nan for d in drift])
    known = curve[np.isfinite(curve)]
    empty = Trace(0.0, np.nan_to_num(curve), np.zeros(drift.shape[1:]), "No change dies away from the first frame on.")
    if len(known) < 4:
        return empty
    begin = known[: max(4, min(len(known), 24))]
    order = np.arange(len(begin))
    falling = float(np.corrcoef(order, np.argsort(np.argsort(begin)))[0, 1])
    third = max(1, len(begin) // 3)
    ratio = float(np.mean(begin[:third]) / max(np.mean(known[-third:]), 1e-3))
    gate = float(np.clip((-falling - 0.6) / 0.3, 0.0, 1.0) * np.clip((ratio - 1.2) / 0.4, 0.0, 1.0))
    # a change in one sense is a way that adds up; what wavers does not
    way = np.nansum(drift[: len(begin)], axis=0)
    value = float(np.sqrt(np.mean(way * way))) * gate
    note = f"The picture changes by {begin[0]:.2f} L* after the first frame and by {known[-1]:.2f} at the end."
    return Trace(value, np.nan_to_num(curve) * gate, np.abs(way) * gate, note if gate > 0 else empty.note)
