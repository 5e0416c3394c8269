"""The stage Finish in the real window: before and after, what is taken out, the chain switched and set, the ways that were tried."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPoint, Qt

from hasty_reel.desk.stagesof import FINISH
from hasty_reel.studio.finish.preview import compared

LEFT = Qt.MouseButton.LeftButton


def settled(qtbot, window) -> None:
    qtbot.waitUntil(lambda: not window.session.planner.stale and window.session.planner._planning is None, timeout=20_000)


def test_a_proof_run_is_seen_before_and_after_and_its_line_is_dragged(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(FINISH)
    stage, model = window.finish, window.finish.preview
    qtbot.waitUntil(lambda: model.shown is not None, timeout=60_000)
    assert model.proof.id == "p018" and len(model.frames) == 5
    shown = model.shown
    assert shown.before.shape == shown.after.shape and not np.array_equal(shown.before, shown.after)
    stage.picture.resize(600, 400)
    before = stage.picture.grab().toImage()
    qtbot.mouseClick(stage.picture, LEFT, pos=QPoint(80, 200))
    assert stage.picture.split < 0.3 and stage.picture.grab().toImage() != before
    frame = model.frame
    qtbot.keyClick(stage.picture, Qt.Key.Key_Right)
    assert model.frame != frame and window.session.playhead.frame == model.frame
    qtbot.mouseClick(stage.modes["taken"], LEFT)
    assert model.mode == "taken" and stage.modes["taken"].isChecked()
    assert window.session.verdicts[FINISH].stage == "Finish"


def test_proofs_of_the_same_name_in_other_shots_are_told_apart(qtbot, open_reel, demo_path):
    """p002 is a run of sh020 and of sh030 at the same frames: what was finished of one is not shown for the other."""
    window = open_reel(demo_path)
    window.show_stage(FINISH)
    model, session, seen = window.finish.preview, window.session, {}
    for shot in ("sh020", "sh030"):
        session.playhead.show_shot(shot)
        model._run = lambda: (proof := next(p for p in session.evidence.proofs if p.id == "p002"), sorted(proof.by_frame()))
        session.playhead.show_frame(1037)
        qtbot.waitUntil(lambda: model.shown is not None, timeout=60_000)
        seen[shot] = model.frame, model.shown.before
    assert seen["sh020"][0] == seen["sh030"][0] and not np.array_equal(seen["sh020"][1], seen["sh030"][1])


def test_the_chain_is_switched_and_set_where_it_stands(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    window.show_stage(FINISH)
    session, cards, table = window.session, window.finish.cards, window.finish.table
    assert window.finish.worth.text().startswith("As calm as ")
    qtbot.mouseClick(cards.denoise, LEFT)
    assert session.recipe.denoise_window == 1 and not cards.strength.isEnabled()
    settled(qtbot, window)
    assert window.finish.worth.text() == "Denoising is off: frames are as rendered."
    qtbot.mouseClick(cards.denoise, LEFT)
    assert session.recipe.denoise_window == 5
    qtbot.mouseClick(cards.sharpen_switch, LEFT)
    assert session.recipe.sharpen == 0.1
    cards.strength.committed.emit("60")
    assert session.recipe.denoise_strength == 60.0
    cards.strength.committed.emit("600")
    assert session.recipe.denoise_strength == 60.0
    settled(qtbot, window)
    quick = next(r for r in table.rows if r.words == "over 3 frames, quick")
    place = table.rows.index(quick)
    qtbot.mouseClick(table, LEFT, pos=QPoint(60, 30 + 24 * place + 12))
    assert (session.recipe.denoise_window, session.recipe.denoise_thorough) == (3, 0)
    assert window.undo_action.text() == "Undo: denoise over 3 frames, quick"
    window.undo_action.trigger()
    assert session.recipe.denoise_window == 5
    assert {r.words for r in table.rows} >= {"as rendered", "over 5 frames, thorough"}


def test_what_changes_besides_noise_is_told_by_two_seeds():
    """Noise of two seeds that is taken out is no change; a square that is darkened in both is."""
    rng = np.random.default_rng(3)
    base = np.full((40, 60, 3), 0.3, np.float32)
    sides = []
    for _ in range(2):
        noisy = base + rng.normal(0, 0.02, (40, 60, 1)).astype(np.float32)
        after = base.copy()
        after[10:20, 10:20] *= 0.8
        sides.append((noisy, after))
    found = compared(sides)
    assert found.changed[14, 14, 0] > 200 and np.median(found.changed[25:, 30:, 0]) < 60
    assert abs(float(found.taken[25:, 30:].mean()) - 128.0) < 3.0
    assert compared(sides[:1]).changed is None
