"""Numbers of bytes in words."""

from __future__ import annotations


def bytes_text(count: float) -> str:
    """Return a number of bytes in words, decimal as disks are sold.

    Parameters
    ----------
    count : of bytes
    """
    for unit, name in ((1e12, "TB"), (1e9, "GB"), (1e6, "MB"), (1e3, "kB")):
        if count >= unit:
            return f"{count / unit:.3g} {name}"
    return f"{count:.0f} B"
