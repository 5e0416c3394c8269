"""Maps over the picture: noise or seen flicker of each part, as shares of what is marked."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.measure.flicker import TILE
from hasty_reel.measure.seen import Eyes
from hasty_reel.measure.sequence import SequenceMeasures

NOISE_MARK = 2.0
"""Unrest in L* of a tile that is ringed in the map of noise."""


@dataclass(frozen=True)
class TileMap:
    """values : (down, across), 1 where it is marked, nan where nothing was measured.

    tile : side of a tile in pixels of the side; shape : its rows and columns
    """

    values: np.ndarray
    tile: int
    shape: tuple[int, int]


def tile_map(what: str, found: SequenceMeasures | None, eyes: Eyes) -> TileMap | None:
    """Return the map of 'noise' or 'flicker' over a sequence; None where it is not asked for or not known.

    Parameters
    ----------
    what : 'noise' or 'flicker'
    found : measures of the sequence; None while they are not known
    eyes : who looks, and from where
    """
    if found is None:
        return None
    if what == "flicker" and found.seen_tiles:
        return TileMap(_mean(found.seen_tiles) / eyes.limit, min(found.block, *found.report.shape), found.report.shape)
    if what == "noise" and found.flicker_tiles:
        return TileMap(_mean(found.flicker_tiles) / NOISE_MARK, TILE, found.report.shape)
    return None


def _mean(tiles: list[np.ndarray]) -> np.ndarray:
    """Mean over time of (down, across); nan where a tile was never measured."""
    planes = np.array(tiles)
    known = np.isfinite(planes)
    return np.where(known.any(axis=0), np.where(known, planes, 0.0).sum(axis=0) / np.maximum(known.sum(axis=0), 1), np.nan)
