"""Commands about settings of the artist's own, and recipes that go from reel to reel: setting …, recipe …."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Any

import click
import msgspec

from hasty_reel.cli.answers import REEL, answer, reel_group
from hasty_reel.cli.planning import may_write
from hasty_reel.commands import StrictGroup
from hasty_reel.errors import WrongInput
from hasty_reel.own.ownrecipes import KEPT_RECIPES, KEPT_SETTINGS
from hasty_reel.programs.ownsteps import lacking_steps
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits import with_brought_recipe, with_own_setting, without_own_setting
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.recipefile import read_recipe, save_recipe
from hasty_reel.reel.saves import save_keeping
from hasty_reel.reel.writer import writing
from hasty_reel.settings.own import OwnSetting


@reel_group.group(name="setting", cls=StrictGroup, help="Settings of your own: what your renderer takes besides those that ship.")
def setting_group() -> None:
    pass


def _declared(command: Any) -> Any:
    """The options that declare a setting."""
    options = (
        click.option("--label", help="As it stands in the ledger; the name without its underscores where none is given."),
        click.option("--kind", type=click.Choice(("number", "choice", "switch")), help="A number unless something else is said."),
        click.option("--unit", help="Of a number."),
        click.option("--low", type=float, help="The least it may be."),
        click.option("--high", type=float, help="The most it may be."),
        click.option("--step", type=float, help="How far a key takes it."),
        click.option("--whole/--broken", default=None, help="Whether it takes whole numbers alone."),
        click.option("--choice", "choices", multiple=True, metavar="NAME …", help="One name of a choice; given once for each."),
        click.option("--default", help="What recipes have unless they say otherwise."),
        click.option("--acts-on", type=click.Choice(("picture", "time")), help="Whether the picture changes with it, or the time alone."),
        click.option("--meaning", help="What it does, in a sentence."),
    )
    for option in reversed(options):
        command = option(command)
    return command


def _changed(old: OwnSetting, told: dict[str, Any]) -> OwnSetting:
    """A declaration with what was told; the default goes by the name of a choice, too."""
    given = {k: v for k, v in told.items() if v is not None and v != ()}
    default = given.pop("default", None)
    if "choices" in given:
        given.setdefault("kind", "choice")
    new = msgspec.structs.replace(old, **given)
    if default is None:
        return new
    try:
        value = new.setting.read(default)
    except ValueError:
        value = None
    if value is None:
        raise WrongInput(f"setting: --default '{default[:40]}'; expected {new.setting.expected}.")
    return msgspec.structs.replace(new, default=float(value))


@setting_group.command(name="add", help="Declare a setting in a reel; links take its value as {own.NAME}.")
@click.argument("file", type=REEL)
@click.argument("name")
@_declared
@click.option("--keep", is_flag=True, help="Offer it in other reels, too.")
@click.option("--kept", is_flag=True, help="Take the one of that name that is kept.")
@click.option("--json", "as_json", is_flag=True)
def add_setting(file: Path, name: str, keep: bool, kept: bool, as_json: bool, **told: Any) -> int:
    if kept:
        old = next((s for s in KEPT_SETTINGS.read().items if s.name == name), None)
        if old is None:
            raise WrongInput(f"setting add: '{name[:40]}' is not kept; expected one of {_names(KEPT_SETTINGS.read().items)}.")
    else:
        old = OwnSetting(name=name, label=name.replace("_", " ").strip().capitalize() or name)
    setting = _changed(old, told)
    _edit(file, lambda reel: with_own_setting(reel, setting))
    if keep:
        KEPT_SETTINGS.save(KEPT_SETTINGS.read().added(setting))
    answer(as_json, _document(setting), [_words(setting) + (", kept for other reels" if keep else "")])
    return 0


@setting_group.command(name="change", help="Declare a setting otherwise; values it cannot take any more become its default.")
@click.argument("file", type=REEL)
@click.argument("name")
@_declared
@click.option("--rename", help="Another name of it.")
@click.option("--json", "as_json", is_flag=True)
def change_setting(file: Path, name: str, rename: str | None, as_json: bool, **told: Any) -> int:
    old = _own(read_reel(file), name)
    setting = _changed(old if rename is None else msgspec.structs.replace(old, name=rename), told)
    _edit(file, lambda reel: with_own_setting(reel, setting, old=name))
    answer(as_json, _document(setting), [_words(setting)])
    return 0


@setting_group.command(name="remove", help="Take a setting out of a reel, with all its values.")
@click.argument("file", type=REEL)
@click.argument("name")
@click.option("--json", "as_json", is_flag=True)
def remove_setting(file: Path, name: str, as_json: bool) -> int:
    _edit(file, lambda reel: without_own_setting(reel, name))
    answer(as_json, {"removed": name}, [f"{name}: taken out"])
    return 0


@setting_group.command(name="list", help="The own settings of a reel, or those kept for all reels.")
@click.argument("file", type=REEL, required=False)
@click.option("--json", "as_json", is_flag=True)
def list_settings(file: Path | None, as_json: bool) -> int:
    found = KEPT_SETTINGS.read().items if file is None else read_reel(file).settings
    where = "kept" if file is None else "in this reel"
    answer(as_json, {"settings": [_document(s) for s in found]}, [_words(s) for s in found] or [f"no own setting {where}"])
    return 0


@reel_group.group(name="recipe", cls=StrictGroup, help="Recipes that go from reel to reel.")
def recipe_group() -> None:
    pass


@recipe_group.command(name="save", help="Save a recipe to a file, or keep it for other reels.")
@click.argument("file", type=REEL)
@click.argument("name")
@click.option("--out", type=click.Path(path_type=Path), help="File that is written, such as final.recipe.")
@click.option("--keep", is_flag=True, help="Keep it among your recipes.")
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def save_one(file: Path, name: str, out: Path | None, keep: bool, overwrite: bool, as_json: bool) -> int:
    reel = read_reel(file)
    recipe = reel.declared(reel.recipe(name))
    if out is None and not keep:
        raise WrongInput("recipe save: nowhere to save it; expected --out FILE or --keep.")
    if out is not None:
        may_write(out, overwrite)
        save_recipe(out, recipe)
    if keep:
        held = KEPT_RECIPES.read()
        if any(r.name == name for r in held.items) and not overwrite:
            raise WrongInput(f"recipe save: '{name[:60]}' is kept already; expected --overwrite, or another name.")
        KEPT_RECIPES.save(held.added(recipe))
    words = " and ".join((*([str(out)] if out else []), *(["your recipes"] if keep else [])))
    answer(as_json, {"recipe": name, "out": None if out is None else str(out), "kept": keep}, [f"recipe '{name}': saved to {words}"])
    return 0


@recipe_group.command(name="load", help="Take a recipe from a file, or a kept one by its name, into a reel; what the reel lacks is said.")
@click.argument("file", type=REEL)
@click.argument("source")
@click.option("--kept", is_flag=True, help="SOURCE is the name of one of your recipes.")
@click.option("--json", "as_json", is_flag=True)
def load_one(file: Path, source: str, kept: bool, as_json: bool) -> int:
    if kept:
        held = KEPT_RECIPES.read().items
        recipe = next((r for r in held if r.name == source), None)
        if recipe is None:
            raise WrongInput(f"recipe load: '{source[:60]}' is not kept; expected one of {_names(held)}.")
    else:
        recipe = read_recipe(Path(source))
    said = lacking_steps(recipe.finish_order)

    def _bring(reel: Reel) -> Reel:
        new, words = with_brought_recipe(reel, recipe)
        said.extend(words)
        return new

    new = _edit(file, _bring)
    answer(as_json, {"recipe": new.recipes[-1].name, "said": said}, [f"recipe '{new.recipes[-1].name}': in {file}", *said])
    return 0


@recipe_group.command(name="list", help="The recipes you keep.")
@click.option("--json", "as_json", is_flag=True)
def list_recipes(as_json: bool) -> int:
    held = KEPT_RECIPES.read().items
    answer(as_json, {"recipes": [r.name for r in held]}, [r.name for r in held] or ["no recipe is kept"])
    return 0


def _edit(file: Path, change: Any) -> Reel:
    """Read a reel, change it, and save it where something changed."""
    with writing(file):
        reel = read_reel(file)
        new: Reel = change(reel)
        if new != reel:
            save_keeping(file, new, datetime.now())
    return new


def _own(reel: Reel, name: str) -> OwnSetting:
    found = next((s for s in reel.settings if s.name == name), None)
    if found is None:
        raise WrongInput(f"setting: no own setting '{name[:40]}'; expected one of {_names(reel.settings)}.")
    return found


def _names(items: Any) -> str:
    return ", ".join(f"'{x.name}'" for x in items) or "those there are, which are none yet"


def _document(setting: OwnSetting) -> dict:
    return dict(msgspec.to_builtins(setting))


def _words(setting: OwnSetting) -> str:
    shown = setting.setting
    unit = f" {setting.unit}" if setting.unit else ""
    acts = "changes the picture" if setting.acts_on == "picture" else "changes the time alone"
    usual = f"{shown.text(shown.neutral)} unless said otherwise"
    return f"{setting.name}: {setting.label}, {shown.expected}{unit}, {usual}; {acts}; {{{setting.field}}}"
