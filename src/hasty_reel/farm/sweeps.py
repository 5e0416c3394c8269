"""Sweeps: proofs in which one setting takes several values, from the least up."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.sweep import OF_ORDER, order_of
from hasty_reel.farm.order import ProofOrder
from hasty_reel.settings.recipe import Recipe, departing
from hasty_reel.settings.setting import Value
from hasty_reel.typednumbers import read_number

MOST_VALUES = 24
ORDER_BOUNDS = {"samples": (1, 65536), "scale": (1, 200)}
USUAL: dict[str, tuple[Value, ...]] = {"samples": (4, 8, 16, 32, 64), "scale": (10.0, 15.0, 20.0, 25.0, 35.0)}
"""Values that are tried unless others are told."""


def usual_values(name: str, recipe: Recipe) -> tuple[Value, ...]:
    """Return the values a sweep over a setting begins with: those that are usual, else the bounds of its line and what the recipe has.

    Parameters
    ----------
    name : of the setting that is swept over
    recipe : with its departures
    """
    if name in USUAL:
        return USUAL[name]
    line = recipe.setting(name)
    if line.usual:
        return line.usual
    return tuple(dict.fromkeys(v for v in (line.neutral, recipe.value(name), line.low, line.high) if v is not None or line.optional))


def read_values(name: str, text: str, where: str, recipe: Recipe) -> list[Value]:
    """Values of a setting as they are typed: '0, 1, 2, none'; a value may go by its name.

    Parameters
    ----------
    name : of the setting that is swept over
    text : as typed
    where : the words before the value that is wrong
    recipe : with its departures

    Raises
    ------
    WrongInput
        Names the one that is no number.
    """
    out: list[Value] = []
    setting = next((s for s in recipe.settings if s.field == name), None)
    for part in text.replace(";", ",").split(","):
        plain = part.strip()
        named, value = setting.named(plain) if setting is not None else (False, None)
        if not named:
            try:
                if not plain:
                    raise ValueError("nothing between two commas")
                number = read_number(plain)
                value = int(number) if number is not None and number == int(number) else number
            except (ValueError, OverflowError) as error:
                raise WrongInput(f"{where} '{plain[:40]}' is no number; expected values such as 0, 1, 2, 4, or none.") from error
        out.append(value)
    return out


def next_label(name: str, taken: Collection[str]) -> str:
    """Return the name of the next sweep over a setting: 'bounces 2' where 'bounces 1' is taken.

    Parameters
    ----------
    name : of the setting that is swept over
    taken : labels that are taken
    """
    return next(n for k in range(1, len(taken) + 2) if (n := f"{name} {k}") not in taken)


def sweep_orders(base: ProofOrder, name: str, values: Sequence[Value], label: str) -> list[ProofOrder]:
    """One order for each value of a setting, the cheapest first.

    Parameters
    ----------
    base : order that is varied
    name : a line of the recipe, or 'samples' or 'scale' of the proof
    values : of the setting
    label : name of the sweep, the same in all its proofs

    Raises
    ------
    WrongInput
        When the setting or a value does not do.
    """
    if name not in {*OF_ORDER, *(s.field for s in base.recipe.settings)}:
        raise WrongInput(f"Sweep: '{name[:40]}'; expected {', '.join(OF_ORDER)} or a line of the recipe such as bounces.")
    different = list(dict.fromkeys(_checked(name, v, base.recipe) for v in values))
    if not 2 <= len(different) <= MOST_VALUES:
        raise WrongInput(f"Sweep over {name}: {len(different)} values; expected 2 to {MOST_VALUES} different ones.")
    orders = []
    for value in sorted(different, key=lambda v: order_of(name, v)):
        if name in OF_ORDER:
            assert value is not None
            order = replace(base, samples=int(value)) if name == "samples" else replace(base, scale=float(value))
        else:
            order = replace(base, recipe=departing(base.recipe, {name: value}))
        orders.append(replace(order, sweep=label).checked())
    return orders


def _checked(name: str, value: Value, recipe: Recipe) -> Value:
    """A value that a sweep over this setting may have."""
    if name not in OF_ORDER:
        return recipe.setting(name).checked(value, "Sweep")
    if value is None:
        raise WrongInput(f"Sweep over {name}: none; expected a number.")
    low, high = ORDER_BOUNDS[name]
    if not low <= value <= high or (name == "samples" and value != int(value)):
        kind = "a whole number" if name == "samples" else "a number"
        raise WrongInput(f"Sweep over {name}: {value:g}; expected {kind} from {low:g} to {high:g}.")
    return value


def swept_words(order: ProofOrder) -> str:
    """Return the value an order of a sweep has in it, such as 'bounces 4'; the name of the sweep where it does not tell the setting.

    Parameters
    ----------
    order : of the sweep
    """
    name = order.sweep.rpartition(" ")[0]
    if name in OF_ORDER:
        return f"samples {order.samples}" if name == "samples" else f"size {order.scale:g} %"
    setting = next((s for s in order.recipe.settings if s.field == name), None)
    return order.sweep if setting is None else f"{setting.words} {setting.text(order.recipe.value(name))}"
