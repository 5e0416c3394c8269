"""Output in the real window: formats and weights, names, hand-over under the next version, folder check, frames rendered again."""

from __future__ import annotations

import av
import OpenImageIO as oiio
import pytest
from PySide6.QtCore import Qt

from hasty_reel.desk.stagesof import OUTPUT, RUN
from hasty_reel.reel.bytewords import bytes_text

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(qtbot, open_reel, small_path):
    """Six finished frames, and Output in sight."""
    window = open_reel(small_path)
    final = window.session.final
    final.type_frames("1001-1006")
    qtbot.waitUntil(lambda: final.run is not None and len(final.run.frames) == 6 and final._looking is None, timeout=30_000)
    final.go()
    qtbot.waitUntil(lambda: not final.busy and final.finished == 6 and final._looking is None, timeout=60_000)
    window.show_stage(OUTPUT)
    return window


def test_formats_weigh_what_was_measured_and_are_chosen_with_a_click(qtbot, window):
    stage, model = window.output, window.output.outputs
    qtbot.waitUntil(lambda: model.weighing.found is not None and not model.weighing.stale, timeout=60_000)
    table = stage.hand.table
    weights = {f.key: model.weighing.found.weights[f.key].bytes for f in model.forms}
    assert weights["exr-float"] > weights["exr-half"] > weights["mp4-h264"] > 0
    assert model.weight("exr-half")[1] == bytes_text(96 * weights["exr-half"]) and "nine times in ten" in stage.hand.room.text()
    k = [f.key for f in model.forms].index("png-16")
    qtbot.mouseClick(table, LEFT, pos=table.row_box(k).center().toPoint())
    assert model.how.form.key == "png-16" and model.how.colour.name == "sRGB" and not stage.hand.compression.isVisible()
    assert "Nothing brighter than display white is kept." in stage.hand.warnings.text()
    assert stage.hand.example.text() == "sh010/v001/sh010.1001.png … 1096"
    model.choose("mp4-h264")
    assert stage.hand.quality.isVisible() and stage.hand.gop.isVisible() and stage.hand.example.text() == "sh010.v001.mp4"
    stage.hand.quality.committed.emit("99")
    assert model.how.film.quality is None and "expected 0 (best) to 51" in window.notice.label.text()
    stage.hand.pattern.committed.emit("../{shot}")
    assert model.pattern == "{shot}.v{version}" and "leads outside the chosen folder" in window.notice.label.text()


def test_what_is_handed_over_gets_the_next_version_and_both_are_kept(qtbot, window):
    stage, model = window.output, window.output.outputs
    model.choose("mp4-h264")
    for version in ("v001", "v002"):
        qtbot.mouseClick(stage.hand.go, LEFT)
        qtbot.waitUntil(lambda: not model.busy, timeout=60_000)
        assert model.made is not None and version in model.made.name and stage.hand.words.text().startswith("6 frames handed over: ")
    films = sorted(p.name for p in model.folder.glob("*.mp4"))
    assert films == ["sh010.v001.mp4", "sh010.v002.mp4"]
    with av.open(str(model.folder / films[1])) as film:
        assert sum(1 for _ in film.decode(video=0)) == 6
    model.choose("exr-half")
    model.choose_colour("ACEScg")
    model.choose_compression("dwaa")
    model.choose_layers(True)
    qtbot.mouseClick(stage.hand.go, LEFT)
    qtbot.waitUntil(lambda: not model.busy, timeout=60_000)
    spec = oiio.ImageBuf(str(model.folder / "sh010" / "v001" / "sh010.1003.exr")).spec()
    assert "motion.X" in spec.channelnames and spec.getattribute("compression").startswith("dwaa")
    assert spec.getattribute("chromaticities")[0] == pytest.approx(0.713)


def test_frames_that_are_wrong_are_found_set_aside_and_rendered_again(qtbot, window):
    stage, final = window.output, window.session.final
    paths = [final.run.folder.final.path(f) for f in (1002, 1005)]
    paths[0].unlink()
    paths[1].write_bytes(paths[1].read_bytes()[:400])
    qtbot.mouseClick(stage.pages.choices[1], LEFT)
    qtbot.mouseClick(stage.check.check, LEFT)
    qtbot.waitUntil(lambda: stage.checks.found is not None and not stage.checks.busy, timeout=30_000)
    assert stage.check.words.text() == "1 frame is missing: 1002\n1 frame cannot be read: 1005"
    assert stage.check.again.text() == "Render 2 again"
    qtbot.mouseClick(stage.check.again, LEFT)
    assert window.stage.currentIndex() == RUN and final.frames_text == "1002,1005"
    assert (paths[0].parent / "set-aside" / paths[1].name).is_file(), "nothing is deleted"
    qtbot.waitUntil(lambda: final._looking is None and final.run is not None and len(final.run.frames) == 2, timeout=20_000)
    final.go()
    qtbot.waitUntil(lambda: not final.busy and final.finished == 2 and final._looking is None, timeout=60_000)
    window.show_stage(OUTPUT)
    final.type_frames("1001-1006")
    qtbot.waitUntil(lambda: final._looking is None and len(final.run.frames) == 6, timeout=20_000)
    stage.checks.check()
    qtbot.waitUntil(lambda: stage.checks.found is not None and not stage.checks.busy, timeout=30_000)
    assert stage.check.words.text() == "All 6 frames are there and whole."


def test_the_report_is_written_from_the_window(qtbot, window, tmp_path, monkeypatch):
    from hasty_reel.desk.stages.output import stage as module

    opened = []
    monkeypatch.setattr(module, "ask_target", lambda *_: tmp_path / "r.html")
    monkeypatch.setattr(module.QDesktopServices, "openUrl", lambda url: opened.append(url.toLocalFile()))
    qtbot.mouseClick(window.output.report, LEFT)
    qtbot.waitUntil(lambda: bool(opened), timeout=30_000)
    assert opened == [str(tmp_path / "r.html")] and "6 frames rendered, 6 finished" in (tmp_path / "r.html").read_text()


def test_several_deliveries_follow_each_other_and_frames_are_checked_as_they_arrive(qtbot, window):
    stage, model, final = window.output, window.output.outputs, window.session.final
    for key in ("png-16", "mp4-h264", "mkv-ffv1"):
        model.choose(key)
        model.hand_over()
    assert len(model.waiting) == 2 and stage.hand.go.text() == "Hand over next" and "2 more wait" in stage.hand.words.text()
    qtbot.waitUntil(lambda: not model.busy and not model.waiting, timeout=60_000)
    assert sorted(p.name for p in model.folder.iterdir()) == ["sh010", "sh010.v001.mkv", "sh010.v001.mp4"]
    assert len(list((model.folder / "sh010" / "v001").glob("*.png"))) == 6
    qtbot.mouseClick(stage.pages.choices[1], LEFT)
    stage.check.check.click()
    qtbot.waitUntil(lambda: stage.checks.found is not None and not stage.checks.busy, timeout=30_000)
    assert stage.check.clear.isVisible() and stage.checks.spare_bytes > 0
    qtbot.mouseClick(stage.check.clear, LEFT)
    qtbot.waitUntil(lambda: final._looking is None and not list(final.run.folder.rendered.folder.glob("*.exr")), timeout=20_000)
    assert final.finished == 6, "what is finished stays"
    stage.checks.watch(True)
    final.run.folder.final.path(1004).write_bytes(b"broken")
    stage.checks._look()
    qtbot.waitUntil(lambda: stage.checks.found is not None and bool(stage.checks.found.faults), timeout=20_000)
    assert stage.checks.found.faults == {"unreadable": (1004,)}
    stage.checks.watch(False)
