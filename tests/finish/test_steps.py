"""Surfaces followed step by step: a camera that comes nearer, silhouettes, holes; lights that are filtered together."""

from __future__ import annotations

import numpy as np

from hasty_reel.finish.atrous import STRIP, Lit, atrous, atrous_together
from hasty_reel.finish.gather import ways
from hasty_reel.finish.steps import SURE, against, step_between
from hasty_reel.finish.surfaces import NO_SURFACES, Surfaces, surfaces_of
from hasty_reel.pictures.frame import Picture

SIZE = (60, 90)
NAMES = ("albedo.R", "albedo.G", "albedo.B", "normal.X", "normal.Y", "normal.Z", "Z")


def wall(depth: np.ndarray | float, albedo: np.ndarray | float = 0.5) -> Surfaces:
    """A wall that faces the camera."""
    planes = dict.fromkeys(NAMES, np.zeros(SIZE, np.float32)) | {"Z": np.full(SIZE, depth, np.float32)}
    planes |= {n: np.full(SIZE, albedo, np.float32) for n in NAMES[:3]}
    return surfaces_of(Picture(np.zeros((*SIZE, 3), np.float32), planes))


def test_a_camera_that_comes_nearer_loses_no_surface_over_ten_frames():
    """Two in a hundred a frame: after ten frames depth differs by a fifth, far beyond what is one surface."""
    walls = [wall(5.0 * 0.98**k) for k in range(11)]

    def step(k, way):
        return step_between(walls[k], walls[k + way], None, None, None, SIZE)

    seen = {n: trust.copy() for n, _, _, trust in ways(0, 10, range(11), step, SIZE)}
    assert sorted(seen) == list(range(1, 11)) and all(t.min() == SURE for t in seen.values())
    assert np.all(step_between(walls[0], walls[10], None, None, None, SIZE).trust < SURE), "at once it is too far"


def test_what_comes_before_the_wall_is_another_surface():
    """A board as near as the camera never comes in one frame; and a board of the same depth and another colour."""
    depth, colour = np.full(SIZE, 5.0), np.full(SIZE, 0.5)
    depth[20:40, 30:60] = 4.0
    colour[20:40, 30:60] = 0.9
    for other in (wall(depth), wall(5.0, colour)):
        trust = step_between(wall(5.0), other, None, None, None, SIZE).trust
        assert trust[22:38, 32:58].max() == 0 and trust[:18].min() == SURE


def test_a_way_is_as_sure_as_its_least_sure_step_and_leads_over_no_gap():
    plain, marked = wall(5.0), wall(5.0, np.where(np.arange(SIZE[1]) < 45, 0.5, 0.62)[None, :].repeat(SIZE[0], 0))
    surfaces = {0: plain, 1: plain, 2: marked, 3: plain, 5: plain}

    def step(k, way):
        return step_between(surfaces[k], surfaces[k + way], None, None, None, SIZE)

    seen = {n: trust.copy() for n, _, _, trust in ways(0, 5, surfaces, step, SIZE)}
    assert sorted(seen) == [1, 2, 3]
    assert seen[1].min() == SURE
    assert 0 <= seen[2][30, 70] < SURE and seen[3][30, 70] == seen[2][30, 70] and seen[3][30, 20] == SURE


def test_where_the_way_back_ends_elsewhere_nothing_is_trusted():
    moves = np.zeros((*SIZE, 2), np.float32)
    moves[:, 40:, 0] = 4.0  # the right half goes four pixels on
    there = step_between(NO_SURFACES, NO_SURFACES, moves, against(moves), None, SIZE)
    assert there.trust[:, 50:80].min() == SURE and there.trust[:, :30].min() == SURE
    assert there.strict[30, 40] < 0.2 * SURE < there.strict[30, 10], "stricter where motion differs"
    back = step_between(NO_SURFACES, NO_SURFACES, against(moves), moves, None, SIZE)
    assert back.trust[30, 41:43].max() < SURE, "what was uncovered came from nowhere"


def test_motion_found_in_the_pictures_leads_along_a_surface_and_not_onto_another():
    """A highlight that stays while its floor moves is followed; a ball that rolls into its way is not taken for it, and leaves no ghost."""
    rng = np.random.default_rng(4)
    moves, everywhere = np.zeros((*SIZE, 2), np.float32), np.ones(SIZE, np.bool_)
    floor = {n: np.full(SIZE, 0.5, np.float32) for n in NAMES}
    textured = {**floor, "albedo.R": rng.uniform(0.1, 0.9, SIZE).astype(np.float32)}
    curved = {**floor, "normal.X": (floor["normal.X"] + 0.2).astype(np.float32)}
    ball = {n: p.copy() for n, p in floor.items()}
    ball["Z"][10:30, 20:40], ball["normal.X"][10:30, 20:40] = 0.4, -0.8
    here, *others = (surfaces_of(Picture(np.zeros((*SIZE, 3), np.float32), g)) for g in (floor, textured, curved, ball))
    texture, curve, behind = (step_between(here, there, moves, moves, everywhere, SIZE).trust for there in others)
    assert texture.min() == SURE and curve.min() > 0.4 * SURE
    assert behind[12:28, 22:38].max() == 0 and behind[40:, 60:].min() == SURE


def test_lights_filtered_together_are_what_each_is_alone():
    """In more than one strip; and a strip's seam is not in the picture."""
    rng = np.random.default_rng(3)
    h, w = STRIP + 70, 40
    guides = {n: (0.5 + 0.01 * rng.standard_normal((h, w))).astype(np.float32) for n in NAMES}
    surfaces = surfaces_of(Picture(np.zeros((h, w, 3), np.float32), guides))
    light = (0.4 + 0.05 * rng.standard_normal((h, w, 3))).astype(np.float32)
    variance = np.full((h, w), 0.05**2, np.float32)
    lights = [Lit(light, variance, 3.0), Lit(0.5 * light, variance / 4.0, 6.0)]
    together = atrous_together(lights, surfaces)
    for lit, (made, centre) in zip(lights, together):
        alone, share = atrous(lit.light, lit.variance, surfaces, lit.strength)
        assert np.array_equal(made, alone) and np.array_equal(centre, share)
    # rows around the seam, filtered as the middle of a picture that has no seam there
    near = slice(STRIP - 100, STRIP + 70)
    part = surfaces_of(Picture(np.zeros((170, w, 3), np.float32), {n: g[near] for n, g in guides.items()}))
    again, _ = atrous(light[near], variance[near], part, 3.0)
    assert np.allclose(together[0][0][STRIP - 10 : STRIP + 10], again[90:110], atol=2e-6)
    assert together[0][0].std() < 0.35 * light.std()
