"""A setting of the artist's own, declared through the real window."""

from __future__ import annotations

from PySide6.QtCore import Qt

from hasty_reel.desk.ledger import Ledger
from hasty_reel.own.ownrecipes import KEPT_SETTINGS
from hasty_reel.studio.travelling import RecipeTravel


def typed(qtbot, field, text: str) -> None:
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def test_a_setting_is_declared_stands_in_the_ledger_and_is_undone(qtbot, open_reel, demo_path):
    window = open_reel(demo_path)
    session, ledger = window.session, window.findChild(Ledger)
    page = ledger.declare()
    typed(qtbot, page.fields["label"], "Shadow quality")
    assert page.fields["name"].text() == "shadow_quality"
    typed(qtbot, page.fields["high"], "10")
    typed(qtbot, page.fields["default"], "40")
    qtbot.mouseClick(page.save_button, Qt.MouseButton.LeftButton)
    assert "expected a number from 0 to 10" in page.answer.text() and session.reel.settings == ()
    typed(qtbot, page.fields["default"], "4")
    page.keep.click()
    qtbot.mouseClick(page.save_button, Qt.MouseButton.LeftButton)
    assert [s.name for s in session.reel.settings] == ["shadow_quality"]
    assert [s.name for s in KEPT_SETTINGS.read().items] == ["shadow_quality"]
    row = ledger.rows["own.shadow_quality"]
    assert row.field.text() == "4" and row.isVisibleTo(ledger)
    typed(qtbot, row.field, "7")
    assert session.recipe.value("own.shadow_quality") == 7
    assert [a.text() for a in row.menu().actions()][-1] == "Change this setting …"
    session.undo()
    assert session.recipe.value("own.shadow_quality") == 4
    session.undo()
    assert "own.shadow_quality" not in ledger.rows
    session.redo()
    change = ledger.declare("shadow_quality")
    qtbot.mouseClick(change.remove_button, Qt.MouseButton.LeftButton)
    assert session.reel.settings == () and "own.shadow_quality" not in ledger.rows


def test_a_choice_is_typed_by_its_name_and_travels_with_the_recipe(qtbot, open_reel, demo_path, tmp_path):
    window = open_reel(demo_path)
    session, ledger = window.session, window.findChild(Ledger)
    page = ledger.declare()
    page.model.change(label="Bucket order", kind="choice")
    typed(qtbot, page.fields["choices"], "rows, spiral")
    qtbot.mouseClick(page.save_button, Qt.MouseButton.LeftButton)
    typed(qtbot, ledger.rows["own.bucket_order"].field, "spiral")
    assert session.recipe.value("own.bucket_order") == 1
    saved = tmp_path / "final.recipe"
    RecipeTravel(session).save("Final", saved)
    session.undo()
    session.undo()
    assert session.reel.settings == ()
    RecipeTravel(session).load(saved)
    new = session.reel.recipes[-1]
    assert session.reel.declared(new).value("own.bucket_order") == 1
    assert [s.label for s in session.reel.settings] == ["Bucket order"]
