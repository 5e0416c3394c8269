"""`*.reel`: sorted, indented JSON that diffs well, and never half written.

Formats older than today's are brought up step by step when they are read; the file stays as it is
until it is saved.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec

from hasty_reel.errors import ReelError, reason
from hasty_reel.reel.calm import limits_kept
from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import FORMAT, Reel
from hasty_reel.regularfile import read_regular
from hasty_reel.settings.recipe import SETTINGS
from hasty_reel.wholefile import clear_left_over, write_whole

LARGEST_BYTES = 256 * 1024 * 1024
UPGRADES: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: limits_kept}
"""By format: what turns a document of it into one of the next. Fields that are added have values that mean what their absence meant."""


class _Head(msgspec.Struct):
    reel_format: int = 1


def read_reel(path: Path) -> Reel:
    """Read a reel file.

    Parameters
    ----------
    path : of the file

    Raises
    ------
    ReelError
        One sentence: the file, the path of the field, what was expected.

    Examples
    --------
    >>> from hasty_reel.demo import NAME, SOURCE
    >>> reel = read_reel(SOURCE / NAME)
    >>> reel.name, [shot.id for shot in reel.shots]
    ('Tidal Orrery', ['sh010', 'sh020', 'sh030', 'sh040', 'sh050'])
    """
    raw = read_regular(path, LARGEST_BYTES, "a reel file", ReelError)
    try:
        return checked_reel(decoded(raw))
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise ReelError(f"{path}: {error}.") from error
    except ReelError as error:
        raise ReelError(f"{path}: {error}") from error


def decoded(raw: bytes) -> Reel:
    """Return the reel in the bytes of a file of any known format; not checked yet.

    Parameters
    ----------
    raw : bytes of the file

    Raises
    ------
    ReelError
        When its format is newer than this program, or not known.
    msgspec.DecodeError
        When it is not a reel.
    """
    form = msgspec.json.decode(raw, type=_Head).reel_format
    if form == FORMAT:
        return msgspec.json.decode(raw, type=Reel)
    if form > FORMAT:
        raise ReelError(f"$.reel_format: {form}, of a newer Hasty Reel; expected at most {FORMAT}.")
    document = msgspec.json.decode(raw)
    while form < FORMAT:
        if form not in UPGRADES:
            raise ReelError(f"$.reel_format: {form}; expected {FORMAT}.")
        document = UPGRADES[form](document)
        form += 1
    return msgspec.convert({**document, "reel_format": FORMAT}, Reel, strict=True, str_keys=True)


def reel_text(reel: Reel) -> str:
    """Return the text of a reel file.

    Parameters
    ----------
    reel : the reel; it stays as it was
    """
    return json.dumps(json.loads(msgspec.json.encode(reel)), indent=2, sort_keys=True, ensure_ascii=False) + "\n"


def save_reel(path: Path, reel: Reel) -> None:
    """Save a reel: written beside the file, flushed to disk, then moved into place.

    Parameters
    ----------
    path : of the file
    reel : the reel; it stays as it was

    Raises
    ------
    ReelError
        When the file cannot be written; the earlier one is untouched.
    """
    try:
        text = reel_text(checked_reel(reel))
        clear_left_over(path)
        write_whole(path, text.encode())
    except OSError as error:
        raise ReelError(f"{path}: cannot be saved ({reason(error)}); nothing was changed.") from error


def schema_text() -> str:
    """JSON Schema (2020-12) of a reel file, as docs/reel.schema.json holds it."""
    return json.dumps(with_bounds(msgspec.json.schema(Reel)), indent=1, sort_keys=True) + "\n"


def with_bounds(schema: dict[str, Any]) -> dict[str, Any]:
    """Return a schema in which each setting of a recipe says its bounds and what it means, as it is declared.

    Parameters
    ----------
    schema : JSON Schema of a file that holds recipes
    """
    fields = schema["$defs"]["Recipe"]["properties"]
    for setting in SETTINGS:
        field = fields[setting.field]
        for kind in field.get("anyOf", [field]):
            if kind["type"] != "null":
                kind |= {"minimum": setting.low, "maximum": setting.high}
        field |= {"title": setting.words, "description": setting.meaning}
    return schema


if __name__ == "__main__":
    Path("docs/reel.schema.json").write_text(schema_text(), encoding="utf-8")
