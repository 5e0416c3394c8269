"""A renderer that tells one number of seconds: its start told apart, by scans too, and nothing promised where it is not.

Seconds are made by formula, start + work times cost, with errors of a few percent, so that what is right is known."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from hasty_reel.evidence.proof import ProofPicture
from hasty_reel.evidence.rows import Evidence, ProofFrame, quiet_share
from hasty_reel.evidence.seentable import SAMPLE_GRID
from hasty_reel.farm.forecast import start_words, telling_scan
from hasty_reel.farm.nextproof import next_proof
from hasty_reel.farm.usual import scan_order
from hasty_reel.measure.varianceshares import WEIGHTS
from hasty_reel.plan.heldback import HeldBack, HeldFrame, held_back
from hasty_reel.plan.shot import plan_shot
from hasty_reel.plan.time.deadline import deadline
from hasty_reel.predict.growth import fixed_part, parts_told
from hasty_reel.predict.model import ShotModel
from hasty_reel.predict.tables import falling
from hasty_reel.reel.edits import with_frames, with_hold, with_size
from hasty_reel.reel.shot import Hold

START, COST, SIZE, FRAMES = 2.0, 2e-6, (320, 180), 40
FALLING = tuple((0.5 / np.sqrt(SAMPLE_GRID)).tolist())


def cost_at(frame: float) -> float:
    """Seconds a pixel and sample: twice as dear in the middle of the shot."""
    return COST * (1.0 + np.exp(-(((frame - 20) / 6.0) ** 2)))


def shown(recipe, frame: int, scale: float, samples: int, rng, *, scan: bool = False, one_number: bool = True, error: float = 0.03):
    """A proof frame whose seconds follow the formula."""
    pixels = int(SIZE[0] * scale / 100) * int(SIZE[1] * scale / 100)
    seconds = (START + cost_at(frame) * pixels * samples) * np.exp(error * rng.standard_normal())
    variance = np.nan if scan else 0.04
    table = np.full(len(SAMPLE_GRID), np.nan) if scan else np.array(FALLING)
    return ProofFrame(
        "scan" if scan else f"{scale:g} {samples}", frame + 1001, recipe, pixels, samples, 0.0, 0.0, seconds, 0.004, variance, variance,
        table, table, 0.0 * table, 0.1, 1.0, Path("x"), apart=np.nan if scan else error * np.sqrt(2) * rng.standard_normal(), scan=scan,
        one_number=one_number, variance_shares=np.ones(len(WEIGHTS)),
    )  # fmt: skip


@pytest.fixture
def shot(demo_reel):
    """A reel with a shot of forty frames, and the evidence of it that some proofs make."""
    held = with_hold(demo_reel, "sh010", Hold(kind="noise", value=0.0075))
    reel = with_size(with_frames(held, "sh010", 1001, 1000 + FRAMES), *SIZE)

    def evidence(*proofs, seed=1):
        rng, recipe = np.random.default_rng(seed), reel.recipe_of(reel.shot("sh010"))
        return Evidence(tuple(shown(recipe, f, scale, n, rng, scan=scan) for frames, scale, n, scan in proofs for f in frames))

    return reel, reel.shot("sh010"), evidence


SPREAD, ALL = (0, 9, 20, 31, 39), tuple(range(0, FRAMES, 2))


def total(model: ShotModel, samples: int) -> float:
    at = model.at(model.rows[0].recipe, float(np.prod(SIZE)))
    return float(np.sum(at.cost * np.prod(SIZE) * samples + at.fixed.mean))


def real(samples: int) -> float:
    return float(sum(START + cost_at(f) * np.prod(SIZE) * samples for f in range(FRAMES)))


def test_our_own_time_of_writing_does_not_tell_the_parts_of_a_renderer(shot):
    _, _, evidence = shot
    rows = evidence((SPREAD, 50.0, 16, False)).frames
    assert all(r.write_seconds > 0 for r in rows) and not parts_told(rows)
    assert parts_told([replace(r, load_seconds=1.0, one_number=False) for r in rows])


def test_settings_that_make_a_sample_dearer_are_not_taken_for_a_start(shot):
    """Small frames at four times the cost of large ones, and the logarithm by which they differ is told."""
    _, shot, evidence = shot
    rows = list(evidence((SPREAD, 25.0, 16, False), (SPREAD, 100.0, 16, False)).frames)
    work = [r.pixels * r.samples for r in rows]
    dear = np.array([np.log(4.0) if r.pixels < 10_000 else 0.0 for r in rows])
    changed = [replace(r, sample_seconds=START + cost_at(r.frame - 1001) * w * np.exp(d)) for r, w, d in zip(rows, work, dear)]
    assert fixed_part(changed, dear).mean == pytest.approx(START, rel=0.03)


@pytest.mark.parametrize("seed", range(6))
def test_two_sizes_tell_the_start_and_the_total_is_right(shot, seed):
    """Within 15 % of what the formula says, for finals of four times the samples of any proof."""
    _, shot, evidence = shot
    model = ShotModel(evidence((SPREAD, 25.0, 16, False), (SPREAD, 100.0, 16, False), seed=seed), shot.frames)
    at = model.at(model.rows[0].recipe, float(np.prod(SIZE)))
    assert at.fixed.known and at.fixed.mean == pytest.approx(START, rel=0.06)
    assert total(model, 64) == pytest.approx(real(64), rel=0.15)


def test_a_scan_that_is_nearly_all_start_tells_the_start_and_nothing_of_the_frames(shot):
    _, shot, evidence = shot
    only = evidence((SPREAD, 50.0, 64, False))
    alone, scanned = (ShotModel(e, shot.frames) for e in (only, Evidence((*only.frames, *evidence((ALL, 10.0, 1, True)).frames))))
    assert not alone._fixed(alone.rows[0].recipe).known and scanned._fixed(scanned.rows[0].recipe).known
    assert scanned.scan is None and scanned.blind_scan and not alone.blind_scan
    assert scanned._fixed(scanned.rows[0].recipe).mean == pytest.approx(START, rel=0.05)
    assert total(scanned, 64) == pytest.approx(real(64), rel=0.15)


def test_a_scan_whose_seconds_grow_shows_the_frames_between_proofs(shot):
    _, shot, evidence = shot
    proofs = (((0, 9, 31, 39), 25.0, 16, False), ((0, 9, 31, 39), 100.0, 64, False), (ALL, 25.0, 256, True))
    found = ShotModel(evidence(*proofs), shot.frames)
    assert found.scan is not None and not found.blind_scan
    at = found.at(found.rows[0].recipe, float(np.prod(SIZE)))
    assert at.cost[20] / at.cost[2] == pytest.approx(cost_at(20) / cost_at(2), rel=0.15), "no proof has looked at the hump"


def test_where_the_start_is_not_told_nothing_is_promised_and_the_next_proof_tells_it(shot):
    reel, shot, evidence = shot
    model = ShotModel(evidence((SPREAD, 50.0, 16, False)), shot.frames)
    plan = plan_shot(reel, shot, model)
    when = deadline(reel, {"sh010": plan}, reel.due_time.replace(year=2026), [shot])
    assert "no 9 in 10" in plan.untold_words and not when.promised and when.untold == ("sh010",) and when.ready == when.sure5
    found = next_proof(reel, plan, model)
    assert found is not None and "fixed seconds are not told from growing ones" in found.words
    growing = cost_at(20) * found.orders[0].samples * np.prod(SIZE) * (found.orders[0].scale / 100) ** 2
    assert growing > 0.4 * START, "enough of it grows to tell"
    scale, samples, frame = found.orders[0].scale, found.orders[0].samples, found.orders[0].frames[0] - 1001
    then = ShotModel(Evidence((*model.evidence.frames, *evidence(((frame,), scale, samples, False), seed=2).frames)), shot.frames)
    told = plan_shot(reel, shot, then)
    assert told.untold_words == "" and deadline(reel, {"sh010": told}, reel.due_time.replace(year=2026), [shot]).promised


def test_a_scan_is_made_large_enough_to_tell_and_says_what_its_starts_take(shot):
    reel, shot, evidence = shot
    plan = plan_shot(reel, shot, ShotModel(evidence((SPREAD, 25.0, 16, False), (SPREAD, 100.0, 16, False)), shot.frames))
    small = scan_order(shot, plan.recipe, SIZE)
    order = telling_scan(small, plan, SIZE)
    growing = COST * order.samples * np.prod(SIZE) * (order.scale / 100) ** 2
    assert growing / (growing + START) > 0.2 > COST * small.samples * np.prod(SIZE) * (small.scale / 100) ** 2 / START
    long = replace(small, frames=tuple(range(1001, 1041)) * 3)
    assert "are starts of the renderer: 24 frames, every 5. of them" in start_words(long, plan, SIZE)
    quick = replace(plan, frame_model=replace(plan.frame_model, fixed=fixed_part((), np.zeros(0)), load_seconds=0.0))
    assert start_words(long, quick, SIZE) == ""


@pytest.mark.parametrize(
    "frames, words",
    [
        ([(1.4, "p1", 100), (1.4, "p1", 100), (1.0, "p2", 900), (1.0, "p2", 900)], "differ between the sizes"),
        ([(1.5, "p1", 900), (1.4, "p1", 900), (1.0, "p2", 900), (1.02, "p2", 900)], "repeat proof p1"),
        ([(1.5, "p1", 900), (0.7, "p1", 900), (1.4, "p1", 900), (0.7, "p1", 900)], "a scan tells how"),
    ],
)
def test_the_advice_of_the_held_back_check_follows_from_what_failed(frames, words):
    held = tuple(HeldFrame(float(k), s, 1.0, 1.0, False, False, proof, pixels) for k, (s, proof, pixels) in enumerate(frames))
    assert words in HeldBack(held).mend
    assert "the next best proof tells them apart" in HeldBack(held, untold=True).mend
    assert "scan tells" not in HeldBack(held, scanned=True).mend.replace("The scan tells nothing", "")


def test_the_held_back_check_knows_that_the_start_is_not_told(shot):
    _, shot, evidence = shot
    assert held_back(evidence((SPREAD, 50.0, 16, False)), list(shot.frames)).untold
    assert not held_back(evidence((SPREAD, 25.0, 16, False), (SPREAD, 100.0, 64, False)), list(shot.frames)).untold


def picture(sampled: float, cpu: float, seed: int) -> ProofPicture:
    return ProofPicture(frame=1, seed=seed, file="a", load_seconds=0.0, sample_seconds=sampled, write_seconds=0.0, cpu_seconds=cpu)


def test_a_seed_that_waited_for_a_processor_does_not_count():
    """Two seeds are the same work: of 10 s and 16 s at equal processor seconds the frame takes 10."""
    assert quiet_share([picture(10.0, 9.5, 1), picture(16.0, 9.5, 2)]) * 13.0 == pytest.approx(10.0)
    assert quiet_share([picture(10.0, 9.5, 1), picture(10.2, 9.5, 2)]) == 1.0, "as good as alike"
    assert quiet_share([picture(10.0, 9.5, 1)]) == 1.0 and quiet_share([picture(10.0, 0.0, 1), picture(16.0, 0.0, 2)]) == 1.0


def test_a_table_nowhere_rises_with_the_samples():
    table = np.array([[3.0, 5.0, 4.0, 4.5, 1.0]])
    assert falling(table).tolist() == [[5.0, 5.0, 4.5, 4.5, 1.0]]


def test_seen_flicker_of_a_plan_nowhere_rises_with_the_samples(demo_reel, demo_evidence):
    for shot in demo_reel.shots:
        model = ShotModel(demo_evidence[shot.id], shot.frames)
        seen = [
            plan_shot(demo_reel, shot, model, samples=np.full(len(shot.frames), n)).seen_flicker for n in (8, 12, 16, 32, 64, 200, 1000)
        ]
        assert np.all(np.diff(seen, axis=0) <= 1e-9), shot.id
