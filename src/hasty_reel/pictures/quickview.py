"""A costly display view through a table, for pictures that are only looked at.

A tone curve that keeps hues takes a second for a frame of 1080p; a loop of two sides holds a
hundred such frames. On a grid of 65 points a side over the logarithm of light the view is
computed once, and in between interpolated in tetrahedra. What is measured, compared or handed
over goes through the view itself.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import PyOpenColorIO as ocio

from hasty_reel.pictures.colour import through_view, view_processor

GRID = 65
LOWEST, HIGHEST = -12.0, 7.0
"""Stops around 1.0 that the grid covers; beyond them the view has long settled."""


def is_costly(view: str) -> bool:
    """Whether a view does more than curves and matrices to each pixel.

    Parameters
    ----------
    view : display view; None for the plain one, which clips and has no tone curve
    """
    return any(isinstance(step, ocio.FixedFunctionTransform) for step in view_processor(view).createGroupTransform())


def quick_view(rgb: np.ndarray, view: str) -> np.ndarray:
    """As `through_view`, (h, w, 3) -> (h, w, 3) float32, within about one 8-bit code; a view that costs little goes its own way.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light
    view : display view; None for the plain one, which clips and has no tone curve

    Raises
    ------
    WrongInput
        When there is no view of that name.
    """
    if not is_costly(view):
        return through_view(rgb, view)
    out = np.array(rgb, np.float32, order="C", copy=True)
    _table(view).applyRGB(out)
    return out


@lru_cache(maxsize=4)
def _table(view: str) -> ocio.CPUProcessor:
    raw = ocio.Config.CreateRaw()
    to_grid = ocio.AllocationTransform(ocio.ALLOCATION_LG2, [LOWEST, HIGHEST, 2.0**LOWEST])
    side = np.linspace(0.0, 1.0, GRID, dtype=np.float32)
    points = np.stack(np.meshgrid(side, side, side, indexing="ij"), axis=-1).reshape(1, -1, 3)
    raw.getProcessor(to_grid, ocio.TRANSFORM_DIR_INVERSE).getDefaultCPUProcessor().applyRGB(points)
    table = ocio.Lut3DTransform(GRID)
    table.setInterpolation(ocio.INTERP_TETRAHEDRAL)
    table.setData(through_view(points, view).ravel())
    return raw.getProcessor(ocio.GroupTransform([to_grid, table])).getDefaultCPUProcessor()
