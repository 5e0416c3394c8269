"""The house as its descriptions tell it: the picture of the rooms, and the list of modules in each room."""

from __future__ import annotations

import ast
import importlib.util
import re
from pathlib import Path

import click
import pytest

from hasty_reel.cli.answers import reel_group

ROOT = Path(__file__).parent.parent
PACKAGE = ROOT / "src" / "hasty_reel"
FOLDERS = sorted(p.parent for p in PACKAGE.rglob("__init__.py") if p.parent != PACKAGE and list(p.parent.glob("[a-z]*.py")))


def test_the_picture_of_the_rooms_is_that_of_the_code():
    spec = importlib.util.spec_from_file_location("rooms", ROOT / "docs" / "rooms.py")
    rooms = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(rooms)
    assert (ROOT / "docs" / "rooms.svg").read_text() == rooms.drawn(), "python docs/rooms.py draws it anew"


def test_the_page_of_commands_is_that_of_the_commands():
    spec = importlib.util.spec_from_file_location("commands", ROOT / "docs" / "commands.py")
    commands = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(commands)
    assert (ROOT / "docs" / "commands.md").read_text() == commands.page(), "python docs/commands.py writes it anew"
    known = set(reel_group.list_commands(click.Context(reel_group)))
    assert set(commands.examples()) <= known, "an example names a command that there is"


@pytest.mark.parametrize("folder", FOLDERS, ids=lambda p: str(p.relative_to(PACKAGE)))
def test_each_room_lists_its_modules(folder):
    text = ast.get_docstring(ast.parse((folder / "__init__.py").read_text())) or ""
    listed = set(re.findall(r"^([a-z]+) {2,}\S", text, re.MULTILINE))
    modules = {p.stem for p in folder.glob("[a-z]*.py")} | {p.parent.name for p in folder.glob("*/__init__.py")}
    if len(modules) > 1:
        assert listed == modules
