"""What a render size does to sharpness and shimmer, told by two seeds at two sizes."""

from __future__ import annotations

import numpy as np
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.sizepairs import size_pairs_of
from hasty_reel.farm.usual import size_orders
from hasty_reel.image.resize import resize
from planted_proofs import planted_evidence, planted_proof

SIZE = (192, 108)


def _texture(rng, h: int, w: int) -> np.ndarray:
    return resize(rng.uniform(0.1, 0.5, (h // 4, w // 4, 1)).astype(np.float32), w, h)[..., 0]


@pytest.mark.parametrize("noise", [0.0, 0.003])
def test_planted_sharpness_and_shimmer_are_found_through_noise(tmp_path, noise):
    """Half of the contrast leaves half of the sharpness; shimmer of a third against one of three thirds reads a third."""
    rng = np.random.default_rng(9)
    ground = _texture(rng, 108, 192)
    large = np.repeat(np.repeat(ground, 2, 0), 2, 1)  # box shrinking gives the ground back
    restless = [0.02 * _texture(rng, 108, 192) for _ in range(3)]
    base = planted_proof(tmp_path, "p001", {1001 + k: ground + restless[k] for k in range(3)}, noise, rng)
    third = {1001 + k: large + np.repeat(np.repeat(restless[k], 2, 0), 2, 1) / 3.0 for k in range(3)}
    soft = {1001 + k: 0.3 + 0.5 * (large - 0.3) for k in range(3)}
    pair = size_pairs_of(planted_evidence(tmp_path, base, planted_proof(tmp_path, "p002", third, noise, rng)), SIZE)[0]
    assert (pair.scale, pair.frames) == (200.0, (1001, 1002, 1003))
    assert pair.sharpness == pytest.approx(1.0, abs=0.04) and pair.shimmer == pytest.approx(1 / 3, abs=0.08)
    assert pair.change == pytest.approx(0.0, abs=1.0)
    softer = size_pairs_of(planted_evidence(tmp_path, base, planted_proof(tmp_path, "p003", soft, noise, rng)), SIZE)[0]
    assert softer.sharpness == pytest.approx(0.5, abs=0.08), "L* is steeper in the dark"
    assert softer.change > 2.0


def test_what_is_left_to_chance_is_not_told(tmp_path):
    rng = np.random.default_rng(3)
    ground = _texture(rng, 108, 192)
    large = np.repeat(np.repeat(ground, 2, 0), 2, 1)
    noisy = planted_proof(tmp_path, "p001", {1001 + k: ground for k in range(3)}, 0.3, rng)
    pair = size_pairs_of(
        planted_evidence(tmp_path, noisy, planted_proof(tmp_path, "p002", {1001 + k: large for k in range(3)}, 0.3, rng)), SIZE
    )[0]
    assert pair.shimmer is None, "noise thirty times what shimmers"
    calm = planted_proof(tmp_path, "p003", {1001 + k: ground for k in range(3)}, 0.0, rng)
    still = size_pairs_of(
        planted_evidence(tmp_path, calm, planted_proof(tmp_path, "p004", {1001 + k: large for k in range(3)}, 0.0, rng)), SIZE
    )[0]
    assert still.shimmer is None and still.sharpness == pytest.approx(1.0, abs=0.03), "nothing is restless"
    alone = planted_proof(tmp_path, "p005", {1003: large}, 0.0, rng)
    assert size_pairs_of(planted_evidence(tmp_path, calm, alone), SIZE)[0].shimmer is None, "one frame tells no shimmer"
    assert size_pairs_of(planted_evidence(tmp_path, calm), SIZE) == []


def test_a_pair_is_ordered_about_the_frame_that_is_looked_at(demo_reel):
    shot = demo_reel.shot("sh010")
    orders = size_orders(shot, demo_reel.recipe_of(shot), demo_reel.picture_size, 125.0, 1001)
    assert [o.frames for o in orders] == [(1001, 1002, 1003)] * 2 and [o.scale for o in orders] == [100.0, 125.0]
    with pytest.raises(WrongInput, match="100 % is the delivered size; expected another"):
        size_orders(shot, demo_reel.recipe_of(shot), demo_reel.picture_size, 100.0, 1001)
