"""Numbers as they are typed."""

from __future__ import annotations


def read_number(text: str) -> float | None:
    """A number as it is typed: a comma does for a point, a unit behind it is let pass; None for 'none'.

    Raises
    ------
    ValueError
        When it is no number.
    """
    text = text.strip().replace(",", ".").replace("−", "-")
    if text.lower() in ("none", "no", "off", "–", "-", ""):
        return None
    for unit in ("frames", "%", "°", "L*", "s", "h"):
        if text.endswith(unit):
            text = text[: -len(unit)].strip()
            break
    return float(text)
