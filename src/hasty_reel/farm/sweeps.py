"""Sweeps: proofs in which one setting takes several values, from the least up."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.sweep import OF_ORDER, Value, order_of
from hasty_reel.farm.order import ProofOrder
from hasty_reel.reel.numbers import read_number
from hasty_reel.reel.recipe import LINE, Recipe

MOST_VALUES = 24
ORDER_BOUNDS = {"samples": (1, 65536), "scale": (1, 200)}
USUAL: dict[str, tuple[Value, ...]] = {
    "bounces": (0, 1, 2, 3, 4, 6, 8),
    "brightness_ceiling": (1.0, 2.0, 5.0, 10.0, 30.0, None),
    "samples": (4, 8, 16, 32, 64),
    "scale": (10.0, 15.0, 20.0, 25.0, 35.0),
    "shutter_steps": (1, 2, 4, 8, 16),
    "cache_step": (0, 1, 5, 10, 20),
    "fog_step": (50.0, 100.0, 200.0, 400.0, 1000.0),
}
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
    line = LINE[name]
    return tuple(dict.fromkeys(v for v in (line.neutral, getattr(recipe, name), line.low, line.high) if v is not None or line.optional))


def read_values(name: str, text: str, where: str) -> list[Value]:
    """Values of a setting as they are typed: '0, 1, 2, none'; a value may go by its name.

    Parameters
    ----------
    name : of the setting that is swept over
    text : as typed
    where : the words before the value that is wrong

    Raises
    ------
    WrongInput
        Names the one that is no number.
    """
    out: list[Value] = []
    for part in text.replace(";", ",").split(","):
        plain = part.strip()
        named, value = LINE[name].named(plain) if name in LINE else (False, None)
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
    if name not in LINE and name not in OF_ORDER:
        raise WrongInput(f"Sweep: '{name[:40]}'; expected {', '.join(OF_ORDER)} or a line of the recipe such as bounces.")
    different = list(dict.fromkeys(_checked(name, v) for v in values))
    if not 2 <= len(different) <= MOST_VALUES:
        raise WrongInput(f"Sweep over {name}: {len(different)} values; expected 2 to {MOST_VALUES} different ones.")
    orders = []
    for value in sorted(different, key=lambda v: order_of(name, v)):
        if name in OF_ORDER:
            assert value is not None
            order = replace(base, samples=int(value)) if name == "samples" else replace(base, scale=float(value))
        else:
            order = replace(base, recipe=msgspec.structs.replace(base.recipe, **{name: value}))
        orders.append(replace(order, sweep=label).checked())
    return orders


def _checked(name: str, value: Value) -> Value:
    """A value that a sweep over this setting may have."""
    if name in LINE:
        return LINE[name].checked(value, "Sweep")
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
    if name not in LINE:
        return order.sweep
    line = LINE[name]
    return f"{line.words} {line.text(getattr(order.recipe, name))}"
