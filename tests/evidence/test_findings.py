"""What proofs tell: sweeps, attribution, the sheet. On effects that were planted."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hasty_reel.demo.make import demo_reel as made_reel
from hasty_reel.evidence.attribution import attribute
from hasty_reel.evidence.percent import change_percent
from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence, ProofFrame
from hasty_reel.evidence.seentable import SAMPLE_GRID
from hasty_reel.evidence.sheet import best, cards, changes_of, chosen, lineage, parents, unrest_of
from hasty_reel.evidence.sweep import find_sweep, seen_difference
from hasty_reel.reel.edits import with_mark, with_settings
from hasty_reel.settings.recipe import Recipe

BASE = Recipe(name="Final", bounces=6, shutter_steps=8)
EFFECTS = {
    ("bounces", 2): (0.7, 0.8),
    ("brightness_ceiling", 2.0): (0.98, 0.5),
    ("shutter_steps", 1): (0.9, 1.1),
    ("fog_step", 400.0): (0.6, 1.02),
}
"""Planted: factors on the time of a sample, and on noise."""


def row(recipe: Recipe, frame: int, rng: np.random.Generator, proof: str = "p001", spread: float = 0.02) -> ProofFrame:
    cost, noise = 1e-6 * (1 + 0.3 * np.sin(frame)), 0.1 * (1 + 0.2 * np.cos(frame))
    for (field, value), (time, unrest) in EFFECTS.items():
        if getattr(recipe, field) == value:
            cost, noise = cost * time, noise * unrest
    cost *= float(np.exp(rng.normal(0, spread)))
    noise *= float(np.exp(rng.normal(0, spread)))
    table = noise * np.sqrt(1 / SAMPLE_GRID)
    return ProofFrame(
        proof,
        frame,
        recipe,
        20_000,
        16,
        0.0,
        0.0,
        cost * 20_000 * 16,
        0.0,
        noise**2,
        noise**2,
        100 * table,
        table,
        0 * table,
        noise / 4,
        25 * noise,
        Path(f"{proof}.{frame}"),
    )


def varied(*changes: dict, frames: int = 3, seed: int = 1) -> list[ProofFrame]:
    rng = np.random.default_rng(seed)
    recipes = [BASE, *(msgspec.structs.replace(BASE, **c) for c in changes)]
    return [row(r, 1001 + 10 * f, rng, f"p{k:03d}") for k, r in enumerate(recipes, start=1) for f in range(frames)]


@pytest.mark.parametrize("seed", range(6))
def test_attribution_recovers_planted_effects_within_10_percent(seed):
    rows = varied(
        {"bounces": 2}, {"brightness_ceiling": 2.0}, {"shutter_steps": 1}, {"fog_step": 400.0}, {"bounces": 2, "fog_step": 400.0}, seed=seed
    )
    found = {(s.setting.field, s.after): s for s in attribute(rows).effects}
    assert set(found) == set(EFFECTS)
    for key, (time, noise) in EFFECTS.items():
        step = found[key]
        assert step.seconds == pytest.approx(time, rel=0.10) and step.noise == pytest.approx(noise, rel=0.10)
        assert step.seconds_range[0] < step.seconds < step.seconds_range[1]


def test_settings_that_were_all_changed_at_once_are_still_told_apart_where_the_proofs_allow_it():
    """One shot, many settings at a time: what each did follows from the differences between the proofs."""
    rows = varied({"bounces": 2, "fog_step": 400.0}, {"bounces": 2, "shutter_steps": 1}, {"fog_step": 400.0, "shutter_steps": 1})
    found = {(s.setting.field, s.after): s for s in attribute(rows).effects}
    for key in (("bounces", 2), ("fog_step", 400.0), ("shutter_steps", 1)):
        assert found[key].seconds == pytest.approx(EFFECTS[key][0], rel=0.10)


def test_what_always_changed_together_is_not_separated_and_a_telling_proof_is_offered():
    rows = varied({"bounces": 2, "brightness_ceiling": 2.0}, {"shutter_steps": 1})
    found = attribute(rows)
    assert [(s.setting.field, s.after) for s in found.effects] == [("shutter_steps", 1)]
    assert len(found.together) == 1
    together = found.together[0]
    assert together.words == (
        "Cannot tell bounces 6 → 2 and brightness ceiling 10 → 2 apart: they always changed together. "
        "A proof with bounces 6 → 2 alone would."
    )
    assert together.telling == msgspec.structs.replace(BASE, bounces=2)
    told = attribute([*rows, *(row(together.telling, 1001 + 10 * f, np.random.default_rng(9), "p004") for f in range(3))])
    assert told.together == () and {s.setting.field for s in told.effects} == {"bounces", "brightness_ceiling", "shutter_steps"}


@given(st.lists(st.sets(st.sampled_from(list(EFFECTS)), max_size=3), min_size=1, max_size=5))
@settings(max_examples=40)
def test_nothing_is_claimed_that_the_proofs_do_not_determine(sets):
    rows = varied(*(dict(chosen) for chosen in sets), frames=1)
    found = attribute(rows)
    design = np.array([[1.0, *(float(getattr(r.recipe, f) == v) for f, v in EFFECTS)] for r in rows])
    rank = np.linalg.matrix_rank(design)
    for k, key in enumerate(EFFECTS):
        unit = np.zeros(design.shape[1])
        unit[1 + k] = 1.0
        determined = np.linalg.matrix_rank(np.vstack([design, unit])) == rank and design[:, 1 + k].any()
        assert determined == (key in {(s.setting.field, s.after) for s in found.effects})


def test_intervals_hold_what_they_promise():
    """200 sets of five proofs with errors of 4 %: the planted effect lies in the nine-in-ten interval in 84 to 96 of 100."""
    inside = []
    for seed in range(200):
        rng = np.random.default_rng(1000 + seed)
        rows = []
        for k, bounces in enumerate((6, 2, 6, 2, 0)):
            recipe = msgspec.structs.replace(Recipe(name="a"), bounces=bounces)
            table = np.sqrt(0.01 / SAMPLE_GRID)
            seconds = {6: 1.5, 2: 1.2, 0: 1.0}[bounces] * float(np.exp(0.04 * rng.standard_normal()))
            figures = (0.01, 0.01, table, table, 0 * table, 0.1, 1.0, Path("x"))
            rows.append(ProofFrame(f"p{k}", 1001, recipe, 1000, 16, 0.0, 0.0, seconds, 0.0, *figures))
        step = next(s for s in attribute(rows).effects if s.setting.field == "bounces" and s.after == 2)
        inside.append(step.seconds_range[0] <= 1.2 / 1.5 <= step.seconds_range[1])
    assert 0.84 <= np.mean(inside) <= 0.97


def test_the_same_measured_twice_is_uncertain_and_nothing_varied_gives_nothing():
    assert attribute(varied()).effects == () and attribute([]).effects == ()
    step = attribute(varied({"bounces": 2}, frames=1)).effects[0]
    assert step.seconds_range[1] / step.seconds_range[0] > 1.1


# -- sweeps


def demo_sweep(demo_evidence):
    return find_sweep(demo_evidence["sh010"], "bounces 1", "bounces", 960)


def test_the_demo_sweep_says_from_where_on_bounces_change_nothing(demo_evidence):
    sweep = demo_sweep(demo_evidence)
    assert [p.value for p in sweep.points] == [0, 1, 2, 4, 6]
    assert sweep.points[0].off_L > 1.0 > sweep.points[-2].off_L, "from 0 bounces on it differs, near the full count it does not"
    assert sweep.enough in (1, 2, 4)
    assert sweep.finding.startswith(f"Bounces beyond {sweep.enough} change nothing you can see (")
    assert ", and going to 6 costs " in sweep.finding


def test_noise_is_not_taken_for_a_difference():
    rng = np.random.default_rng(4)
    clean = np.full((64, 96, 3), 0.2)

    def seeds(base):
        return [np.maximum(0, base + 0.08 * rng.normal(size=base.shape[:2])[..., None]) for _ in range(2)]

    same = seen_difference(seeds(clean), seeds(clean))
    brighter = seen_difference(seeds(clean), seeds(clean * 1.25))
    truth = 116 * ((0.25) ** (1 / 3) - 0.2 ** (1 / 3))
    assert brighter == pytest.approx(truth, rel=0.3) and same < 0.3 * brighter
    assert seen_difference([clean], [clean]) == 0.0


def test_a_sweep_of_samples_is_told_in_noise_and_percent(demo_evidence):
    evidence = demo_evidence["sh010"]
    few = replace(
        evidence, proofs=tuple(msgspec.structs.replace(p, sweep="samples 1") if p.id in ("p001", "p003") else p for p in evidence.proofs)
    )
    sweep = find_sweep(few, "samples 1", "samples", 960)
    assert sweep.finding.startswith("Samples from") and "% time, noise" in sweep.finding
    assert find_sweep(few, "none 1", "bounces", 960).finding.startswith("No proof of this sweep")


def test_percentages_are_of_what_was_there_before():
    """Common practice, no source: 24 s becoming 36 s is +50 %, not +33 %."""
    assert change_percent(24.0, 36.0) == 50.0


# -- the sheet


def test_cards_say_what_changed_against_their_parent(demo_evidence):
    reel = made_reel()
    found = cards(demo_evidence["sh010"], reel.shot("sh010"), reel)
    assert len(found) >= 12
    by_id = {c.proof.id: c for c in found}
    assert by_id["p001"].parent == "" and "bounces 6 → 0" in by_id["p003"].changes
    run = by_id["p002"]
    assert len(run.rows) == 9 and run.flicker_L > 0 and np.isfinite(run.seen)
    assert lineage(found, "p009")[-1] == "p001"


def proof(number: int, parent: str = "", **changes) -> Proof:
    lines = {k: v for k, v in changes.items() if k not in ("samples", "width", "draft")}
    return Proof(
        id=f"p{number:03d}", shot="sh010", made="2026-11-25T00:00:00+00:00", recipe=msgspec.structs.replace(BASE, **lines),
        width=changes.get("width", 100), height=50, samples=changes.get("samples", 16), parent=parent, draft=changes.get("draft", ""),
    )  # fmt: skip


def test_the_parent_is_the_one_named_or_the_likest_earlier_one():
    first, other = proof(1), proof(2, bounces=2)
    child = proof(3, bounces=2, brightness_ceiling=None, samples=32)
    assert parents([first, other, child])[2] is other
    assert changes_of(child, other) == ["brightness ceiling 10 → none", "samples 16 → 32"]
    assert parents([first, other, msgspec.structs.replace(child, parent="p001")])[2] is first
    assert parents([first]) == [None]
    assert changes_of(proof(4, draft="Look", width=50), first) == ["size 100 × 50 → 50 × 50", "draft cut none → Look"]


def test_cards_are_filtered_and_sorted(demo_evidence):
    reel = with_mark(with_mark(made_reel(), "sh010", "p004", star=True, note="Calm enough"), "sh010", "p005", away=True)
    found = cards(demo_evidence["sh010"], reel.shot("sh010"), reel)
    assert [c.proof.id for c in chosen(found, starred=True)] == ["p004"]
    assert [c.proof.id for c in chosen(found, "calm")] == ["p004"]
    assert [c.proof.id for c in chosen(found, away=True)] == ["p005"]
    assert "p005" not in {c.proof.id for c in chosen(found)}
    assert {c.proof.id for c in chosen(found, "brightness none")} >= {"p006"}
    for by, value in (("seconds", lambda c: c.seconds), ("noise", lambda c: c.noise_L), ("seen flicker", lambda c: c.seen)):
        values = [value(c) for c in chosen(found, by=by)]
        assert values == sorted(values)
    assert chosen(found)[0].number > chosen(found)[-1].number


def test_the_best_trade_offs_are_those_that_none_beats(demo_evidence):
    reel = made_reel()
    found = cards(demo_evidence["sh020"], reel.shot("sh020"), reel)
    for unrest in ("noise", "seen flicker"):
        front = best(found, unrest)
        assert front
        for card in found:
            if not np.isfinite(unrest_of(card, unrest)) or card.proof.small > 1:
                continue
            beaten = any(b.seconds <= card.seconds and unrest_of(b, unrest) <= unrest_of(card, unrest) for b in front)
            assert beaten
        assert all(a.seconds < b.seconds and unrest_of(a, unrest) > unrest_of(b, unrest) for a, b in pairwise(front))


def test_a_proof_that_is_put_away_is_no_evidence_any_more(demo_evidence):
    evidence = demo_evidence["sh010"]
    left = evidence.without({"p002"})
    assert all(r.proof != "p002" for r in left.frames) and "p002" not in left.effects_of and 0 < len(left.effects) < len(evidence.effects)
    assert evidence.without(frozenset()) is evidence


def test_the_settings_of_a_proof_become_the_recipe_in_one_step():
    reel = made_reel()
    settings_ = msgspec.structs.replace(reel.recipe("Final"), bounces=1, samples_floor=999, samples_ceiling=999, name="other")
    new = with_settings(reel, "sh020", settings_)
    assert new.recipe("Final").bounces == 1 and new.recipe("Final").samples_floor == 16, "the budget's floor stays"
    assert new.shot("sh020").departures == {}


def test_thousands_of_proofs_are_laid_out_quickly():
    import time

    rng = np.random.default_rng(1)
    proofs = tuple(proof(k, bounces=k % 7) for k in range(2000))
    rows = tuple(row(p.recipe, 1001, rng, p.id) for p in proofs)
    reel = made_reel()
    began = time.perf_counter()
    found = cards(Evidence(rows, (), proofs), reel.shot("sh010"), reel)
    assert len(found) == 2000 and time.perf_counter() - began < 5
