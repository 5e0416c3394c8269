"""`*.reel`: sorted, indented JSON that diffs well, and never half written."""

from __future__ import annotations

import json
from pathlib import Path

import msgspec

from hasty_reel.errors import ReelError
from hasty_reel.reel.document import Reel, checked_reel
from hasty_reel.wholefile import whole_file

LARGEST = 256 * 1024 * 1024


def read_reel(path: Path) -> Reel:
    """Read a reel file.

    Raises
    ------
    ReelError
        One sentence: the file, the path of the field, what was expected.
    """
    try:
        if path.stat().st_size > LARGEST:
            raise ReelError(f"{path}: larger than {LARGEST // 1024 // 1024} MiB; expected a reel file.")
        raw = path.read_bytes()
    except OSError as error:
        raise ReelError(f"{path}: cannot be read ({error.strerror or error}).") from error
    try:
        return checked_reel(msgspec.json.decode(raw, type=Reel))
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise ReelError(f"{path}: {error}.") from error
    except ReelError as error:
        raise ReelError(f"{path}: {error}") from error


def reel_text(reel: Reel) -> str:
    """The text of a reel file."""
    return json.dumps(json.loads(msgspec.json.encode(reel)), indent=2, sort_keys=True, ensure_ascii=False) + "\n"


def save_reel(path: Path, reel: Reel) -> None:
    """Save a reel: written beside the file, flushed to disk, then moved into place.

    Raises
    ------
    ReelError
        When the file cannot be written; the earlier one is untouched.
    """
    try:
        text = reel_text(checked_reel(reel))
        with whole_file(path, flush=True) as part:
            part.write_text(text, encoding="utf-8")
    except OSError as error:
        raise ReelError(f"{path}: cannot be saved ({error.strerror or error}); nothing was changed.") from error
