"""Where everything stands in the packed arrays of one frame: names for their rows and columns.

The arrays are few and wide, since each array passed to a kernel costs time:

tags (n, 6) int    what a shape is: `SHAPE` kind of shape, `MOVES`, `MATERIAL` its row in `mats`, `LAMP` its
                   number as a lamp or -1, `SURFACE` kind of material, `PATTERN`
solid (n, 36)      shape at shutter opening, `CHANGE` until closing, `ONWARD` rigid motion to the next frame (3 x 4)
boxes, ways        the bounding hierarchy, see `shapes.closest`
mats (m, 12)       `COLOUR`, `SECOND` colour, `ROUGHNESS`, `REFRACTION`, `LIGHT`, `SCALE` of the pattern
lights             rows of glowing shapes that are sampled
fog (x, y, z)      density of fog on a grid, see `fog`; one cell where there is none
cache              bounced light on a grid, see `lightcache`; one cell where there is none
view (9, 12)       rows `CAMERA` at shutter opening, `CAMERA_CHANGE` until closing, the same of the next frame, then
                   `LENS`, `PATH`, `FOG`, `LIMITS` and `CACHE`

Kernels are compiled with these numbers in place: a name costs nothing.
"""

from __future__ import annotations

SHAPE, MOVES, MATERIAL, LAMP, SURFACE, PATTERN = range(6)
"""Columns of `tags`."""

CHANGE, ONWARD = 12, 24
"""Columns of `solid`; the shape itself begins at column 0."""

COLOUR, SECOND, ROUGHNESS, REFRACTION, LIGHT, SCALE = 0, 3, 6, 7, 8, 11
"""Columns of `mats`; colours take three."""

CAMERA, CAMERA_CHANGE, NEXT_CAMERA, NEXT_CAMERA_CHANGE, LENS, PATH, FOG, LIMITS, CACHE = range(9)
"""Rows of `view`."""

ORIGIN, RIGHT, UP, FORWARD = 0, 3, 6, 9
"""Columns of the rows of cameras, three each."""

HALF_WIDTH, HALF_HEIGHT, FOCUS, LENS_RADIUS, SKY_LOW, SKY_HIGH, HALF_TURN, HALF_RISE = 0, 1, 2, 3, 4, 7, 10, 11
"""Row `LENS`: half the view at distance 1, focus distance and lens radius, colours of the sky, and half the
angles of a 360-degree picture in radians (0: a flat picture)."""

STEPS, MOST_BOUNCES, CEILING, HAS_SKY, FOG_BOUNCES = range(5)
"""Row `PATH`: shutter steps (0: a random time for each sample), bounces, brightness ceiling, sky on or off."""

BOX_LOW, BOX_HIGH, THICKNESS, FOG_COLOUR, FOG_STEP, FOG_CUT = 0, 3, 6, 7, 10, 11
"""Row `FOG`: its box (also that of row `CACHE`), extinction per unit of length at density 1, colour, step as a
share of a cell, and the share of a lamp's light below which none comes through."""

MATTE_BOUNCES, GLOSSY_BOUNCES, GLASS_BOUNCES, APPROXIMATE_AFTER, APPROXIMATE_DISTANCE, APPROXIMATE_LIGHT = range(6)
"""Row `LIMITS`: bounces by kind, bounces before bounced light is approximated (-1: never), how far it looks, its light."""
