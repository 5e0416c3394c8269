"""Unrest over a picture as one figure: root mean square over a field of view, of the field where it is most.

People look at a part of the picture. Over the part that the eye sees sharply at once (the macula, some five and a half degrees across;
handbook figure, from memory) judgements go by the mean power of the unrest and not by its worst spot: so they come out on clips of that
size (`benchmarks/judged.py`). Of a whole picture that part counts in which most is seen.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hasty_reel.measure.spectrum import BLOCK_DEGREES

BLOCKS = 5
"""Blocks a side of a field."""
FIELD_DEGREES = BLOCKS * BLOCK_DEGREES


def field_means(power: np.ndarray, rows: int, columns: int) -> np.ndarray:
    """Return the mean over each field, (down, across) of all places where one fits; nan where a field has nothing known.

    Parameters
    ----------
    power : (down, across); nan where it is not known
    rows, columns : of a field; a smaller picture is one field
    """
    rows, columns = min(rows, power.shape[0]), min(columns, power.shape[1])
    known = np.isfinite(power)
    sums = []
    for plane in (np.where(known, power, 0.0), known.astype(np.float64)):
        whole = np.pad(plane.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
        sums.append(whole[rows:, columns:] - whole[:-rows, columns:] - whole[rows:, :-columns] + whole[:-rows, :-columns])
    return np.where(sums[1] > 0.5, np.maximum(sums[0], 0.0) / np.maximum(sums[1], 1.0), np.nan)


def seen_in_fields(blocks: np.ndarray) -> float:
    """Return the seen flicker of a picture in JND, that of its most restless field; nan where nothing is known.

    Parameters
    ----------
    blocks : (down, across) seen flicker of blocks of about a degree, in JND
    """
    if not np.isfinite(blocks).any():
        return float("nan")
    return float(np.sqrt(np.nanmax(field_means(blocks**2, BLOCKS, BLOCKS))))


def seen_in_all(stacks: Sequence[np.ndarray]) -> float:
    """Return the seen flicker of a sequence in JND, that of its most restless stack of frames; nan without any.

    Parameters
    ----------
    stacks : seen flicker of the blocks of each stack
    """
    found = [seen_in_fields(blocks) for blocks in stacks]
    return float(np.nanmax(found)) if np.isfinite(found).any() else float("nan")


def told_by_halves(halves: np.ndarray, rows: int, columns: int) -> float:
    """Return the mean power of the most restless field, where one half of the pixels chooses it and the other tells of it.

    A maximum of estimates is too high by what is chance in them; what one half tells of the field that the other chose is not.

    Parameters
    ----------
    halves : (2, down, across) power as each half of the pixels tells it
    rows, columns : of a field
    """
    one, two = (field_means(h, rows, columns) for h in halves)
    return float((one.flat[int(np.nanargmax(two))] + two.flat[int(np.nanargmax(one))]) / 2.0)
