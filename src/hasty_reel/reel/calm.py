"""How calm a film is to be, and from where it is seen, as a reel says it."""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal, get_args

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.viewers import seen_by

LEAST_CALM, MOST_CALM = 1.0, 90.0
"""Percent of viewers who may see unrest, at least and at most."""
Calm = Annotated[float, msgspec.Meta(ge=LEAST_CALM, le=MOST_CALM)] | Literal["eyes"]
"""How many viewers in a hundred may see unrest, side by side with a still version; 'eyes': none, by the eye test that counts."""
LEVELS = {"strict": 10.0, "usual": 25.0, "relaxed": 50.0}
"""Named levels of calm, in percent of viewers: 1 in 10, 1 in 4, 1 in 2."""
USUAL_CALM = LEVELS["usual"]
Viewing = Literal["laptop", "phone", "television", "cinema"]
VIEWINGS: tuple[Viewing, ...] = get_args(Viewing)
"""Where a film is seen."""
_SHARE = re.compile(r"(\d{1,2})\s+in\s+(\d{1,2})|(\d{1,2}(?:\.\d+)?)\s*%?")


def read_calm(text: str, where: str = "calm") -> Calm:
    """Return how calm a film is to be, as typed: a named level, '1 in 4', '25 %', or 'eyes'.

    Parameters
    ----------
    text : as typed
    where : what is set, for the message

    Raises
    ------
    WrongInput
        When it is none of them.

    Examples
    --------
    >>> read_calm("usual"), read_calm("1 in 10"), read_calm("eyes")
    (25.0, 10.0, 'eyes')
    """
    text = text.strip()
    if text == "eyes":
        return "eyes"
    if text in LEVELS:
        return LEVELS[text]
    match = _SHARE.fullmatch(text)
    if match is not None:
        percent = float(match[3]) if match[3] else 100.0 * int(match[1]) / max(1, int(match[2]))
        if LEAST_CALM <= percent <= MOST_CALM:
            return percent
    raise WrongInput(f"{where} '{text[:40]}'; expected {', '.join(LEVELS)}, eyes, or viewers such as 1 in 4 or 25 %, 1 to 90 in 100.")


def limits_kept(document: dict[str, Any]) -> dict[str, Any]:
    """Return a reel of format 1 as one of format 2: limits stay what they were.

    They were told in percent of what the eyes that count just see: that is 'eyes' now, and of a shot that held another percentage
    the share of viewers who see as much on an even grey.

    Parameters
    ----------
    document : a reel file, as JSON has it
    """
    return {**document, "calm": "eyes", "shots": [_converted(shot) for shot in document.get("shots", ())]}


def _converted(shot: dict[str, Any]) -> dict[str, Any]:
    shot = dict(shot)
    if shot.get("layers"):
        shot["layers"] = [_valueless(layer) for layer in shot["layers"]]
    hold = shot.get("hold") or {}
    if hold.get("kind") == "clean" and hold.get("value") != 100.0:
        share = 100.0 * seen_by(float(hold.get("value", 100.0)) / 100.0)
        shot["calm"] = float(min(max(round(share, 1), LEAST_CALM), MOST_CALM))
    return _valueless(shot)


def _valueless(part: dict[str, Any]) -> dict[str, Any]:
    hold = part.get("hold") or {}
    return {**part, "hold": {**hold, "value": 0.0}} if hold.get("kind") == "clean" else part
