"""Finding by part of a name."""

from __future__ import annotations

from hasty_reel.studio.finder import MOST, Findable, found_by, frames_found

NAMES = ("Undo", "Save", "Save as …", "Budget", "Denoise window", "Brightness ceiling", "Samples ceiling", "sh010 Lamp wakes", "See it")
THINGS = [Findable(name, "thing", "", lambda: None, "fog" if name == "Budget" else "") for name in NAMES]


def names(text: str) -> list[str]:
    return [thing.words for thing in found_by(text, THINGS)]


def test_what_begins_with_the_text_comes_before_what_holds_it():
    assert names("sa") == ["Save", "Save as …", "Samples ceiling"]
    assert names("CEIL") == ["Brightness ceiling", "Samples ceiling"] and names("ceil bri") == ["Brightness ceiling"]
    assert names("indo") == ["Denoise window"] and names("lamp") == ["sh010 Lamp wakes"]
    assert names("fog") == ["Budget"], "other words find it, too"
    assert names("tea") == [] and names("") == list(NAMES)
    assert len(found_by("t", [Findable(f"t{k}", "", "", lambda: None) for k in range(500)])) == MOST


def test_a_number_is_a_frame_of_every_shot_that_has_it():
    went: list = []
    shots = [("sh020", 1001, 1048), ("sh010", 1001, 1096), ("sh030", 1, 48)]
    found = frames_found("frame 1040", shots, lambda *where: went.append(where))
    assert [f.words for f in found] == ["Frame 1040 of sh020", "Frame 1040 of sh010"]
    found[1].act()
    assert went == [("sh010", 1040)]
    assert frames_found("5000", shots, print) == [] and frames_found("sh010", shots, print) == []
