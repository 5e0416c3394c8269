"""The program in a person's desktop: menu entry, icon, kind of file, man pages and completion, by freedesktop.org's specifications.

A package of a distribution puts the same files into /usr/share; here they go into the person's own data folder
(XDG Base Directory Specification, $XDG_DATA_HOME), for a program that was installed for one person.
"""

from __future__ import annotations

import os
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

from hasty_reel.errors import WrongInput, reason

DATA = Path(__file__).parent / "data"
ICON_SIZES = (16, 22, 24, 32, 48, 64, 128, 256, 512)
"""Pixels a side, of the icon theme specification's usual folders."""
REFRESH = (("update-desktop-database", "applications"), ("update-mime-database", "mime"), ("gtk-update-icon-cache", "icons/hicolor"))
"""Programs that make the desktop look anew, each with the folder it is told; they are optional."""
WAIT_SECONDS = 20.0


def data_home() -> Path:
    """Return the person's own data folder, $XDG_DATA_HOME."""
    told = os.environ.get("XDG_DATA_HOME", "")
    return Path(told) if told.startswith("/") else Path.home() / ".local/share"


def places() -> dict[str, Path]:
    """Return where each file of `DATA` goes, below a data folder, by its name below `DATA`."""
    out = {
        "hasty-reel.desktop": Path("applications/hasty-reel.desktop"),
        "hasty-reel.xml": Path("mime/packages/hasty-reel.xml"),
        "hasty-reel.metainfo.xml": Path("metainfo/hasty-reel.metainfo.xml"),
        "icons/hasty-reel.svg": Path("icons/hicolor/scalable/apps/hasty-reel.svg"),
        "completion/hasty-reel.bash": Path("bash-completion/completions/hasty-reel"),
        "completion/hasty-reel.zsh": Path("zsh/site-functions/_hasty-reel"),
        "completion/hasty-reel.fish": Path("fish/vendor_completions.d/hasty-reel.fish"),
    }
    for size in ICON_SIZES:
        out[f"icons/hasty-reel-{size}.png"] = Path(f"icons/hicolor/{size}x{size}/apps/hasty-reel.png")
    for page in sorted((DATA / "man").glob("*.1")):
        out[f"man/{page.name}"] = Path("man/man1") / page.name
    return out


def program() -> str:
    """Return how this program is started, as it stands in a menu entry: its whole path, where there is one."""
    beside = Path(sys.executable).with_name("hasty-reel")
    return str(beside) if beside.is_file() else shutil.which("hasty-reel") or "hasty-reel"


def add_to_desktop(share: Path) -> list[Path]:
    """Put the program into a data folder; what was put there before is replaced.

    Parameters
    ----------
    share : the data folder

    Returns
    -------
    list of Path
        The files that were written.

    Raises
    ------
    WrongInput
        When a file cannot be written: which, and why.
    """
    written = []
    for name, place in places().items():
        target = share / place
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            raw = (DATA / name).read_bytes()
            if name == "hasty-reel.desktop":
                # a path with blanks stands in quotation marks (Desktop Entry Specification, the Exec key)
                command = program()
                told = f'"{command}"' if command != shlex.quote(command) else command
                raw = raw.replace(b"Exec=hasty-reel ", f"Exec={told} ".encode())
            target.write_bytes(raw)
        except OSError as error:
            raise WrongInput(f"{target}: cannot be written ({reason(error)}).") from error
        written.append(target)
    _refresh(share)
    return written


def remove_from_desktop(share: Path) -> list[Path]:
    """Take the program out of a data folder again; folders that others use, too, stay.

    Parameters
    ----------
    share : the data folder

    Returns
    -------
    list of Path
        The files that were removed.

    Raises
    ------
    WrongInput
        When a file cannot be removed: which, and why.
    """
    removed = []
    for place in places().values():
        target = share / place
        try:
            if target.is_file():
                target.unlink()
                removed.append(target)
        except OSError as error:
            raise WrongInput(f"{target}: cannot be removed ({reason(error)}).") from error
    _refresh(share)
    return removed


def _refresh(share: Path) -> None:
    """Have the desktop look anew, where its programs for that are there; without them it does so by itself."""
    for command, folder in REFRESH:
        found = shutil.which(command)
        if found and (share / folder).is_dir():
            try:
                subprocess.run([found, str(share / folder)], capture_output=True, timeout=WAIT_SECONDS, check=False)
            except (OSError, subprocess.TimeoutExpired):
                continue
