"""The order in which finishing takes its steps: our own four, each once, and the artist's own between them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from hasty_reel.errors import ReelError

if TYPE_CHECKING:
    from hasty_reel.settings.recipe import Recipe

DESPIKE, DENOISE, RESIZE, SHARPEN = "despike", "denoise", "resize", "sharpen"
USUAL: tuple[str, ...] = (DESPIKE, DENOISE, RESIZE, SHARPEN)
"""Denoising before resizing, where the renderer's guides still fit the pixels; sharpening last, so that its noise is not spread."""
ENLARGED_FIRST: tuple[str, ...] = (DESPIKE, RESIZE, DENOISE, SHARPEN)
MOST_OWN = 8
LONGEST_NAME = 250


def own_names(order: Sequence[str]) -> list[str]:
    """Return the names of the artist's own steps in an order.

    Parameters
    ----------
    order : names of steps
    """
    return [step for step in order if step not in USUAL]


def checked_order(order: Sequence[str], where: str) -> tuple[str, ...]:
    """Return an order of steps, if it makes sense.

    Parameters
    ----------
    order : names of steps
    where : whose it is, in words for the message

    Raises
    ------
    ReelError
        Says what is missing, twice or in the wrong place.
    """
    for name in USUAL:
        if order.count(name) != 1:
            raise ReelError(f"{where}: order of finishing has {name} {order.count(name)} times; expected each of {', '.join(USUAL)} once.")
    if order.index(DESPIKE) > order.index(DENOISE):
        raise ReelError(f"{where}: despike after denoise; expected it before, since denoising spreads what it is to find.")
    own = own_names(order)
    if len(own) > MOST_OWN or len(set(own)) != len(own):
        raise ReelError(f"{where}: {len(own)} own steps in the order of finishing; expected at most {MOST_OWN}, each once.")
    for name in own:
        if not name.strip() or len(name) > LONGEST_NAME or not name.isprintable() or any(c in name for c in ",>"):
            raise ReelError(f"{where}: own step '{name[:60]}'; expected a name of up to {LONGEST_NAME} characters without commas and '>'.")
    return tuple(order)


def read_order(text: str, where: str) -> tuple[str, ...]:
    """Read an order of steps as it is typed; those of our own four that are left out stand where they usually do.

    Parameters
    ----------
    text : names with commas between them; '' for the usual order
    where : whose it is, in words for the message

    Returns
    -------
    tuple[str, ...]
        Names of steps.

    Raises
    ------
    ReelError
        Says what is missing, twice or in the wrong place.
    """
    order = [name.strip() for name in text.split(",")] if text.strip() else list(USUAL)
    for k, name in enumerate(USUAL):
        if name not in order:
            order.insert(max((order.index(other) + 1 for other in USUAL[:k] if other in order), default=0), name)
    return checked_order(order, where)


def with_order(order: Sequence[str], name: str, way: int) -> tuple[str, ...]:
    """Return the order with one step taken one place earlier or later.

    Parameters
    ----------
    order : names of steps
    name : of the step
    way : -1 is earlier, 1 later
    """
    steps = list(order)
    at = steps.index(name)
    to = min(max(at + way, 0), len(steps) - 1)
    steps.insert(to, steps.pop(at))
    return tuple(steps)


def chain_words(recipe: Recipe, window: int) -> str:
    """Return the whole chain of a recipe in words, where it is another than the usual; '' where it is the usual one.

    What was measured of the usual steps holds for it; another order, or a step of the artist's own, has to be
    tried as a whole, and is told from others by these words.

    Parameters
    ----------
    recipe : with its departures
    window : frames denoised over, where the recipe's cannot be had; 1 is off
    """
    words = {
        DESPIKE: "despike" if recipe.despike else "",
        DENOISE: f"denoise {window}{'' if recipe.denoise_thorough else ' quick'} {recipe.denoise_strength:g} %" if window > 1 else "",
        RESIZE: f"resize from {recipe.render_scale:g} %" if recipe.render_scale != 100 else "",
        SHARPEN: f"sharpen {recipe.sharpen:g}" if recipe.sharpen else "",
    }
    done = [name for name in recipe.finish_order if words.get(name, name)]
    if done == [name for name in USUAL if words[name]]:
        return ""
    return " > ".join(words.get(name, name) for name in done)
