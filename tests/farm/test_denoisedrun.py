"""Runs that tell what denoising does: a part of each frame, as dense as planned."""

from __future__ import annotations

import json

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import RendererFault, WrongInput
from hasty_reel.evidence.places import noisiest_place
from hasty_reel.evidence.proof import read_proof
from hasty_reel.evidence.rows import Evidence, EvidenceReader
from hasty_reel.evidence.sheet import unmarked
from hasty_reel.evidence.sides import sides_of
from hasty_reel.farm.forecast import order_seconds
from hasty_reel.farm.nextproof import next_proof
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.farm.renderers.links import BENCH, BY_COMMAND, Link
from hasty_reel.farm.usual import CROP, DENOISED_RUN, denoising_orders
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.studio.proofs.cardtext import figures_of


def test_they_are_two_parts_as_dense_as_planned_within_the_frame_and_the_shot(demo_reel):
    shot = demo_reel.shot("sh020")
    recipe, size = demo_reel.recipe_of(shot), demo_reel.picture_size
    order, other = (o.checked() for o in denoising_orders(shot, recipe, size, 1036, 24.4, (0.9, 0.1)))
    assert order.frames == other.frames == tuple(range(1030, 1043)) and len(order.frames) == DENOISED_RUN
    assert (order.samples, order.scale, order.seeds, order.tiles) == (24, 100.0, 2, 1)
    assert order.crop == (960 - 192, 0, *CROP) and other.crop == (384, 216, *CROP) and order.pixels(size) == CROP[0] * CROP[1]
    early, late = (denoising_orders(shot, recipe, size, frame, 500.0, (0.5, 0.55)) for frame in (1001, 1072))
    assert early[0].frames[0] == 1001 and early[0].samples == 64 and late[0].frames[-1] == 1072
    assert len(early) == 1, "both parts would show the same"
    smaller = denoising_orders(shot, msgspec.structs.replace(recipe, render_scale=50.0), size, 1036, 16.0, (0.0, 0.0))
    assert smaller[1].scale == 50.0 and smaller[1].crop == (144, 81, *CROP)
    (whole,) = denoising_orders(shot, recipe, (240, 136), 1036, 16.0, (0.0, 0.0))
    assert whole.crop is None and whole.scale == 100.0, "a picture hardly larger than the parts is rendered whole"
    (shrunk,) = denoising_orders(shot, recipe, size, 1036, 16.0, (0.0, 0.0), crops=False)
    assert shrunk.crop is None and shrunk.scale == 50.0
    with pytest.raises(WrongInput, match="4 frames"):
        denoising_orders(msgspec.structs.replace(shot, last=1004), recipe, size, 1001, 16.0, (0.5, 0.5))
    with pytest.raises(WrongInput, match=r"every 2\."):
        denoising_orders(msgspec.structs.replace(shot, step=2), recipe, size, 1001, 16.0, (0.5, 0.5))


def test_a_renderer_that_renders_no_part_says_so(demo_reel, tmp_path):
    assert BENCH.crops and BY_COMMAND.crops
    plain = Link(name="plain", command=("render", "{frame}", "{output}"))
    assert not plain.crops
    shot = demo_reel.shot("sh020")
    order = ProofOrder(shot, demo_reel.recipe_of(shot), (1010,), crop=(0, 0, 20, 10))
    with pytest.raises(RendererFault, match=r"takes no \{crop\}"):
        make_proof(demo_reel, order=order, root=tmp_path, renderer=renderer_of(plain))


@pytest.fixture(scope="module")
def cropped(demo_reel, tmp_path_factory):
    """The proofs folder of a small reel with one run of a part of its frames, and the reel."""
    root = tmp_path_factory.mktemp("cropped") / "proofs"
    root.mkdir()
    reel = msgspec.structs.replace(demo_reel, width=320, height=180)
    shot = reel.shot("sh050")
    order = ProofOrder(shot, reel.recipe_of(shot), tuple(range(1010, 1017)), 4, 100.0, crop=(100, 50, 64, 36))
    make_proof(reel, root, order)
    return reel, root


def test_it_is_evidence_of_denoising_and_of_nothing_else(cropped):
    reel, root = cropped
    shot = reel.shot("sh050")
    evidence = EvidenceReader().read(root, shot)
    proof = evidence.proofs[0]
    assert (proof.width, proof.height, proof.frame_size, proof.whole, proof.as_rendered) == (64, 36, (320, 180), False, True)
    assert proof.size_words == "64 × 36 of 320 × 180" and proof.crop.left == 100
    assert evidence.frames == () and len(evidence.cropped) == 7 and evidence.faults == ()
    assert {e.width for e in evidence.effects} == {320}, "as dense as a picture of that width"
    assert {e.window for e in evidence.effects} >= {3, 5}
    assert evidence.without([proof.id]).cropped == ()
    card = unmarked(evidence, reel)[0]
    assert "1010" in card.frames_text and figures_of(card)[0].startswith("crop, ")
    assert len(sides_of(evidence, shot)[0].paths) == 7, "it can be looked at"


def test_its_price_is_that_of_its_pixels(demo_reel, demo_evidence):
    shot = demo_reel.shot("sh020")
    plan = plan_shot(demo_reel, shot, ShotModel(demo_evidence["sh020"], shot.frames))
    recipe, size = demo_reel.recipe_of(shot), demo_reel.picture_size
    part = denoising_orders(shot, recipe, size, 1036, 16.0, (0.0, 0.0))[0]
    whole = ProofOrder(shot, recipe, part.frames, 16, 100.0)
    starts = order_seconds([ProofOrder(shot, recipe, part.frames, 1, 1.0)], plan, size)
    share = CROP[0] * CROP[1] / (size[0] * size[1])
    taken = [order_seconds([order], plan, size) for order in (part, whole)]
    assert taken[0] - starts == pytest.approx(share * (taken[1] - starts), rel=0.1)


def test_where_denoising_is_planned_that_no_run_tried_it_is_the_next_proof(demo_reel, demo_evidence):
    shot = msgspec.structs.replace(demo_reel.shot("sh020"), departures={"denoise_window": 5})
    known = demo_evidence["sh020"]
    untried = Evidence(known.frames, (), known.proofs, (), known.folders)
    model = ShotModel(untried, shot.frames)
    plan = plan_shot(demo_reel, shot, model)
    assert "denoise_window" in plan.unproven
    found = next_proof(demo_reel, plan, model)
    assert (
        found is not None and found.orders[0].crop is not None and "what denoising does" in found.why
    ) or "denoising leaves" in found.why
    left, top = found.orders[0].crop[:2]
    assert (left, top) != (384, 216), "not in the middle, but where it is noisiest"
    assert next_proof(demo_reel, plan, model, crops=False).orders[0].crop is None


def test_the_noisiest_place_is_where_two_seeds_differ_most(demo_evidence):
    assert noisiest_place(Evidence(), 1001) == (0.5, 0.5)
    x, y = noisiest_place(demo_evidence["sh020"], 1036)
    assert 0.0 < x < 1.0 and 0.0 < y < 1.0


def test_by_the_command_line(small_path, call, monkeypatch):
    monkeypatch.setattr("hasty_reel.farm.usual.CROP", (48, 27))
    arguments = ["proof", small_path, "--shot", "sh050", "--denoising", "1040", "--samples", "1"]
    code, out, _ = call(*arguments, "--json")
    told = json.loads(out)["proofs"][0]
    assert code == 0 and told["size"] == [48, 27] == told["crop"][2:] and len(told["frames"]) == DENOISED_RUN
    made = read_proof(next(small_path.parent.glob(f"**/sh050/{told['proof']}")))
    assert made.crop.frame_width == 96 and np.isfinite(told["frames"][0]["seconds"])
    code, _, err = call(*arguments, "--scan")
    assert code == 2 and "--denoising" in err
