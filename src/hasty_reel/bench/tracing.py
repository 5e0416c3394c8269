"""A ray against all shapes of a scene: the nearest one, or whether any stands in the way.

The hierarchy of bounding boxes is walked front to back without a stack: for each of the eight octants of
directions `ways[octant, n]` holds the box to go to when box n is met and when it is missed (-1: the end), and
its first and last+1 shape. Planes have no bounds and are tested one by one.
"""

from __future__ import annotations

from hasty_reel.bench.layout import MOVES, SHAPE
from hasty_reel.bench.shapes import FAR, plane_distance, shape_distance
from hasty_reel.compiled import FAST, njit


@njit(fastmath=FAST)
def met(boxes, node, ox, oy, oz, ix, iy, iz, near, far):
    """Whether a ray (inverse direction i) meets a bounding box between near and far.

    Parameters
    ----------
    boxes : (n, 6) float64, bounding boxes of the nodes
    node : int, index of the node
    ox, oy, oz : float, origin of the ray, in units of the scene
    ix, iy, iz : float, inverse direction of the ray
    near : float, hits nearer than this are none
    far : float, hits beyond this are none
    """
    x0, x1 = (boxes[node, 0] - ox) * ix, (boxes[node, 3] - ox) * ix
    y0, y1 = (boxes[node, 1] - oy) * iy, (boxes[node, 4] - oy) * iy
    z0, z1 = (boxes[node, 2] - oz) * iz, (boxes[node, 5] - oz) * iz
    low = max(max(min(x0, x1), min(y0, y1)), min(z0, z1))
    high = min(min(max(x0, x1), max(y0, y1)), max(z0, z1))
    return low <= high and high > near and low < far


@njit(fastmath=FAST)
def inverse(v):
    """1/v, large but finite near zero.

    Parameters
    ----------
    v : float
    """
    return 1.0 / v if abs(v) > 1e-12 else 1e12


@njit(fastmath=FAST, inline="always")
def closest(tags, a, planes, boxes, ways, tm, ox, oy, oz, dx, dy, dz, near, far):
    """The nearest shape along a unit ray: its distance (FAR without a hit) and index.

    The hierarchy is walked front to back without a stack: for each of the eight
    octants of directions `ways[octant, n]` holds the box to go to when box n is
    met and when it is missed (-1: the end), and its first and last+1 shape.

    Parameters
    ----------
    tags, a, planes, boxes, ways : arrays of the packed scene, see `layout`; a : (n, k) float64, the solid shapes
    tm : float, time within the shutter, 0 to 1
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    near : float, hits nearer than this are none
    far : float, hits beyond this are none

    Returns
    -------
    t : float
        Distance along the ray, in units of the scene; FAR without a hit.
    i : int
        Index of the shape; -1 without a hit.
    """
    best = far
    found = -1
    for i in range(planes):
        t = plane_distance(a, i, ox, oy, oz, dx, dy, dz, near)
        if t < best:
            best = t
            found = i
    ix, iy, iz = inverse(dx), inverse(dy), inverse(dz)
    octant = (1 if dx < 0 else 0) + (2 if dy < 0 else 0) + (4 if dz < 0 else 0)
    node = 0 if boxes.shape[0] > 0 else -1
    while node >= 0:
        if met(boxes, node, ox, oy, oz, ix, iy, iz, near, best):
            for i in range(ways[octant, node, 2], ways[octant, node, 3]):
                t = shape_distance(tags[i, SHAPE], a, i, tm, tags[i, MOVES], ox, oy, oz, dx, dy, dz, near)
                if t < best:
                    best = t
                    found = i
            node = ways[octant, node, 0]
        else:
            node = ways[octant, node, 1]
    if found < 0:
        best = FAR
    return best, found


@njit(fastmath=FAST, inline="always")
def blocked(tags, a, planes, boxes, ways, tm, ox, oy, oz, dx, dy, dz, near, far):
    """Whether any shape stands between `near` and `far` along a unit ray.

    Parameters
    ----------
    tags, a, planes, boxes, ways : arrays of the packed scene, see `layout`; a : (n, k) float64, the solid shapes
    tm : float, time within the shutter, 0 to 1
    ox, oy, oz : float, origin of the ray, in units of the scene
    dx, dy, dz : float, its unit direction
    near : float, hits nearer than this are none
    far : float, hits beyond this are none
    """
    hit = False
    for i in range(planes):
        if plane_distance(a, i, ox, oy, oz, dx, dy, dz, near) < far:
            hit = True
    ix, iy, iz = inverse(dx), inverse(dy), inverse(dz)
    octant = (1 if dx < 0 else 0) + (2 if dy < 0 else 0) + (4 if dz < 0 else 0)
    node = 0 if boxes.shape[0] > 0 and not hit else -1
    while node >= 0:
        if met(boxes, node, ox, oy, oz, ix, iy, iz, near, far):
            for i in range(ways[octant, node, 2], ways[octant, node, 3]):
                if not hit and shape_distance(tags[i, SHAPE], a, i, tm, tags[i, MOVES], ox, oy, oz, dx, dy, dz, near) < far:
                    hit = True
            node = -1 if hit else ways[octant, node, 0]
        else:
            node = ways[octant, node, 1]
    return hit
