"""Change in percent: of what was there before."""

from __future__ import annotations


def change_percent(before: float, after: float) -> float | None:
    """Return how many percent more (or less) `after` is than `before`; None where there was nothing before.

    24 s becoming 36 s is +50 %.

    Parameters
    ----------
    before, after : two amounts of one kind
    """
    return None if before == 0 else 100.0 * (after - before) / before
