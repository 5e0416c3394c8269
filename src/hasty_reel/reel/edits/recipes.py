"""Edits of recipes, and of a shot's departures from its own."""

from __future__ import annotations

from hasty_reel.errors import WrongInput
from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits.shots import with_shot
from hasty_reel.reel.edits.singleframes import with_caches
from hasty_reel.reel.edits.whole import replaced
from hasty_reel.reel.shot import Shot
from hasty_reel.settings.recipe import Recipe, departing
from hasty_reel.settings.setting import Value


def with_line(reel: Reel, shot_id: str, field: str, value: Value) -> Reel:
    """Return the reel with one line of a shot's recipe changed, for every shot of that recipe.

    Where the shot departs from its recipe in this line, its departure is changed instead. Another step of the light cache lets
    go of the frames where caches were placed.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    field : of the line
    value : its new value; None where the line has none
    """
    value = _checked(reel, field, value, f"Shot {shot_id}")
    if field == "cache_step":  # a step that is asked for counts from now on
        reel = with_caches(reel, shot_id, ())
    shot = reel.shot(shot_id)
    if field in shot.departures:
        return departed(reel, shot_id, field, value)
    recipes = tuple(departing(r, {field: value}) if r.name == shot.recipe else r for r in reel.recipes)
    return checked_reel(replaced(reel, recipes=recipes), reel)


def with_finish_order(reel: Reel, shot_id: str, order: tuple[str, ...]) -> Reel:
    """Return the reel with another order of finishing in a shot's recipe, for every shot of that recipe.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    order : names of steps
    """
    of = reel.shot(shot_id).recipe
    recipes = tuple(replaced(r, finish_order=tuple(order)) if r.name == of else r for r in reel.recipes)
    return checked_reel(replaced(reel, recipes=recipes), reel)


def with_settings(reel: Reel, shot_id: str, settings: Recipe) -> Reel:
    """Return the reel whose shot has the settings of a proof: its recipe takes them line by line, and the shot departs no more.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    settings : recipe of the proof
    """
    shot = reel.shot(shot_id)
    old = reel.recipe(shot.recipe)
    kept = {f: getattr(old, f) for f in ("name", "samples_floor", "samples_ceiling", "stop_noise", "time_cap")}
    new = in_document(replaced(settings, **kept), reel)
    recipes = tuple(new if r is old else r for r in reel.recipes)
    return with_shot(replaced(reel, recipes=recipes), shot_id, lambda s: replaced(s, departures={}))


def in_document(recipe: Recipe, reel: Reel) -> Recipe:
    """Return a recipe as it stands in a reel: without declarations, and with values of the own settings that the reel has.

    Parameters
    ----------
    recipe : that comes from a proof or a file
    reel : the reel
    """
    known = {s.name: s for s in reel.settings}
    own = tuple(v for v in recipe.own if v.name in known and v.value != known[v.name].default)
    return replaced(recipe, own=own, own_settings=())


def _checked(reel: Reel, field: str, value: Value, where: str) -> Value:
    """A value that a setting of this reel takes."""
    setting = reel.setting(field)
    if setting is None:
        raise WrongInput(f"{where}: no setting '{field[:40]}'; expected one of {reel.setting_names}.")
    return setting.checked(value, where)


def departed(reel: Reel, shot_id: str, field: str, value: Value) -> Reel:
    """Return the reel with a shot that has its own value in one line of its recipe.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    field : of the line
    value : its new value; None where the line has none
    """
    value = _checked(reel, field, value, f"Shot {shot_id}")
    return with_shot(reel, shot_id, lambda s: replaced(s, departures={**s.departures, field: value}))


def rejoined(reel: Reel, shot_id: str, field: str) -> Reel:
    """Return the reel with a shot that follows its recipe again in one line.

    Parameters
    ----------
    reel : the reel; it stays as it was
    shot_id : of the shot, or of the layer as SHOT.LAYER
    field : of the line
    """
    return with_shot(reel, shot_id, lambda s: replaced(s, departures={k: v for k, v in s.departures.items() if k != field}))


def with_recipe_line(reel: Reel, name: str, field: str, value: Value) -> Reel:
    """Return the reel with one line of a recipe changed; shots that depart in it keep their own value.

    Parameters
    ----------
    reel : the reel; it stays as it was
    name : of the recipe
    field : of the line
    value : its new value; None where the line has none
    """
    value = _checked(reel, field, value, f"Recipe '{name}'")
    old = reel.recipe(name)
    return checked_reel(replaced(reel, recipes=tuple(departing(r, {field: value}) if r is old else r for r in reel.recipes)))


def renamed_recipe(reel: Reel, name: str, new: str) -> Reel:
    """Return the reel with a recipe under another name, everywhere at once.

    Parameters
    ----------
    reel : the reel; it stays as it was
    name : of the recipe
    new : the new name
    """
    old = reel.recipe(name)

    def _shot_of(shot: Shot) -> Shot:
        layers = shot.layers
        if any(y.recipe == name for y in layers):
            layers = tuple(replaced(y, recipe=new) if y.recipe == name else y for y in layers)
        if shot.recipe != name and layers is shot.layers:
            return shot
        return replaced(shot, recipe=new if shot.recipe == name else shot.recipe, layers=layers)

    recipes = tuple(replaced(r, name=new) if r is old else r for r in reel.recipes)
    return checked_reel(replaced(reel, recipes=recipes, shots=tuple(_shot_of(s) for s in reel.shots)))


def duplicated_recipe(reel: Reel, name: str) -> tuple[Reel, str]:
    """Return the reel with a copy of a recipe behind it, and the copy's name.

    Parameters
    ----------
    reel : the reel; it stays as it was
    name : of the recipe

    Returns
    -------
    reel : Reel
        With the copy.
    name : str
        Of the copy.
    """
    old = reel.recipe(name)
    taken = {r.name for r in reel.recipes}
    new = next(n for k in range(2, len(taken) + 3) if (n := f"{name[:190]} {k}") not in taken)
    recipes: tuple[Recipe, ...] = tuple(t for r in reel.recipes for t in ((r, replaced(r, name=new)) if r is old else (r,)))
    return checked_reel(replaced(reel, recipes=recipes)), new


def removed_recipe(reel: Reel, name: str) -> Reel:
    """Return the reel without a recipe.

    Parameters
    ----------
    reel : the reel; it stays as it was
    name : of the recipe

    Raises
    ------
    WrongInput
        When shots use it, or it is the only one.
    """
    users = [t.id for s in reel.shots for t in (s, *s.as_layers()) if t.recipe == name]
    if users:
        raise WrongInput(f"Recipe '{name}' is used by {', '.join(dict.fromkeys(users[:5]))}; expected one that no shot uses.")
    if len(reel.recipes) == 1:
        raise WrongInput(f"Recipe '{name}' is the only one; expected a reel of at least one recipe.")
    return checked_reel(replaced(reel, recipes=tuple(r for r in reel.recipes if r.name != name)))
