"""The group of commands; messages, answers and tables of numbers."""

from __future__ import annotations

import csv
import io
import json
import sys
from collections.abc import Iterable
from pathlib import Path

import click
import numpy as np

from hasty_reel import __version__
from hasty_reel.commands import LazyGroup
from hasty_reel.commands import run as run_group
from hasty_reel.errors import WrongInput, one_line
from hasty_reel.machinecode import prepare_saying
from hasty_reel.regularfile import read_regular
from hasty_reel.temporary import clear_temporary

LARGEST_TABLE = 64 << 20
LARGEST_NUMBER = 1e15
"""Of any column: far beyond the seconds, frames and samples of any shot."""
MOST_ALIKE = 20
"""Messages of one kind that are told one by one."""
REEL = click.Path(path_type=Path)


MODULES = {
    **dict.fromkeys(("estimate", "budget", "export", "bring-in", "begin", "set"), "hasty_reel.cli.planning"),
    **dict.fromkeys(("proof", "bring-proof", "run", "account", "cluster-keys"), "hasty_reel.cli.rendering"),
    **dict.fromkeys(("measure", "causes"), "hasty_reel.cli.looking"),
    **dict.fromkeys(("finish", "own-step", "try-finish", "handover"), "hasty_reel.cli.delivery"),
    "preview": "hasty_reel.cli.previewing",
    "yardstick": "hasty_reel.cli.machines",
    "link": "hasty_reel.cli.links",
    "desktop": "hasty_reel.cli.desktop",
    **dict.fromkeys(("setting", "recipe"), "hasty_reel.cli.settings"),
    **dict.fromkeys(("compose", "film", "contact"), "hasty_reel.cli.together"),
    **dict.fromkeys(("check", "report"), "hasty_reel.cli.checking"),
    **dict.fromkeys(("fit", "schedule"), "hasty_reel.cli.timing"),
    **dict.fromkeys(("window", "demo", "limits"), "hasty_reel.cli.windows"),
}
"""By command, the module that defines it."""


@click.version_option(__version__, message="Hasty Reel %(version)s")
@click.group(cls=LazyGroup, modules=MODULES, help="Plans the rendering of 3D animation. `hasty-reel FILE.reel` opens the window.")
def reel_group() -> None:
    pass


def say(words: str) -> None:
    """A message for the person: to standard error, so that standard output stays the answer."""
    click.echo(one_line(words), err=True)


def say_some(messages: Iterable[str]) -> None:
    """Messages of one kind: the first of them, and how many more there are."""
    found = list(messages)
    for words in found[:MOST_ALIKE]:
        say(words)
    if len(found) > MOST_ALIKE:
        say(f"… and {len(found) - MOST_ALIKE} more of this kind.")


def answer(as_json: bool, document: dict, table: list[str]) -> None:
    """The answer, as one JSON document or as lines."""
    click.echo(json.dumps(document, allow_nan=False) if as_json else "\n".join(table))


def clean(value: float) -> float | None:
    """A number for JSON: None where there is none."""
    return float(value) if np.isfinite(value) else None


def read_table(path: Path, needed: tuple[str, ...], optional: tuple[str, ...]) -> dict[str, np.ndarray]:
    """Columns of numbers from a CSV file by name; other columns are ignored.

    Raises
    ------
    WrongInput
        Names the file, the line and column, and what was expected.
    """
    try:
        text = read_regular(path, LARGEST_TABLE, "a table of frames").decode("utf-8-sig")
        with io.StringIO(text, newline="") as stream:
            reader = csv.DictReader(stream, restkey="")
            names = [n.strip() for n in reader.fieldnames or []]
            reader.fieldnames = names
            missing = [n for n in needed if n not in names]
            if missing:
                raise WrongInput(f"{path}: no column '{missing[0]}'; expected {', '.join(needed)}.")
            wanted = [n for n in (*needed, *optional) if n in names]
            columns: dict[str, list[float]] = {n: [] for n in wanted}
            for row in reader:
                for name in wanted:
                    text = (row[name] or "").strip()
                    try:
                        value = float(text) if text or name in needed else (1.0 if name == "weight" else 0.0)
                    except ValueError:
                        value = np.nan
                    if not 0 <= value <= LARGEST_NUMBER:
                        raise WrongInput(
                            f"{path}, line {reader.line_num}: {name} is '{text[:40]}'; expected a number from 0 to {LARGEST_NUMBER:g}."
                        )
                    columns[name].append(value)
    except (UnicodeDecodeError, csv.Error) as error:
        raise WrongInput(f"{path}: not a CSV table ({error}).") from error
    if not columns[needed[0]]:
        raise WrongInput(f"{path}: no rows; expected one row a frame.")
    return {n: np.array(v) for n, v in columns.items()}


KERNELS = frozenset(
    (
        "estimate", "proof", "bring-proof", "run", "measure", "causes", "finish", "try-finish", "preview", "yardstick", "check", "report",
        "export",
    )
)  # fmt: skip
"""Commands that run compiled kernels, which are compiled once for an account."""


def main(arguments: list[str] | None = None) -> None:
    """Entry point of `hasty-reel`: a command, or a reel file for the window."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    if not words or (words[0] not in MODULES and not words[0].startswith("-")):
        words = ["window", *words]
    clear_temporary()
    if words[0] in KERNELS and len(words) > 1 and "--help" not in words:
        prepare_saying(say)
    sys.exit(run_group(reel_group, words, "hasty-reel"))
