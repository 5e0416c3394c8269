"""`*.recipe`: one recipe in a JSON file, with the declarations of its own settings, so that it goes from reel to reel."""

from __future__ import annotations

import json
from pathlib import Path

import msgspec

from hasty_reel.errors import ReelError, reason
from hasty_reel.regularfile import read_regular
from hasty_reel.settings.own import checked_own_setting
from hasty_reel.settings.recipe import Recipe, checked_recipe
from hasty_reel.wholefile import clear_left_over, write_whole

FORMAT = 1
LARGEST_BYTES = 1 << 20


class RecipeFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What stands in the file; its recipe declares its own settings itself."""

    recipe_format: int = FORMAT
    recipe: Recipe


def checked_travelling(recipe: Recipe, where: str) -> Recipe:
    """Return a recipe that stands without a reel, if it makes sense.

    Parameters
    ----------
    recipe : with the declarations of its own settings
    where : where it stands, in words for the message

    Raises
    ------
    ReelError
        Names what is wrong and what was expected.
    """
    names = [s.name for s in recipe.own_settings]
    if len(set(names)) != len(names):
        raise ReelError(f"{where}: two own settings of one name; expected different names.")
    for setting in recipe.own_settings:
        checked_own_setting(setting, where)
    unknown = {v.name for v in recipe.own} - set(names)
    if unknown:
        raise ReelError(f"{where}: a value of own setting '{sorted(unknown)[0][:40]}'; expected its declaration in own_settings.")
    if not recipe.name.strip() or len(recipe.name) > 200 or not recipe.name.isprintable():
        raise ReelError(f"{where}: name '{recipe.name[:40]!a}'; expected up to 200 characters that show.")
    return checked_recipe(recipe.declared(recipe.own_settings))


def read_recipe(path: Path) -> Recipe:
    """Read a recipe file.

    Parameters
    ----------
    path : of the file

    Raises
    ------
    ReelError
        One sentence: the file, the path of the field, what was expected.
    """
    raw = read_regular(path, LARGEST_BYTES, "a recipe file", ReelError)
    try:
        found = msgspec.json.decode(raw, type=RecipeFile)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise ReelError(f"{path}: {error}.") from error
    if found.recipe_format != FORMAT:
        raise ReelError(f"{path}: $.recipe_format: {found.recipe_format}; expected {FORMAT}.")
    return checked_travelling(found.recipe, f"{path}: $.recipe")


def save_recipe(path: Path, recipe: Recipe) -> None:
    """Save a recipe to a file, whole or not at all.

    Parameters
    ----------
    path : of the file
    recipe : with the declarations of its own settings

    Raises
    ------
    ReelError
        When the file cannot be written; an earlier one is untouched.
    """
    held = json.loads(msgspec.json.encode(RecipeFile(recipe=checked_travelling(recipe, f"Recipe '{recipe.name[:60]}'"))))
    try:
        clear_left_over(path)
        write_whole(path, (json.dumps(held, indent=2, sort_keys=True, ensure_ascii=False) + "\n").encode())
    except OSError as error:
        raise ReelError(f"{path}: cannot be saved ({reason(error)}); nothing was changed.") from error


def schema_text() -> str:
    """JSON Schema (2020-12) of a recipe file, as docs/recipe.schema.json holds it."""
    from hasty_reel.reel.file import with_bounds

    return json.dumps(with_bounds(msgspec.json.schema(RecipeFile)), indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    Path("docs/recipe.schema.json").write_text(schema_text(), encoding="utf-8")
