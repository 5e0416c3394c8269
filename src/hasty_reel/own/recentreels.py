"""The reels opened lately, newest first, kept for the person rather than for a reel."""

from __future__ import annotations

import contextlib
from pathlib import Path

import msgspec
import platformdirs

from hasty_reel.errors import WrongInput
from hasty_reel.regularfile import read_regular
from hasty_reel.wholefile import write_whole

MOST_REELS = 10
LARGEST_BYTES = 1 << 20


def recent_path() -> Path:
    """Return where the list is kept."""
    return Path(platformdirs.user_state_dir("hasty-reel")) / "recent.json"


def recent_reels(path: Path) -> list[Path]:
    """Return the reels opened lately that are still there; none where the list cannot be read.

    Parameters
    ----------
    path : of the list
    """
    try:
        names = msgspec.json.decode(read_regular(path, LARGEST_BYTES, "a list of reels"), type=list[str])
        return [Path(n) for n in names[:MOST_REELS] if Path(n).is_file()]
    except (OSError, WrongInput, msgspec.DecodeError, UnicodeDecodeError, RecursionError, ValueError):
        return []


def remember(path: Path, reel: Path) -> None:
    """Put a reel first in the list; a list that cannot be kept is no reason not to work.

    Parameters
    ----------
    path : of the list
    reel : path of the reel
    """
    reel = reel.resolve()
    names = [str(reel), *(str(p) for p in recent_reels(path) if p != reel)][:MOST_REELS]
    with contextlib.suppress(OSError):
        write_whole(path, msgspec.json.encode(names), make=True)
