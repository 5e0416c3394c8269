"""The guide and the tour: pages that lead to each other, words with a meaning, commands that run, steps that are done by doing."""

from __future__ import annotations

import re
import shlex

import pytest

from hasty_reel.reel.file import read_reel
from hasty_reel.studio.guide import FOLDER, ORDER, found, meanings, meant_by, page, pages
from hasty_reel.studio.tour import STEPS, Tour

STAGES = ("brief", "proofs", "compare", "budget", "finish", "output", "run")


def test_each_stage_has_a_page_that_says_what_to_do_what_figures_mean_and_what_is_usual():
    assert {p.stem for p in FOLDER.glob("*.md")} == set(ORDER) and [p.name for p in pages()] == list(ORDER)
    for name in STAGES:
        headings = [line[3:] for line in page(name).text.splitlines() if line.startswith("## ")]
        assert headings[:3] == ["What to do", "What the figures mean", "What practitioners do"], name


def test_links_and_pictures_of_the_guide_are_there():
    for one in pages():
        for target in re.findall(r"\]\(([^)]+)\)", one.text):
            place = (FOLDER / target) if target.endswith(".md") else FOLDER.parents[2] / "docs" / target.removeprefix("../")
            assert place.is_file(), f"{one.name}: {target}"


def test_pages_are_found_by_what_stands_in_them_headings_first():
    assert [p.name for p in found("scan")][:1] == ["words"] and "proofs" in [p.name for p in found("scan")]
    assert found("guides that nobody wrote") == [] and len(found("")) == len(pages())
    assert page("nowhere").name == "start" and page("Budget.md").name == "budget"


def test_a_word_on_the_screen_is_told_in_two_sentences_and_the_longer_word_first():
    assert [word for word, _ in meant_by("Seen flicker of bounces")] == ["seen flicker", "bounces"]
    assert meant_by("unbounced seedlings") == [], "whole words only"
    for word, meaning in meanings().items():
        assert 1 <= meaning.count(". ") + 1 <= 2 and meaning.endswith("."), word


def test_commands_of_the_guide_run_as_they_are_printed(call, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    lines = [line.strip() for line in page("example-demo").text.splitlines() if line.startswith("    hasty-reel")]
    assert len(lines) == 3
    for line in lines:
        status, _, err = call(*shlex.split(line)[1:])
        assert status == 0, f"{line}: {err}"
    own = [line.strip() for line in page("example-own").text.splitlines() if line.startswith("    hasty-reel")]
    assert [shlex.split(line)[1] for line in own] == ["link", "link", "begin", "proof", "estimate"]
    for line in (own[0], own[2]):  # the others want the renderer that is linked
        status, _, err = call(*shlex.split(line)[1:])
        assert status == 0, f"{line}: {err}"
    assert read_reel(tmp_path / "tide.reel").shots[0].scene == "tide"


def test_a_step_of_the_tour_is_done_by_doing_it_and_never_by_waiting(session, loop):
    tour, said = Tour(session), []
    assert tour.over, "nobody is led who did not ask for it"
    tour.changed.connect(lambda: said.append((tour.place, tour.done)))
    tour.begin()
    session.playhead.show_frame(1010)
    assert not tour.done, "another thing than what was asked for"
    acts = (
        lambda: session.playhead.show_shot("sh020"),
        lambda: session.playhead.show_frame(session.playhead.frame + 3),
        None,
        lambda: session.set_line("bounces", 4),
        lambda: session.set_line("despike", 0),
        session.undo,
        lambda: session.playhead.show_frame(session.playhead.frame - 1),
    )
    for place, act in enumerate(acts):
        assert tour.place == place and tour.step.stage == place and not tour.done
        if act is not None:  # a loop is played by the window alone
            act()
            assert tour.done, STEPS[place].asks
        tour.go_on()
    assert tour.over and (0, True) in said
    session.playhead.show_frame(1020)
    assert not tour.done
    tour.begin()
    tour.leave()
    assert tour.over


@pytest.mark.parametrize("stage", range(7))
def test_the_tour_has_a_step_for_each_stage(stage):
    assert STEPS[stage].stage == stage and len(STEPS) == 7
