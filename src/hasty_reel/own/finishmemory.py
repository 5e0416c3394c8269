"""How much memory finishing may take on this machine."""

from __future__ import annotations

from pathlib import Path

import msgspec
import platformdirs

from hasty_reel.errors import WrongInput
from hasty_reel.own.jsonfile import read_json, save_json

GIGABYTE = 1 << 30
LEAST, MOST, USUAL = 0.5, 1024.0, 2.0
"""Bounds, and what counts while nobody says otherwise, in GB of 2^30 bytes."""


class FinishMemory(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is kept in the file; gb : in GB of 2^30 bytes."""

    gb: float


def checked_memory(gb: float, where: str) -> int:
    """Return bytes of a memory that makes sense.

    Parameters
    ----------
    gb : in GB of 2^30 bytes
    where : in words, for the message

    Raises
    ------
    WrongInput
        Says what was expected.
    """
    if not LEAST <= gb <= MOST:
        raise WrongInput(f"{where}: {gb:g} GB; expected {LEAST:g} to {MOST:g} GB.")
    return int(gb * GIGABYTE)


def memory_path() -> Path:
    """Return where it is kept."""
    return Path(platformdirs.user_config_dir("hasty-reel")) / "finish-memory.json"


def finish_memory() -> int:
    """Return how many bytes finishing may take on this machine.

    Raises
    ------
    WrongInput
        When what is kept makes no sense.
    """
    usual = int(USUAL * GIGABYTE)
    return read_json(
        memory_path(), FinishMemory, lambda held: checked_memory(held.gb, "gb"), usual, "the memory that finishing may take", WrongInput
    )


def keep_finish_memory(gb: float) -> None:
    """Keep how much memory finishing may take on this machine.

    Parameters
    ----------
    gb : in GB of 2^30 bytes

    Raises
    ------
    WrongInput
        When it makes no sense, or cannot be kept.
    """
    checked_memory(gb, "Memory for finishing")
    save_json(memory_path(), FinishMemory(gb), WrongInput)
