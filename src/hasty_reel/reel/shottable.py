"""Shots from a CSV table and back out to one: a row a shot, a column a field.

`name`, `first` and `last` (or `frames`, the count) are needed; the other columns may be missing,
columns of other names are ignored. Moves, departures, holds, pins, weights, caches and layers are
written as JSON in cells of their own, so that a table written here and read again gives equal shots.
"""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import msgspec

from hasty_reel.errors import WrongInput, reason
from hasty_reel.reel.document import Reel
from hasty_reel.reel.moves import Move
from hasty_reel.reel.rate import timecode
from hasty_reel.reel.shot import CUSTOMARY_FIRST, Hold, Layer, Shot, Weight
from hasty_reel.regularfile import read_regular
from hasty_reel.wholefile import write_whole

LARGEST_BYTES = 64 * 1024 * 1024
MOST_ROWS = 100_000
NUMBERS = {"first": None, "last": None, "step": 1, "offset": 0, "handle_in": 0, "handle_out": 0}
CELLS: dict[str, Any] = {
    "move": Move | None,
    "departures": dict[str, int | float | None],
    "hold": Hold,
    "pins": dict[int, int],
    "weights": dict[int, Weight],
    "caches": tuple[int, ...],
    "layers": tuple[Layer, ...],
}
COLUMNS = ("id", "name", "scene", "recipe", *NUMBERS, "enabled", "note", "evidence", *CELLS)
YES, NO = ("1", "yes", "true", "on", ""), ("0", "no", "false", "off")


def table_text(reel: Reel, seconds: Mapping[str, float] | None = None) -> str:
    """Return the shots of a reel as CSV, with their place in the film; planned seconds where given.

    Parameters
    ----------
    reel : the reel; it stays as it was
    seconds : planned, by shot; None: not told
    """
    out = io.StringIO()
    extra = ["frames", "film_seconds", "film_timecode", *(["planned_seconds"] if seconds is not None else [])]
    writer = csv.DictWriter(out, [*COLUMNS, *extra])  # lines end as RFC 4180 has it, so that any line break in a note is quoted
    writer.writeheader()
    for shot in reel.shots:
        row: dict[str, Any] = {name: getattr(shot, name) for name in COLUMNS}
        row["enabled"] = "yes" if shot.enabled else "no"
        for name in CELLS:
            value = getattr(shot, name)
            empty = value is None or (not value and name != "hold")
            row[name] = "" if empty else msgspec.json.encode(value).decode()
        row["frames"] = len(shot.frames)
        place = reel.places.get(shot.id)
        row["film_seconds"] = "" if place is None else f"{float(place / reel.fps):.6f}"
        row["film_timecode"] = "" if place is None else timecode(reel.start_frame + place, reel.fps, reel.drop_frame)
        if seconds is not None:
            row["planned_seconds"] = f"{seconds[shot.id]:.3f}" if shot.id in seconds else ""
        writer.writerow(row)
    return out.getvalue()


def write_table(path: Path, reel: Reel, seconds: Mapping[str, float] | None = None) -> None:
    """Write the shots of a reel as CSV.

    Parameters
    ----------
    path : of the file
    reel : the reel; it stays as it was
    seconds : planned, by shot; None: not told

    Raises
    ------
    WrongInput
        When the file cannot be written.
    """
    try:
        write_whole(path, table_text(reel, seconds).encode())
    except OSError as error:
        raise WrongInput(f"{path}: cannot be written ({reason(error)}).") from error


def read_table(path: Path, scene: str, recipe: str) -> list[Shot]:
    """Return the shots of a CSV table.

    Parameters
    ----------
    path : of the file
    scene, recipe : for rows that name none

    Raises
    ------
    WrongInput
        One sentence: the file, the line and column, what was expected.
    """
    try:
        text = read_regular(path, LARGEST_BYTES, "a table of shots").decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise WrongInput(f"{path}: not UTF-8 text; expected a CSV table of shots.") from error
    reader = csv.DictReader(io.StringIO(text, newline=""), restkey="")
    shots: list[Shot] = []
    try:
        names = [(n or "").strip().lower() for n in reader.fieldnames or []]
        reader.fieldnames = names
        for needed in ("name", "first"):
            if needed not in names:
                raise WrongInput(f"{path}, line 1: no column '{needed}'; expected name, first, and last or frames.")
        if "last" not in names and "frames" not in names:
            raise WrongInput(f"{path}, line 1: neither a column 'last' nor 'frames'; expected one of them.")
        for row in reader:
            if len(shots) >= MOST_ROWS:
                raise WrongInput(f"{path}: more than {MOST_ROWS:,} rows; expected at most that many.")
            shots.append(_shot_of(row, len(shots), scene, recipe, f"{path}, line {reader.line_num}"))
    except csv.Error as error:
        raise WrongInput(f"{path}, line {reader.line_num}: not CSV ({error}).") from error
    if not shots:
        raise WrongInput(f"{path}: no rows; expected a row a shot.")
    return shots


def _shot_of(row: Mapping[str, str | None], number: int, scene: str, recipe: str, where: str) -> Shot:
    def cell(name: str) -> str:
        return (row.get(name) or "").strip()

    fields: dict[str, Any] = {}
    for name, usual in NUMBERS.items():
        value = _whole(cell(name), name, where) if cell(name) else usual
        if value is not None:
            fields[name] = value
    if "first" not in fields:
        raise WrongInput(f"{where}: first is empty; expected a frame such as {CUSTOMARY_FIRST}.")
    if "last" not in fields:
        count = _whole(cell("frames"), "frames", where) if cell("frames") else 0
        if count < 1:
            raise WrongInput(f"{where}: neither last nor frames; expected the last frame, or how many.")
        fields["last"] = fields["first"] + count - 1
    on = cell("enabled").lower()
    if on not in YES + NO:
        raise WrongInput(f"{where}: enabled is '{on[:20]}'; expected yes or no.")
    for name, kind in CELLS.items():
        if cell(name):
            try:
                fields[name] = msgspec.json.decode(cell(name), type=kind)
            except (msgspec.DecodeError, RecursionError) as error:
                raise WrongInput(f"{where}: {name}: {' '.join(str(error).split())[:160]}.") from error
    name = row.get("name") or ""
    plain = re.sub(r"[^A-Za-z0-9_-]+", "_", cell("id") or name).strip("_-")[:64]
    return Shot(
        id=cell("id") or (plain if plain and plain[0].isalnum() else f"sh{(number + 1) * 10:03d}"),
        name=name,
        scene=row.get("scene") or scene,
        recipe=row.get("recipe") or recipe,
        enabled=on in YES,
        note=row.get("note") or "",
        evidence=cell("evidence"),
        **fields,
    )


def _whole(text: str, name: str, where: str) -> int:
    if not re.fullmatch(r"-?\d{1,9}", text):
        raise WrongInput(f"{where}: {name} is '{text[:40]}'; expected a whole number.")
    return int(text)
