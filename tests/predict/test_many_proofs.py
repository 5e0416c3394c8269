"""Thousands of proofs: the same answers as the textbook way, without its cost."""

from __future__ import annotations

import math
import os

import msgspec
import numpy as np
import pytest

from hasty_reel.evidence.attribution import MOST_CHANGES, attribute
from hasty_reel.evidence.rows import Evidence, EvidenceReader, ProofFrame
from hasty_reel.evidence.seentable import SAMPLE_GRID
from hasty_reel.evidence.settings import within_levels
from hasty_reel.evidence.sheet import changes_of, parents
from hasty_reel.predict.factors import fit_factor
from hasty_reel.predict.model import ShotModel
from hasty_reel.settings.recipe import Recipe


def row(frame: int, proof: str, cost: float, variance: float, **settings) -> ProofFrame:
    table = np.sqrt(variance / SAMPLE_GRID)
    recipe = msgspec.structs.replace(Recipe(name="a"), **settings)
    return ProofFrame(
        proof, frame, recipe, 1000, 16, 0.1, 0.0, cost * 16000, 0.01, variance, variance, table, table, 0.0 * table, 0.1, 1.0, None
    )  # type: ignore[arg-type]


def many_rows(count: int) -> list[ProofFrame]:
    rng = np.random.default_rng(3)
    rows = []
    for k in range(count):
        bounces, ceiling = int(rng.choice([1, 2, 4, 6])), float(rng.choice([1.0, 2.0, 10.0]))
        frame = 1001 + int(rng.integers(0, 96))
        noise = float(np.exp(rng.normal(0, 0.02)))
        cost = 1e-6 * (1 + 0.2 * bounces) * (1 + frame % 7) * noise
        rows.append(row(frame, f"p{k:05d}", cost, 0.02 * ceiling**0.5 * noise, bounces=bounces, brightness_ceiling=ceiling))
    return rows


def test_taking_levels_out_gives_what_a_column_for_each_level_gives():
    """Frisch and Waugh 1933, Econometrica 1, 387-401: the coefficients of the partial regression are those of the whole."""
    rng = np.random.default_rng(8)
    level = rng.integers(0, 9, 60)
    design, side = rng.normal(size=(60, 4)), rng.normal(size=60)
    dummies = np.eye(9)[level]
    whole = np.linalg.lstsq(np.hstack([design, dummies]), side, rcond=None)[0][:4]
    partial = np.linalg.lstsq(within_levels(design, level), within_levels(side, level), rcond=None)[0]
    assert partial == pytest.approx(whole)


def test_the_factor_of_a_setting_is_found_among_thousands():
    factor = fit_factor(many_rows(4000), "bounces")
    assert factor is not None
    for bounces in (2, 4, 6):
        assert factor.log_cost(bounces) - factor.log_cost(1) == pytest.approx(math.log((1 + 0.2 * bounces) / 1.2), abs=0.01)


def test_attribution_of_thousands_names_each_change():
    found = attribute(many_rows(4000))
    seconds = {(s.setting.field, s.before, s.after): s.seconds for s in found.effects}
    assert found.together == () and len(seconds) == 5
    for (field, before, after), factor in seconds.items():
        expected = (1 + 0.2 * after) / (1 + 0.2 * before) if field == "bounces" else 1.0
        assert factor == pytest.approx(expected, rel=0.02)


def test_of_thousands_of_different_values_the_commonest_are_attributed():
    rows = [row(1001, f"p{k}", 1e-6, 0.01, brightness_ceiling=1.0 + k) for k in range(1000)]
    rows += [row(1001, f"q{k}", 2e-6, 0.01, brightness_ceiling=1.0, bounces=3) for k in range(50)]
    found = attribute(rows)
    assert len(found.effects) <= MOST_CHANGES
    assert next(s for s in found.effects if s.setting.field == "bounces").seconds == pytest.approx(2.0, rel=1e-6)


def test_shots_that_share_their_proofs_share_what_was_read(demo_path, demo_reel):
    one = demo_reel.shot("sh010")
    shots = [msgspec.structs.replace(one, id=f"s{k}", evidence="sh010") for k in range(500)]
    found = EvidenceReader().read_all(demo_path.parent / "proofs", [*shots, msgspec.structs.replace(one, offset=100)])
    assert len({id(e) for e in found.values()}) == 2 and len(found) == 501
    assert found["sh010"].frames[0].frame == found["s0"].frames[0].frame + 100


def test_a_model_of_many_recipes_gives_each_frame_its_nearest(demo_reel, demo_evidence):
    """Rows of the recipe itself count where a frame has them; the figures are those of these rows alone."""
    rows = [row(f, f"p{f}", 1e-6 * f, 0.01, bounces=6) for f in range(1001, 1097, 5)]
    rows += [row(f, f"q{f}", 9e-6 * f, 0.05, bounces=1) for f in range(1001, 1097, 5)]
    evidence = Evidence(tuple(rows))
    model = ShotModel(evidence, range(1001, 1097))
    at = model.at(Recipe(name="a", bounces=6))
    assert at.cost[::5] == pytest.approx([1e-6 * f for f in range(1001, 1097, 5)], rel=0.02)
    assert model.at(Recipe(name="a", bounces=1)).variance == pytest.approx(0.05, rel=0.02)


def test_a_proof_varies_the_one_most_alike_before_it(demo_evidence):
    proofs = list(demo_evidence["sh010"].proofs)
    again = [msgspec.structs.replace(p, id=f"x{k}", parent="") for k, p in enumerate(proofs * 3)]
    found = parents(again)
    assert found[0] is None and all(f is not None for f in found[1:])
    # the second round repeats the first: each finds a twin of the first round
    assert all(changes_of(p, f) == [] for p, f in zip(again[len(proofs) :], found[len(proofs) :]) if f is not None)


def test_effects_that_are_no_text_are_told(tmp_path):
    from hasty_reel.errors import ReelError
    from hasty_reel.evidence.proof import DENOISE, read_effects

    (tmp_path / DENOISE).write_bytes(os.urandom(3) + b"\xff\xfe[")
    with pytest.raises(ReelError, match=DENOISE):
        read_effects(tmp_path)
