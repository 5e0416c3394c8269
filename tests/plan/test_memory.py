"""Memory of frames by the sizes of proofs, held against machines."""

from __future__ import annotations

import msgspec
import pytest

from hasty_reel.errors import ReelError
from hasty_reel.plan.frames.memory import memory_words
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.memory import GB, memory_ahead
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_machine


def told(proof, width: int, height: int, gigabytes: float):
    pictures = tuple(msgspec.structs.replace(p, memory_bytes=int(gigabytes * GB)) for p in proof.pictures[:1])
    return msgspec.structs.replace(proof, width=width, height=height, pictures=pictures, scan=False)


@pytest.fixture
def proof(demo_evidence):
    return demo_evidence["sh010"].proofs[0]


def test_two_sizes_tell_what_grows_with_the_picture(proof):
    """Planted: 3 GB, and 2.5 GB for each million pixels."""
    proofs = [told(proof, w, h, 3 + 2.5e-6 * w * h) for w, h in ((960, 540), (1920, 1080), (480, 270))]
    found = memory_ahead(proofs, 7680 * 4320)
    assert found.bytes / GB == pytest.approx(3 + 2.5e-6 * 7680 * 4320, rel=1e-3) and found.sizes == 3
    assert found.low < 0.95 * found.bytes and found.high > 1.05 * found.bytes and found.words.startswith("about 86 GB (77 GB to 95 GB")


def test_one_size_says_between_what_it_lies(proof):
    found = memory_ahead([told(proof, 960, 540, 4)], 4 * 960 * 540)
    assert found.low / GB == pytest.approx(3.6) and found.high / GB == pytest.approx(17.6) and "one size" in found.words
    assert memory_ahead([proof], 1e6) is None, "the bench renderer tells none"


def test_machines_with_too_little_are_named_with_a_way_on(noise_reel, demo_evidence, proof):
    model = ShotModel(demo_evidence["sh010"], noise_reel.shot("sh010").frames)
    plan = plan_shot(noise_reel, noise_reel.shot("sh010"), model)
    proofs = [told(proof, w, h, 2 + 20e-6 * w * h) for w, h in ((480, 270), (240, 135))]
    whole = 2 + 20e-6 * plan.width * plan.height
    assert memory_words(noise_reel, plan, proofs).startswith(f"A frame of {plan.width} × {plan.height} needs about {whole:.0f} GB")
    name = noise_reel.machines[0].name
    small = with_machine(noise_reel, 0, memory_gb=8.0, workers=1)
    words = memory_words(small, plan, proofs)
    scale = int(words.partition("render at ")[2].partition(" %")[0])
    assert f"{name} has 8 GB" in words and (2 + 20e-6 * plan.width * plan.height * (scale / 100) ** 2) * 1.1 <= 8.0 and scale >= 60
    side = int(words.rpartition("or in ")[2].partition(" ×")[0])
    assert (2 + 20e-6 * plan.width * plan.height / side**2) * 1.1 <= 8.0 < (2 + 20e-6 * plan.width * plan.height / (side - 1) ** 2) * 1.1
    tiled = plan_shot(noise_reel, plan.shot, model, msgspec.structs.replace(plan.recipe, tiles=side))
    assert memory_words(small, tiled, proofs).startswith(f"A frame of {plan.width} × {plan.height} in {side} × {side} tiles needs about ")
    assert "has 8 GB" not in memory_words(small, tiled, proofs), "so it fits"
    several = with_machine(noise_reel, 0, memory_gb=40.0, workers=4)
    assert "for 4 at a time: 2 at a time fit" in memory_words(several, plan, proofs)
    none = with_machine(noise_reel, 0, memory_gb=1.0)
    assert "too little at any size" in memory_words(none, plan, proofs)
    with pytest.raises(ReelError, match="memory_gb: 0"):
        with_machine(noise_reel, 0, memory_gb=0.0)
