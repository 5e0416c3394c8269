"""The reels opened lately, newest first, kept for the person rather than for a reel."""

from __future__ import annotations

import contextlib
from pathlib import Path

import msgspec
import platformdirs

from hasty_reel.wholefile import whole_file

MOST = 10


def recent_path() -> Path:
    """Where the list is kept."""
    return Path(platformdirs.user_state_dir("hasty-reel")) / "recent.json"


def recent_reels(path: Path) -> list[Path]:
    """The reels opened lately that are still there; none where the list cannot be read."""
    try:
        names = msgspec.json.decode(path.read_bytes(), type=list[str])
        return [Path(n) for n in names[:MOST] if Path(n).is_file()]
    except (OSError, msgspec.DecodeError, UnicodeDecodeError, RecursionError, ValueError):
        return []


def remember(path: Path, reel: Path) -> None:
    """Put a reel first in the list; a list that cannot be kept is no reason not to work."""
    reel = reel.resolve()
    names = [str(reel), *(str(p) for p in recent_reels(path) if p != reel)][:MOST]
    with contextlib.suppress(OSError), whole_file(path) as part:
        part.write_bytes(msgspec.json.encode(names))
