"""The picture of what is tried: rendered again with each change, better from pass to pass, gone when the trial ends."""

from __future__ import annotations

import numpy as np

from open_link import OPEN, open_renderer  # noqa: F401  a fixture


def test_each_change_is_rendered_at_once_and_gets_better(session, loop):
    live = session.live_try
    session.playhead.show_frame(1040)
    assert live.on and live.codes is None and live.words == ""
    session.begin_trial()
    loop.until(lambda: live.codes is not None, seconds=120.0)
    assert live.codes.shape == (90, 160, 3) and live.first_seconds is not None
    few, first = live.codes.astype(float), live.samples
    loop.until(lambda: live.samples >= 8 * first, seconds=60.0)
    many = live.codes.astype(float)
    assert np.abs(np.diff(many, axis=1)).mean() < np.abs(np.diff(few, axis=1)).mean(), "more passes are calmer"
    assert live.words == f"frame 1040, {live.samples} samples"
    session.set_line("bounces", 0)
    loop.until(lambda: live.samples < 8 * first, seconds=60.0)
    loop.until(lambda: live.samples >= 8 * first, seconds=60.0)
    assert live.codes.mean() < many.mean(), "without light that bounces it is darker"
    session.drop_trial()
    loop.until(lambda: live.codes is None)
    assert live.words == ""
    live.switch(False)
    session.begin_trial()
    loop.turn()
    assert live._task is None and live.codes is None, "switched off it renders nothing"
    session.drop_trial()


def test_a_renderer_that_stays_open_is_tried_live_and_reads_its_scene_once(session, loop, open_renderer):  # noqa: F811
    session.own.set_links(session.own.links.added(OPEN))
    live = session.live_try
    assert live.on, "each pass of one that is started for each frame would start it anew"
    session.begin_trial()
    loop.until(lambda: live.samples >= 64, seconds=60.0)
    session.set_line("bounces", 2)
    before = len(open_renderer.did("render"))
    loop.until(lambda: len(open_renderer.did("render")) >= before + 4, seconds=60.0)
    assert len(open_renderer.did("load")) <= 2, "at most once for each of the threads that render"
    session.drop_trial()
