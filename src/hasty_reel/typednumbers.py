"""Numbers as they are typed."""

from __future__ import annotations

from hasty_reel.errors import WrongInput


def read_number(text: str) -> float | None:
    """Return a number as it is typed: a comma does for a point, a unit behind it is let pass; None for 'none'.

    Parameters
    ----------
    text : as written

    Raises
    ------
    ValueError
        When it is no number.
    """
    text = text.strip().replace(",", ".").replace("−", "-")
    if text.lower() in ("none", "no", "off", "–", "-", ""):
        return None
    for unit in ("frames", "GB", "%", "°", "L*", "px", "s", "h"):
        if text.endswith(unit):
            text = text[: -len(unit)].strip()
            break
    return float(text)


def need_number(text: str, what: str) -> float:
    """Return a number as it is typed.

    Parameters
    ----------
    text : as typed
    what : it is for, in words for the message

    Returns
    -------
    float
        The value.

    Raises
    ------
    WrongInput
        When it is none.
    """
    try:
        value = read_number(text)
    except ValueError:
        value = None
    if value is None:
        raise WrongInput(f"{what}: '{text[:40]}' is no number.")
    return value


def need_whole_number(text: str, what: str) -> int:
    """Return a whole number as it is typed.

    Parameters
    ----------
    text : as typed
    what : it is for, in words for the message

    Returns
    -------
    int
        The number.

    Raises
    ------
    WrongInput
        When it is none.
    """
    try:
        return int(text.strip())
    except ValueError as error:
        raise WrongInput(f"{what}: '{text[:40]}' is no whole number.") from error
