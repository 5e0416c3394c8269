"""The group of commands; messages, answers and tables of numbers."""

from __future__ import annotations

import csv
import json
import sys
from pathlib import Path

import click
import numpy as np

from hasty_reel.bench.cli import run as run_group
from hasty_reel.errors import WrongInput

REEL = click.Path(path_type=Path)


@click.group(help="Plans the rendering of 3D animation. `hasty-reel FILE.reel` opens the window.")
def reel_group() -> None:
    pass


def say(words: str) -> None:
    """A message for the person: to standard error, so that standard output stays the answer."""
    click.echo(words, err=True)


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
        with open(path, newline="", encoding="utf-8-sig") as stream:
            reader = csv.DictReader(stream)
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
                    if not np.isfinite(value) or value < 0:
                        raise WrongInput(f"{path}, line {reader.line_num}: {name} is '{text}'; expected a number of 0 or more.")
                    columns[name].append(value)
    except OSError as error:
        raise WrongInput(f"{path}: cannot be read ({error.strerror}).") from error
    except (UnicodeDecodeError, csv.Error) as error:
        raise WrongInput(f"{path}: not a CSV table ({error}).") from error
    if not columns[needed[0]]:
        raise WrongInput(f"{path}: no rows; expected one row a frame.")
    return {n: np.array(v) for n, v in columns.items()}


def main(arguments: list[str] | None = None) -> None:
    """Entry point of `hasty-reel`: a command, or a reel file for the window."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    if not words or (words[0] not in reel_group.commands and not words[0].startswith("-")):
        words = ["window", *words]
    sys.exit(run_group(reel_group, words, "hasty-reel"))
