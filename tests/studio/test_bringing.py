"""A folder of frames brought in by one dialog: another size and another layer with it."""

from __future__ import annotations

import numpy as np

from bringing_frames import write
from hasty_reel.farm.patternof import pattern_of
from hasty_reel.studio.bringing import BringingModel


def test_two_sizes_and_a_chosen_layer_become_two_proofs_in_one_go(open_session, loop, small_path, tmp_path):
    session = open_session(small_path)
    session.read_evidence()
    loop.until(lambda: session.plan is not None, seconds=60.0)
    names = ("R", "G", "B", "glow.R", "glow.G", "glow.B")
    for folder, (w, h) in {"full": (48, 27), "half": (24, 14)}.items():
        (tmp_path / folder).mkdir()
        for frame in (1001, 1002, 1003):
            pixels = np.concatenate([np.full((h, w, 3), 0.2), np.full((h, w, 3), 0.7)], axis=-1)
            write(tmp_path / folder / f"bay.{frame}.exr", pixels, names, seconds=4.0 if folder == "full" else 1.5)
    model = BringingModel(session, pattern_of(tmp_path / "full" / "bay.1001.exr"))
    assert model.layer == "" and list(model.layers) == ["", "glow"] and model.second_words == "none"
    model.choose_layer("glow")
    model.choose_second(0)
    model.type_samples("64")
    assert model.second_words == "24x14: half/bay.####.exr" and model.may_bring and not model.fault
    before, brought, said = {p.id for p in session.evidence.proofs}, [], []
    model.brought.connect(brought.append)
    session.said.connect(said.append)
    model.bring()
    loop.until(lambda: brought and len(session.evidence.proofs) == len(before) + 2, seconds=60.0)
    made = [p for p in session.evidence.proofs if p.id not in before]
    assert [(p.width, p.height) for p in made] == [(48, 27), (24, 14)] and len(made[0].by_frame()) == 3
    assert [round(session.evidence.rows_of(p.id)[0].seconds, 1) for p in made] == [4.0, 1.5] and said[-1].count("brought in as proof") == 2
