"""A costly view through a table, against OpenColorIO's own way through the view."""

from __future__ import annotations

import numpy as np
import pytest

from hasty_reel.demo import SOURCE
from hasty_reel.errors import WrongInput
from hasty_reel.pictures.colour import PLAIN, codes8, dithered8, through_view, views
from hasty_reel.pictures.frame import read_picture
from hasty_reel.pictures.quickview import is_costly, quick_view

ACES = next(v for v in views() if v.startswith("ACES"))


def test_only_a_view_that_is_more_than_curves_and_matrices_takes_the_table():
    assert [v for v in views() if is_costly(v)] == [ACES]
    light = np.linspace(0, 2, 300, dtype=np.float32).reshape(10, 10, 3)
    np.testing.assert_array_equal(quick_view(light, PLAIN), through_view(light, PLAIN))
    with pytest.raises(WrongInput, match="No view 'dusk'"):
        quick_view(light, "dusk")


@pytest.mark.parametrize("stops", [-4, 0, 3])
def test_the_table_is_within_half_an_eight_bit_code_on_a_picture(stops):
    path = min((SOURCE / "proofs" / "sh010" / "p001").glob("*.s1.exr"))
    light = read_picture(path).rgb * np.float32(2.0**stops)
    apart = np.abs(np.clip(quick_view(light, ACES), 0, 1) - np.clip(through_view(light, ACES), 0, 1)) * 255
    assert np.percentile(apart, 99.9) < 0.5 and apart.max() < 1.5
    shown = np.abs(dithered8(quick_view(light, ACES)).astype(int) - codes8(light, ACES))
    assert shown.max() <= 2 and (shown > 0).mean() < 0.15


def test_saturated_colours_stay_near_and_what_is_no_light_stays_in_bounds():
    rs = np.random.RandomState(3)
    light = (rs.uniform(size=(64, 64, 3)) ** 4 * 8).astype(np.float32)
    apart = np.abs(np.clip(quick_view(light, ACES), 0, 1) - np.clip(through_view(light, ACES), 0, 1)) * 255
    assert np.percentile(apart, 95) < 1.0
    odd = np.array([[[-1.0, 0, 0], [1e9, 1e9, 1e9], [0, 0, 0]]], np.float32)
    got = quick_view(odd, ACES)
    assert np.isfinite(got).all() and got[0, 1] == pytest.approx(through_view(odd, ACES)[0, 1], abs=0.02)
    assert np.abs(got[0, 2]).max() < 2 / 255
