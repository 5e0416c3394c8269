"""The folder of a new proof: taken by one writer alone, and cleared away when its writer was killed before its first frame.

Beside the folder lies a claim that names the machine and the process that fill it. Whoever
takes the next folder looks at the claims: where the process is gone, a folder without a
manifest is removed and one with frames is freed of half-written files.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import threading
from collections.abc import Iterator
from pathlib import Path

from hasty_reel.errors import WrongInput, reason
from hasty_reel.evidence.proof import MANIFEST
from hasty_reel.wholefile import clear_folder, flush_folder, part_of, writer_lives

MOST_TRIES = 1000
_ONE_AT_A_TIME = threading.Lock()


@contextlib.contextmanager
def new_proof_folder(root: Path, shot: str) -> Iterator[Path]:
    """Take the folder of the next proof of a shot, which no other writer can take meanwhile.

    Parameters
    ----------
    root : the proofs folder of the reel
    shot : name of the shot's folder in it

    Yields
    ------
    The folder, empty; it is removed again where no manifest was written into it.

    Raises
    ------
    WrongInput
        When no folder can be made there.
    """
    base = root / shot
    try:
        # the reel's own folder is not made again where somebody removed it
        root.mkdir(exist_ok=True)
        base.mkdir(exist_ok=True)
        _clear_claims(base)
        with _ONE_AT_A_TIME:  # claims of one process have one name
            folder, claim = _take(base)
    except OSError as error:
        raise WrongInput(f"{base}: a proof cannot be kept there ({reason(error)}).") from error
    try:
        yield folder
    finally:
        if not (folder / MANIFEST).exists():
            shutil.rmtree(folder, ignore_errors=True)
        flush_folder(folder)
        flush_folder(base)
        with contextlib.suppress(OSError):
            claim.unlink()


def _take(base: Path) -> tuple[Path, Path]:
    """The next free folder and its claim."""
    with os.scandir(base) as entries:
        taken = [int(e.name[1:]) for e in entries if e.name[:1] == "p" and e.name[1:].isascii() and e.name[1:].isdigit()]
    first = max(taken, default=0) + 1
    for number in range(first, first + MOST_TRIES):
        folder = base / f"p{number:03d}"
        # claimed before it is made: a folder is never there without a claim while its writer lives
        claim = part_of(folder)
        claim.touch()
        try:
            folder.mkdir()
            return folder, claim
        except FileExistsError:
            claim.unlink()
    raise OSError(f"{MOST_TRIES} folders from p{first:03d} on were taken meanwhile")


def _clear_claims(base: Path) -> None:
    """Clear what killed writers of proofs left."""
    with os.scandir(base) as entries:
        claims = [e.name for e in entries if e.name.startswith(".p") and e.name.endswith(".part")]
    for name in claims:
        if writer_lives(name):
            continue
        folder = base / name[1:].partition(".")[0]
        if not (folder / MANIFEST).exists():
            shutil.rmtree(folder, ignore_errors=True)
        else:
            clear_folder(folder)
        with contextlib.suppress(OSError):
            (base / name).unlink()
