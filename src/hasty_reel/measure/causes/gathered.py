"""What one walk along a sequence gathers for finding causes: everything a tile, frame by frame.

Unrest is split where it arises: sparks are taken out first, then edges in motion, and
what is left over even surfaces is split into fine and coarse by means over 4 x 4 pixels.
White noise loses 15/16 of its variance there, blotches keep most of theirs.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import cv2
import numpy as np

from hasty_reel.image.laplacian import laplacian_residual
from hasty_reel.image.tiles import masked_tile_means, tile_means
from hasty_reel.measure.causes.copies import Copies
from hasty_reel.measure.neighbours import FrameWithNeighbours

TILE = 16
CELL = 4
MOVING = 0.05
"""Pixels a frame from which on something moves."""
CLEARLY = 1.5
"""Pixels a frame from which on a pattern that stays in place is told from a surface that moves."""
EDGE = 6.0
"""L* a pixel of the smoothed picture from which on there is an edge."""
AGREE = 12.0
"""L* up to which frames that are looked at together for edges may differ."""
RIDGE = 5.0
"""L* above both sides of a thin bright line."""


@dataclass
class Gathered:
    """Planes of tiles (frames, down, across) and curves (frames,), as they grow.

    even, coarse : mean squared unrest over even surfaces, of single pixels and of means over 4 x 4; nan where there are none
    edges : the same of thin bright edges in motion, and edge_share, their share of the tile
    drift : mean change to the next frame along the motion, nan without
    level : mean L* ; noise : estimated from the picture alone; light : unrest that all of the frame has alike
    sparks : count a tile
    edges_width : (2, down, across) how many pixels an edge of the tile takes, and its 1/Z; nan where there is none
    near : mean 1/Z, nan without
    """

    frames: list[int] = field(default_factory=list)
    even: list[np.ndarray] = field(default_factory=list)
    coarse: list[np.ndarray] = field(default_factory=list)
    edges: list[np.ndarray] = field(default_factory=list)
    edge_share: list[np.ndarray] = field(default_factory=list)
    drift: list[np.ndarray] = field(default_factory=list)
    noise: list[np.ndarray] = field(default_factory=list)
    level: list[np.ndarray] = field(default_factory=list)
    sparks: list[np.ndarray] = field(default_factory=list)
    edges_width: list[np.ndarray] = field(default_factory=list)
    near: list[np.ndarray] = field(default_factory=list)
    pinned: list[np.ndarray] = field(default_factory=list)
    light: list[float] = field(default_factory=list)
    shape: tuple[int, int] = (0, 0)
    copies: Copies = field(default_factory=Copies)
    _fine_before: tuple[np.ndarray, np.ndarray] | None = None

    def take(self, here: FrameWithNeighbours) -> None:
        """Take a frame in.

        Parameters
        ----------
        here : the frame and those beside it
        """
        seen, un = here.seen.lightness, here.unrest
        self.shape = (seen.shape[0], seen.shape[1])
        self.frames.append(here.frame)
        smooth = cv2.GaussianBlur(seen, (0, 0), 1.0)
        # edges are looked for where three frames agree, so that noise makes none
        calm = cv2.GaussianBlur(_agreed(here), (0, 0), 1.0)
        restless = cv2.blur(np.abs(un.d), (TILE + 1, TILE + 1))
        steep = _steepness(calm)
        field_ = here.motion
        speed = np.zeros_like(seen) if field_ is None else cv2.magnitude(*map(np.ascontiguousarray, (field_[..., 0], field_[..., 1])))
        # a line of a pixel or two may carry its motion beside itself
        moves = cv2.dilate(speed, np.ones((3, 3))) > MOVING

        spark = _grown(here.sparks)
        matched = un.measured & ~spark
        d = un.d
        body = matched & (np.abs(d) <= _outlying(d, matched))
        thin = _grown(cv2.morphologyEx(calm, cv2.MORPH_TOPHAT, np.ones((5, 5), np.uint8)) > RIDGE + restless)
        rim = _grown(steep > EDGE / 2 + 0.5 * restless)
        edge_of_motion = _motion_edges(speed)
        even = body & ~rim & ~thin & ~edge_of_motion
        self.even.append(_mean_square(d, even))
        cells, inside = _cells(d, even)
        self.coarse.append(_mean_square(cells, inside, TILE // CELL))
        on_edge = un.measured & thin & moves
        self.edges.append(_mean_square(d, on_edge, least=0.01))
        self.edge_share.append(_tile_means(on_edge.astype(np.float32)))
        self.light.append(_whole(d, matched))
        self.level.append(_tile_means(seen))
        plain = ~rim & ~thin & ~spark & ~edge_of_motion
        self.noise.append(_spread(seen, plain))
        self.sparks.append(_tile_means(here.sparks.astype(np.float32)) * TILE * TILE)
        depth = here.picture.guides.get("Z")
        near = None if depth is None else _near(depth)
        self.edges_width.append(_edges(cv2.GaussianBlur(calm, (0, 0), 1.2), near, restless))
        self.near.append(np.full(self.level[-1].shape, np.nan) if near is None else _tile_means(near))
        if un.after is not None:
            there = ((un.match & 2) > 0) & plain
            change = np.where(there, un.after - seen, 0.0).astype(np.float32)
            self.drift.append(_masked_means(change, there))
        else:
            self.drift.append(np.full(self.level[-1].shape, np.nan))
        self._pin(seen, smooth, speed, plain, here.before is not None)
        if field_ is not None:
            self.copies.take(seen, field_, speed)

    def _pin(self, seen: np.ndarray, smooth: np.ndarray, speed: np.ndarray, even: np.ndarray, follows: bool) -> None:
        """How much of the fine pattern is at the same place of the screen in the frame before, though the scene moves there."""
        fine = seen - smooth
        fine = np.clip(fine, -4.0, 4.0)
        where = even & (speed > CLEARLY)
        out = np.full((2, *self.level[-1].shape), np.nan)
        if follows and self._fine_before is not None:
            before, there = self._fine_before
            both = where & there
            out = np.stack([_masked_means(fine * before, both, 0.2), _masked_means(0.5 * (fine**2 + before**2), both, 0.2)])
        self.pinned.append(out)
        self._fine_before = (fine, where)


def _near(depth: np.ndarray) -> np.ndarray:
    """Nearness 1/Z, 0 where nothing was hit."""
    good = np.isfinite(depth) & (depth > 1e-4)
    return np.where(good, 1.0 / np.where(good, depth, 1.0), 0.0).astype(np.float32)


def _outlying(d: np.ndarray, matched: np.ndarray) -> np.ndarray:
    """Beyond this, (h, w) L*, unrest is a spark or a false match: five robust deviations of its surroundings."""
    size = np.where(matched, np.abs(d), 0.0).astype(np.float32)
    # the mean of what is clipped at its own triple is near the mean of the body
    mean = cv2.blur(size, (TILE + 1, TILE + 1))
    mean = cv2.blur(np.minimum(size, 3.0 * mean + 0.2), (TILE + 1, TILE + 1))
    return 5.0 * 1.2533 * mean + 0.5


def _whole(d: np.ndarray, matched: np.ndarray) -> float:
    """Unrest that all tiles have alike: the median of their means, less three times what chance makes of it."""
    means = _masked_means(d, matched)
    means = means[np.isfinite(means)]
    if means.size < 4:
        return 0.0
    middle = float(np.median(means))
    chance = 1.2533 * float(np.std(means)) / np.sqrt(means.size)
    return float(np.sign(middle) * max(0.0, abs(middle) - 3.0 * chance))


def _agreed(here: FrameWithNeighbours) -> np.ndarray:
    """The mean of a frame and of those beside it where they match and agree, L*."""
    un, seen = here.unrest, here.seen.lightness
    total, count = seen.copy(), np.ones(seen.shape, np.float32)
    for bit, other in ((1, un.before), (2, un.after)):
        if other is not None:
            there = ((un.match & bit) > 0) & (np.abs(other - seen) < AGREE)
            total[there] += other[there]
            count[there] += 1.0
    return total / count


def _steepness(plane: np.ndarray) -> np.ndarray:
    """Change of L* a pixel, (h, w)."""
    return cv2.magnitude(cv2.Sobel(plane, cv2.CV_32F, 1, 0, scale=0.125), cv2.Sobel(plane, cv2.CV_32F, 0, 1, scale=0.125))


def _motion_edges(speed: np.ndarray) -> np.ndarray:
    """Where things of different speed meet, as far as their blur reaches: what is carried there is not to be trusted."""
    top = float(np.percentile(speed, 99))
    if top < 1.0:
        return np.zeros(speed.shape, np.bool_)
    # the blur reaches half the way of a frame, what was covered before all of it
    reach = 2 * int(np.clip(top + 4, 4, 64)) + 1
    around = np.ones((reach, reach), np.uint8)
    return cv2.dilate(speed, around) - cv2.erode(speed, around) > 1.0 + 0.2 * speed


def _grown(where: np.ndarray) -> np.ndarray:
    """A mask (h, w) and the pixels around it."""
    return cv2.dilate(where.astype(np.uint8), np.ones((3, 3), np.uint8)) > 0


def _tile_means(plane: np.ndarray) -> np.ndarray:
    return tile_means(plane, TILE)


def _masked_means(plane: np.ndarray, where: np.ndarray, least: float = 0.25, side: int = TILE) -> np.ndarray:
    return masked_tile_means(plane, where, side, least)


def _mean_square(plane: np.ndarray, where: np.ndarray, side: int = TILE, least: float = 0.25) -> np.ndarray:
    return _masked_means(plane * plane, where, least, side)


def _cells(d: np.ndarray, where: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Means over cells of 4 x 4 pixels that count nearly whole, and which do."""
    means = _masked_means(d, where, 0.75, CELL)
    return np.nan_to_num(means), np.isfinite(means)


def _spread(seen: np.ndarray, where: np.ndarray) -> np.ndarray:
    """Noise of even surfaces from the picture alone, mean squared."""
    return _mean_square(np.clip(laplacian_residual(seen), -15, 15), where)


def _edges(calm: np.ndarray, near: np.ndarray | None, restless: np.ndarray) -> np.ndarray:
    """Width in pixels of the steepest edge of each tile, and its nearness, (2, down, across); nan in flat tiles.

    The width is the range of L* around over the steepest change. Nearness is that of the nearest
    thing at the edge, which is the one whose outline it is.
    """
    h, w = calm.shape
    side = np.ones((TILE + 1, TILE + 1), np.uint8)
    steep = _steepness(calm)
    high, low = cv2.dilate(calm, side), cv2.erode(calm, side)
    nearest = None if near is None else cv2.dilate(near, np.ones((3, 3), np.uint8))
    out = np.full((2, -(-h // TILE), -(-w // TILE)), np.nan)
    for j in range(out.shape[1]):
        for i in range(out.shape[2]):
            part = steep[j * TILE : (j + 1) * TILE, i * TILE : (i + 1) * TILE]
            r, c = divmod(int(part.argmax()), part.shape[1])
            r, c = r + j * TILE, c + i * TILE
            reach = high[r, c] - low[r, c]
            if reach > 8.0 + restless[r, c]:
                out[:, j, i] = reach / max(float(steep[r, c]), 1e-3), np.nan if nearest is None else nearest[r, c]
    return out
