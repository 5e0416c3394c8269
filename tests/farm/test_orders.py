"""What a proof run tells of both orders of finishing: denoised, then resized; and resized, then denoised."""

from __future__ import annotations

import msgspec
import pytest

from hasty_reel.evidence.proof import read_effects
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import make_proof
from hasty_reel.reel.file import read_reel


@pytest.mark.parametrize("scale", [100.0, 50.0])
def test_a_run_tries_both_orders_where_frames_are_resized(small_path, tmp_path, scale):
    reel = read_reel(small_path)
    shot = reel.shot("sh010")
    recipe = msgspec.structs.replace(reel.recipe_of(shot), render_scale=scale, denoise_window=3, denoise_thorough=0)
    order = ProofOrder(shot, recipe, tuple(range(1001, 1006)), 4, 50.0)
    proof = make_proof(reel, tmp_path, order)
    effects = read_effects(tmp_path / "sh010" / proof.id)
    assert any(e.window == 3 and not e.chain for e in effects)
    other = [e for e in effects if e.chain]
    if scale == 100.0:
        assert not other, "nothing is resized: both orders are one"
        return
    assert [e.chain for e in other] == [f"resize from 50 % > denoise 3 quick {recipe.denoise_strength:g} %"]
    assert other[0].frame == 1003.0 and 0 < other[0].noise_ratio < 1 and other[0].seconds_per_pixel > 0
