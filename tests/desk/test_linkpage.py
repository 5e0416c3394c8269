"""Linking a renderer in the real window: one that stays open is tried and greys what it cannot, patterns are learnt from a log."""

from __future__ import annotations

import sys
from pathlib import Path

import msgspec
import pytest
from PySide6.QtCore import Qt

from hasty_reel.desk.stages.proofs.renderer import RendererPage
from hasty_reel.farm.renderers.links import LINKS, Link
from open_link import OPEN, open_renderer  # noqa: F401  a fixture

LEFT = Qt.MouseButton.LeftButton
COMMAND = (sys.executable, "r.py", "{frame}", "{output}", "{bounces}")


@pytest.fixture
def page(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    page = RendererPage(window.session, window)
    page.show()
    return window, page


def test_a_renderer_that_stays_open_is_linked_tried_and_greys_what_it_cannot(qtbot, page, open_renderer):  # noqa: F811
    window, page = page
    session, model = window.session, page.model
    open_renderer.told(can="crop guides")
    session.own.set_links(session.own.links.added(Link(name="Mine", command=(*OPEN.command, "{frame}", "{output}"))))
    page.command.setPlainText(" ".join(OPEN.command))
    qtbot.mouseClick(page.apply_button, LEFT)
    assert "{output} is missing" in page.answer.text(), "as a command for each frame it lacks places"
    session.own.set_links(session.own.links.added(msgspec.structs.replace(OPEN, name="Open one")))
    assert page.stays.isChecked() and not page.progress.isVisible() and not page.learn_button.isEnabled()
    qtbot.mouseClick(page.test_button, LEFT)
    assert not page.test_button.isEnabled()
    qtbot.waitUntil(lambda: model.trial is not None and not model.trying, timeout=60_000)
    assert "answers: 64x36" in page.answer.text() and page.trial.isVisible() and not page.trial.picture.pixmap().isNull()
    assert any("does not say that it keeps a scene loaded" in words for words in page.trial.words)
    assert LINKS.read().current.can == ("crop", "guides") and "It says that it can: crop, guides." in page.words.text()
    row = window.ledger.rows["keep_scene"]
    assert row._lacking and row.toolTip().startswith("Does nothing in 'Open one': it does not say that it keeps a scene loaded")
    assert not window.ledger.rows["tiles"]._lacking and not window.ledger.rows["bounces"]._lacking
    page.close()


def test_what_was_found_is_taken_with_one_click(qtbot, page, tmp_path):
    window, page = page
    program = Path(tmp_path / "left.py")
    program.write_text(
        "import sys, numpy as np, OpenImageIO as oiio\n"
        "w, h, frame, seed, out = *map(int, sys.argv[1:5]), sys.argv[5]\n"
        "x, y = np.meshgrid(np.arange(w), np.arange(h))\n"
        "rgb = (.5 + .4 * np.sin((x - 4 * frame) / 3.0) * np.cos(y / 5.0))[..., None] * np.ones(3)\n"
        "rgb += .01 * np.random.default_rng(seed).standard_normal(rgb.shape)\n"
        "data = np.concatenate([rgb, np.full((h, w, 1), -4.0), np.zeros((h, w, 1))], -1).astype(np.float32)\n"
        "spec = oiio.ImageSpec(w, h, 5, oiio.FLOAT); spec.channelnames = ['R', 'G', 'B', 'velocity.x', 'velocity.y']\n"
        "o = oiio.ImageOutput.create(out); o.open(out, spec); o.write_image(np.ascontiguousarray(data)); o.close()\n"
    )
    command = (sys.executable, str(program), "{width}", "{height}", "{frame}", "{seed}", "{output}")
    window.session.own.set_links(window.session.own.links.added(Link(name="Left", command=command)))
    qtbot.mouseClick(page.test_button, LEFT)
    qtbot.waitUntil(lambda: page.model.trial is not None and not page.model.trying, timeout=60_000)
    assert page.trial.take_button.isVisible() and any("pixels, left and down" in words for words in page.trial.words)
    qtbot.mouseClick(page.trial.take_button, LEFT)
    assert LINKS.read().current.vectors == (-1, 1) and not page.trial.isVisible()
    page.close()


def test_ranges_and_channels_are_typed(qtbot, page):
    window, page = page
    ranged = ("r", "{first}", "{last}", "{folder}")
    window.session.own.set_links(window.session.own.links.added(Link(name="Ranges", command=ranged)))
    page.frames.committed.emit("8")
    assert LINKS.read().current.frames == 8 and page.frames.text().startswith("8")
    page.frames.committed.emit("many")
    assert "expected a whole number" in page.answer.text() and LINKS.read().current.frames == 8
    page.channels.committed.emit("normal=P.x,P.y,P.z; depth=none")
    assert LINKS.read().current.channels == {"normal": ("P.x", "P.y", "P.z"), "depth": ()}
    page.channels.committed.emit("weather=a")
    assert "expected one of colour" in page.answer.text() and len(LINKS.read().current.channels) == 2
    page.channels.committed.emit("by name")
    assert LINKS.read().current.channels == {} and page.channels.text().startswith("by name")
    page.close()


def test_patterns_are_learnt_from_pasted_lines(qtbot, page):
    window, page = page
    window.session.own.set_links(window.session.own.links.added(Link(name="Mine", command=COMMAND)))
    learn = page.learn()
    assert not learn.take_button.isEnabled() and learn.picks == []
    learn.log.setPlainText("BVH built (0.41 sec)\n57 %\ntracing paths (14.90 sec)\nother thing 3.0 s")
    assert [one.part for one in page.model.found] == ["load", "progress", "sample", ""] and len(learn.picks) == 4
    assert len(learn.log.extraSelections()) == 4
    menu = learn._menu(3)
    next(entry for entry in menu.actions() if entry.text() == "write").trigger()
    assert [one.part for one in page.model.found] == ["load", "progress", "sample", "write"]
    qtbot.mouseClick(learn.take_button, LEFT)
    kept = LINKS.read().current
    assert set(kept.seconds) == {"load", "sample", "write"} and kept.progress and "Learnt." in page.answer.text()
    page.close()
