"""Layers that stand still are offered as plates."""

from __future__ import annotations

from types import SimpleNamespace

import msgspec
import numpy as np
import pytest

from hasty_reel.errors import WrongInput
from hasty_reel.plan.frames.plates import still_plate
from hasty_reel.reel.edits import with_held, with_layers
from hasty_reel.reel.shot import Layer
from planted_proofs import planted_evidence, planted_proof

FRAMES = (1001, 1025, 1049, 1073, 1096)


def plan_of(noise_reel, name: str):
    shot = msgspec.structs.replace(noise_reel.shot("sh010"), id=name)
    return SimpleNamespace(frames=np.array(shot.frames), shot=shot)


def test_a_layer_that_neither_moves_nor_changes_can_be_held(noise_reel, tmp_path):
    rng = np.random.default_rng(8)
    ground = rng.uniform(0.1, 0.5, (27, 48))
    still = planted_evidence(tmp_path, planted_proof(tmp_path, "p001", dict.fromkeys(FRAMES, ground), 0.01, rng))
    frame, change = still_plate(plan_of(noise_reel, "sh010.back"), still)
    assert frame == 1048 and change < 0.25, "noise is no change"
    assert still_plate(plan_of(noise_reel, "sh010"), still) is None, "a shot without layers has nothing to be held behind"
    waking = {f: ground * (1.0 + 0.05 * k) for k, f in enumerate(FRAMES)}
    evidence = planted_evidence(tmp_path, planted_proof(tmp_path, "p002", waking, 0.0, rng))
    assert still_plate(plan_of(noise_reel, "sh010.back"), evidence) is None
    moving = planted_proof(tmp_path, "p003", dict.fromkeys(FRAMES, ground), 0.0, rng, across=0.5)
    assert still_plate(plan_of(noise_reel, "sh010.back"), planted_evidence(tmp_path, moving)) is None
    few = planted_proof(tmp_path, "p004", dict.fromkeys(FRAMES[:3], ground), 0.0, rng)
    assert still_plate(plan_of(noise_reel, "sh010.back"), planted_evidence(tmp_path, few)) is None, "half of the shot was not looked at"


def test_a_plate_is_held_by_an_edit(noise_reel):
    reel = with_layers(noise_reel, "sh010", (Layer(id="back", scene="soft_corner"), Layer(id="lamp", scene="lamp_wakes")))
    held = with_held(reel, "sh010.back", 1048)
    assert held.shot("sh010").layers[0].held == 1048 and held.shot("sh010").layers[1] == reel.shot("sh010").layers[1]
    assert len(held.shot("sh010.back").frames) == 1
    with pytest.raises(WrongInput, match=r"'sh010.front' is no layer; expected a shot and one of its layers"):
        with_held(reel, "sh010.front", 1048)
