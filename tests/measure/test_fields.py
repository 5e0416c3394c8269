"""Unrest over a picture as one figure: of the field of view where it is most, told without the luck of a maximum."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.ndimage import uniform_filter

from hasty_reel.measure.fields import BLOCKS, field_means, seen_in_all, seen_in_fields, told_by_halves


def test_even_unrest_is_the_figure_and_of_a_spot_its_share_of_a_field():
    assert seen_in_fields(np.full((9, 16), 2.0)) == pytest.approx(2.0)
    spot = np.zeros((9, 16))
    spot[4, 4] = 5.0
    assert seen_in_fields(spot) == pytest.approx(5.0 / BLOCKS)  # one of 25 blocks, by its power
    half = np.zeros((9, 16))
    half[:, 8:] = 3.0
    assert seen_in_fields(half) == pytest.approx(3.0), "a calm half does not make up for the other"


def test_fields_are_those_of_a_general_library():
    """scipy.ndimage.uniform_filter, where all of a field is inside."""
    power = np.random.default_rng(1).random((11, 17))
    np.testing.assert_allclose(field_means(power, 5, 5), uniform_filter(power, 5)[2:-2, 2:-2], rtol=1e-9)


def test_what_is_not_known_is_left_out():
    blocks = np.full((6, 6), 2.0)
    blocks[0, 0] = np.nan
    assert seen_in_fields(blocks) == pytest.approx(2.0)
    assert np.isnan(seen_in_fields(np.full((3, 3), np.nan))) and np.isnan(seen_in_all([]))
    assert seen_in_all([np.full((5, 5), 1.0), np.full((5, 5), 3.0)]) == pytest.approx(3.0)


def test_one_half_chooses_and_the_other_tells():
    """Even power told with a spread of a third: the largest of 150 fields is far above it, what the halves tell is not."""
    rng = np.random.default_rng(2)
    told, largest = [], []
    for _ in range(200):
        halves = rng.gamma(9.0, 1.0 / 9.0, (2, 12, 20))
        told.append(told_by_halves(halves, 3, 3))
        largest.append(np.max(field_means(halves.mean(axis=0), 3, 3)))
    assert np.mean(told) == pytest.approx(1.0, abs=0.02) and np.mean(largest) > 1.15
