"""The stage Finish in the real window: before and after, what is taken out, the chain switched and set, the ways that were tried."""

from __future__ import annotations

import shutil
import sys
from pathlib import Path

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from hasty_reel.desk.stages.finish.ownsteps import OwnStepsPage
from hasty_reel.desk.stagesof import FINISH, RUN
from hasty_reel.evidence.proof import read_effects, write_effects
from hasty_reel.programs.ownsteps import OwnStep
from hasty_reel.reel.edits import with_finish_order, with_line
from hasty_reel.reel.file import read_reel, save_reel
from hasty_reel.settings.finishorder import ENLARGED_FIRST, USUAL
from hasty_reel.studio.finish.preview import compared

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def little_path(demo_path: Path) -> Path:
    """The demo reel without its large run: what is looked at is finished in a moment."""
    shutil.rmtree(demo_path.parent / "proofs" / "sh010" / "p018")
    return demo_path


def settled(qtbot, window) -> None:
    qtbot.waitUntil(lambda: not window.session.planner.stale and window.session.planner._planning is None, timeout=20_000)


def test_denoising_after_resizing_is_offered_with_its_figures(qtbot, open_reel, little_path):
    """A run that tried it (what it did is taken from the usual order here) makes a row; a click takes that order, undone by one."""
    folders = sorted(f.parent for f in (little_path.parent / "proofs" / "sh010").glob("*/denoise.json"))
    proof, usual = next((f, e) for f in folders for e in read_effects(f) if e.window == 5 and e.thorough and not e.chain)
    reel = with_finish_order(with_line(read_reel(little_path), "sh010", "render_scale", 50.0), "sh010", ENLARGED_FIRST)
    words = reel.resolved(reel.shot("sh010")).chain
    assert words.endswith("resize from 50 % > denoise 5 100 %")
    write_effects(proof, [*read_effects(proof), msgspec.structs.replace(usual, chain=words, seen_ratio=0.5 * usual.seen_ratio)])
    window = open_reel(little_path)
    session = window.session
    session.do("Half the size", lambda reel: with_line(reel, "sh010", "render_scale", 50.0))
    window.show_stage(FINISH)
    table = window.finish.table
    qtbot.waitUntil(lambda: any(r.words.startswith("resized first") for r in table.rows), timeout=30_000)
    settled(qtbot, window)
    row = next(r for r in table.rows if r.words == "resized first, over 5 frames")
    other = next(r for r in table.rows if r.words == "over 5 frames, thorough")
    assert other.chosen and row.seen < 0.8 * other.seen
    before = session.plan.samples.sum()
    table._take(table.rows.index(row))
    assert session.recipe.finish_order == ENLARGED_FIRST
    settled(qtbot, window)
    qtbot.waitUntil(lambda: table.rows[0].words == "this chain", timeout=30_000)
    assert table.rows[0].chosen and session.plan.samples.sum() < 0.8 * before, "calm as before with fewer samples"
    session.undo()
    assert session.recipe.finish_order == USUAL


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


def test_the_chain_is_switched_and_set_where_it_stands(qtbot, open_reel, little_path):
    window = open_reel(little_path)
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


def test_a_program_of_the_artists_is_put_into_the_chain_moved_and_tried(qtbot, open_reel, little_path):
    """By clicks and keys: kept on the page of own steps, added, moved earlier, seen in the picture, tried, counted by the plan."""
    window = open_reel(little_path)
    window.show_stage(FINISH)
    session, stage = window.session, window.finish
    cards, model = stage.cards, stage.chain
    qtbot.waitUntil(lambda: stage.preview.shown is not None, timeout=60_000)
    page = OwnStepsPage(session, window)
    assert "none yet" in page.pick.text() and not page.command.isEnabled()
    page.model.add()
    script = Path(__file__).parent.parent / "own_step.py"
    page.command.setPlainText(f"{sys.executable} {script} {{input}}")
    qtbot.mouseClick(page.apply_button, LEFT)
    assert page.answer.text().startswith("Own step 'Own step': {output} is missing")
    page.command.setPlainText(f"{sys.executable} {script} {{input}} {{output}} double")
    qtbot.mouseClick(page.apply_button, LEFT)
    page.name.committed.emit("Grade")
    assert page.answer.text() == "" and session.own.steps.items[0].name == "Grade"
    page.accept()
    menu = cards._more()
    assert [a.text() for a in menu.actions() if a.text()] == ["Grade", "Own steps …"]
    menu.actions()[0].trigger()
    assert session.recipe.finish_order[-1] == "Grade" and list(cards.chain.order)[-1] == "Grade"
    settled(qtbot, window)
    assert stage.worth.text().startswith("Not proven yet: no run tried these steps in this order")
    assert window.session.verdicts[FINISH].reason == "no proof run tried this chain yet"
    qtbot.mouseClick(cards.steps["Grade"].earlier, LEFT)
    assert session.recipe.finish_order == ("despike", "denoise", "resize", "Grade", "sharpen")
    assert not cards.steps["despike"].earlier.isEnabled()
    qtbot.waitUntil(lambda: stage.preview.shown is not None, timeout=60_000)
    shown = stage.preview.shown
    assert shown.after.mean() > 1.2 * shown.before.mean(), "light is doubled"
    settled(qtbot, window)
    qtbot.mouseClick(cards.try_button, LEFT)
    assert model.trying
    qtbot.waitUntil(lambda: not model.trying and not model.unproven, timeout=180_000)
    settled(qtbot, window)
    assert "denoise_window" not in session.plan.unproven
    assert "samples" in stage.worth.text() or "more flicker" in stage.worth.text()
    window.undo_action.trigger()
    window.undo_action.trigger()
    assert "Grade" not in cards.steps and session.recipe.finish_order == USUAL


def test_the_order_of_steps_is_chosen_with_its_reason(qtbot, open_reel, little_path):
    window = open_reel(little_path)
    window.show_stage(FINISH)
    session, cards = window.session, window.finish.cards
    menu = cards._orders()
    entry = next(a for a in menu.actions() if a.text() == "resize, then denoise")
    assert "denoised too" in entry.toolTip()
    entry.trigger()
    assert session.recipe.finish_order == ("despike", "resize", "denoise", "sharpen") and not window.finish.chain.unproven
    assert cards.steps["denoise"].price.text().endswith(" s a frame") and cards.steps["resize"].price.text() == ""
    session.set_line("render_scale", 50.0)
    settled(qtbot, window)
    assert window.finish.chain.unproven and cards.try_button.isVisibleTo(window.finish)
    qtbot.waitUntil(lambda: window.finish.preview.shown is not None, timeout=60_000)
    assert window.finish.preview.shown.after.shape[1] == 2 * window.finish.preview.proof.width


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


def test_a_step_that_fails_is_told_once_where_the_frame_would_be(qtbot, open_reel, little_path):
    window = open_reel(little_path)
    session = window.session
    session.own.set_steps(session.own.steps.added(OwnStep(name="Grade", command=("false", "{input}", "{output}"))))
    window.show_stage(FINISH)
    model, tries = window.finish.preview, []
    qtbot.waitUntil(lambda: model.shown is not None, timeout=60_000)
    finish = model._finish
    model._finish = lambda *of: tries.append(of) or finish(*of)
    window.finish.chain.add("Grade")
    qtbot.waitUntil(lambda: "the own step 'Grade' ended with status 1" in model.words, timeout=60_000)
    qtbot.wait(300)
    assert "ended with status 1" in model.words and len(tries) == 1, "and not tried again and again"
    copies = OwnStep(name="Grade", command=("cp", "{input}", "{output}"))
    session.own.set_steps(session.own.steps.changed(session.own.steps.items[0], copies))
    qtbot.waitUntil(lambda: model.shown is not None, timeout=60_000)


def test_a_reel_that_names_a_step_nobody_keeps_here_says_so_and_runs_nothing(qtbot, open_reel, little_path):
    was = read_reel(little_path)
    recipes = tuple(msgspec.structs.replace(r, finish_order=(*USUAL, "Theirs")) for r in was.recipes)
    save_reel(little_path, msgspec.structs.replace(was, recipes=recipes))
    window = open_reel(little_path)
    window.show_stage(FINISH)
    session, stage = window.session, window.finish
    assert "Not kept on this machine" in stage.cards.steps["Theirs"].about.text()
    qtbot.waitUntil(lambda: stage.preview.shown is not None, timeout=60_000)
    assert stage.preview.left_out == "shown without Theirs"
    stage.chain.try_it()
    assert "'Theirs' is not kept on this machine" in stage.chain.words and not stage.chain.trying
    heard = []
    session.said.connect(heard.append)
    window.show_stage(RUN)
    qtbot.waitUntil(lambda: any("'Theirs' is not kept" in words for words in heard), timeout=30_000)
    assert session.final.run is None
