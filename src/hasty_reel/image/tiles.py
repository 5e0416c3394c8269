"""Means, sums and root mean squares over square tiles of a picture."""

from __future__ import annotations

import numpy as np

from hasty_reel.compiled import FAST, njit, prange


def tile_means(plane: np.ndarray, side: int) -> np.ndarray:
    """Return the means over tiles; the last ones may be smaller.

    Parameters
    ----------
    plane : (h, w)
    side : of a tile, in pixels

    Returns
    -------
    np.ndarray
        (down, across) float64, in the unit of the plane.
    """
    return _sums(plane, side) / tile_sizes(plane.shape[0], plane.shape[1], side)


def whole_tile_means(plane: np.ndarray, side: int) -> np.ndarray:
    """Return the means over tiles that are whole; the picture's own mean where it has no whole tile.

    Parameters
    ----------
    plane : (h, w)
    side : of a tile, in pixels

    Returns
    -------
    np.ndarray
        (down, across), in the unit of the plane.
    """
    h, w = plane.shape[0] // side * side, plane.shape[1] // side * side
    if not h or not w:
        return np.array([[plane.mean()]])
    return plane[:h, :w].reshape(h // side, side, w // side, side).mean(axis=(1, 3))


def masked_tile_means(plane: np.ndarray, where: np.ndarray, side: int, least: float = 0.25) -> np.ndarray:
    """Return the means over the pixels of a tile that count.

    Parameters
    ----------
    plane : (h, w)
    where : (h, w) bool, the pixels that count
    side : of a tile, in pixels
    least : share of a tile that must count, 0 to 1

    Returns
    -------
    np.ndarray
        (down, across) float64, nan where too few pixels count.
    """
    counts = _sums(where, side)
    sums = _sums(np.where(where, plane, 0.0), side)
    enough = (counts > 0) & (counts >= least * tile_sizes(plane.shape[0], plane.shape[1], side))
    return np.where(enough, sums / np.maximum(counts, 1), np.nan)


def _sums(plane: np.ndarray, side: int) -> np.ndarray:
    rows, columns = np.arange(0, plane.shape[0], side), np.arange(0, plane.shape[1], side)
    return np.add.reduceat(np.add.reduceat(plane.astype(np.float64), rows, axis=0), columns, axis=1)


def tile_sizes(h: int, w: int, side: int) -> np.ndarray:
    """Return the pixels of each tile, (down, across).

    Parameters
    ----------
    h, w : of the plane, in pixels
    side : of a tile, in pixels
    """
    rows, columns = (np.minimum(side, length - np.arange(0, length, side)) for length in (h, w))
    return np.outer(rows, columns)


@njit(parallel=True, fastmath=FAST)
def _squared_sums(plane, weight, side, sums, weights):
    h, w = plane.shape
    for j in prange(sums.shape[0]):
        for i in range(sums.shape[1]):
            total, count = np.float32(0.0), 0
            for r in range(j * side, min(h, (j + 1) * side)):
                for c in range(i * side, min(w, (i + 1) * side)):
                    if weight[r, c] != 0:
                        total += plane[r, c] * plane[r, c]
                        count += 1
            sums[j, i] = total
            weights[j, i] = count


def tile_rms(plane: np.ndarray, counts: np.ndarray, side: int, least: float = 0.25) -> np.ndarray:
    """Return the root mean square over tiles.

    Parameters
    ----------
    plane : (h, w) float32
    counts : (h, w) uint8, 0 where a pixel does not count
    side : of a tile, in pixels
    least : share of a tile that must count, 0 to 1

    Returns
    -------
    np.ndarray
        (down, across) float64, nan where too few pixels count.
    """
    h, w = plane.shape
    shape = (-(-h // side), -(-w // side))
    sums, weights = np.empty(shape), np.empty(shape)
    _squared_sums(plane, counts, side, sums, weights)
    enough = weights >= np.maximum(1.0, least * tile_sizes(h, w, side))
    return np.where(enough, np.sqrt(sums / np.maximum(weights, 1.0)), np.nan)
