"""Edits of the artist's own settings: declared in the reel, changed, taken out; and recipes that come from elsewhere with theirs."""

from __future__ import annotations

from collections.abc import Callable

from hasty_reel.errors import WrongInput
from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits.whole import replaced
from hasty_reel.reel.shot import Layer, Shot
from hasty_reel.settings.own import OWN, OwnSetting, OwnValue, checked_own_setting
from hasty_reel.settings.recipe import Recipe
from hasty_reel.settings.setting import Value


def with_own_setting(reel: Reel, setting: OwnSetting, old: str | None = None) -> Reel:
    """Return the reel with an own setting declared, or declared otherwise; values that it cannot take any more become its default.

    Parameters
    ----------
    reel : the reel; it stays as it was
    setting : its declaration
    old : name of the setting that it takes the place of; None adds one

    Raises
    ------
    WrongInput
        When there is one of its name already, or none of the old name.
    """
    checked_own_setting(setting, f"Reel '{reel.name}'")
    names = [s.name for s in reel.settings]
    if setting.name in names and setting.name != old:
        raise WrongInput(f"Own setting '{setting.name}' is there already; expected another name.")
    if old is None:
        return checked_reel(replaced(reel, settings=(*reel.settings, setting)), reel)
    if old not in names:
        raise WrongInput(f"No own setting '{old[:40]}'; expected one of {', '.join(names) or 'those of the reel, which has none'}.")
    settings = tuple(setting if s.name == old else s for s in reel.settings)

    def _value(value: Value) -> Value:
        try:
            return setting.setting.checked(value, "")
        except WrongInput:
            return None

    return checked_reel(replaced(_mapped(reel, old, setting.name, _value), settings=settings))


def without_own_setting(reel: Reel, name: str) -> Reel:
    """Return the reel without an own setting, and without any value of it.

    Parameters
    ----------
    reel : the reel; it stays as it was
    name : of the setting

    Raises
    ------
    WrongInput
        When there is none of that name.
    """
    if name not in [s.name for s in reel.settings]:
        known = ", ".join(s.name for s in reel.settings) or "none"
        raise WrongInput(f"No own setting '{name[:40]}'; the reel has {known}.")
    left = tuple(s for s in reel.settings if s.name != name)
    return checked_reel(replaced(_mapped(reel, name, name, lambda value: None), settings=left))


def with_brought_recipe(reel: Reel, recipe: Recipe) -> tuple[Reel, list[str]]:
    """Return the reel with a recipe from elsewhere behind its own, with the own settings it needs, and what is to be said of it.

    Parameters
    ----------
    reel : the reel; it stays as it was
    recipe : with the declarations of its own settings

    Returns
    -------
    reel : Reel
        With the recipe.
    said : list[str]
        What came along, what is declared otherwise here, and what has another name now; in sentences.
    """
    said = []
    known = {s.name: s for s in reel.settings}
    values = []
    for setting in recipe.own_settings:
        value = recipe.value(setting.field)
        if setting.name not in known:
            reel = with_own_setting(reel, setting)
            said.append(f"Own setting '{setting.label}' came along with it.")
        elif known[setting.name] != setting:
            try:
                value = known[setting.name].setting.checked(value, "")
            except WrongInput:
                value = known[setting.name].setting.neutral
            said.append(f"Own setting '{setting.label}' is declared otherwise here; this reel's declaration stays.")
        values.append((setting.name, float(value or 0.0)))
    taken = {r.name for r in reel.recipes}
    free = (recipe.name, *(f"{recipe.name[:190]} {k}" for k in range(2, len(taken) + 3)))
    name = next(n for n in free if n not in taken)
    if name != recipe.name:
        said.append(f"There is a recipe '{recipe.name}' already; this one is called '{name}'.")
    defaults = {s.name: s.default for s in reel.settings}
    own = tuple(OwnValue(n, v) for n, v in values if v != defaults[n])
    return checked_reel(replaced(reel, recipes=(*reel.recipes, replaced(recipe, name=name, own=own, own_settings=())))), said


def _mapped(reel: Reel, old: str, new: str, change: Callable[[Value], Value]) -> Reel:
    """The reel with every value of an own setting changed, by recipes, shots and layers; None takes it out."""

    def _departures(departures: dict[str, Value]) -> dict[str, Value]:
        out = {f: v for f, v in departures.items() if f != OWN + old}
        if OWN + old in departures and (value := change(departures[OWN + old])) is not None:
            out[OWN + new] = value
        return out

    def _recipe(recipe: Recipe) -> Recipe:
        own = []
        for held in recipe.own:
            value = change(held.value) if held.name == old else held.value
            if value is not None:
                own.append(replaced(held, name=new if held.name == old else held.name, value=float(value)))
        return replaced(recipe, own=tuple(own))

    def _layer(layer: Layer) -> Layer:
        return replaced(layer, departures=_departures(layer.departures)) if layer.departures else layer

    def _shot(shot: Shot) -> Shot:
        if not shot.departures and not shot.layers:
            return shot
        return replaced(shot, departures=_departures(shot.departures), layers=tuple(_layer(y) for y in shot.layers))

    return replaced(reel, recipes=tuple(_recipe(r) for r in reel.recipes), shots=tuple(_shot(s) for s in reel.shots))
