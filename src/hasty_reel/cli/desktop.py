"""Commands that put the program into the desktop's menu, and take it away."""

from __future__ import annotations

from pathlib import Path

import click

from hasty_reel.cli.answers import REEL, answer, reel_group
from hasty_reel.share.integration import add_to_desktop, data_home, remove_from_desktop


@reel_group.group(name="desktop", help="Menu entry, icon, kind of file, man pages and shell completion: in the person's own folder.")
def desktop_group() -> None:
    pass


@desktop_group.command(name="add", help="Put them there.")
@click.option("--to", type=REEL, default=None, help="Data folder; default: $XDG_DATA_HOME, else ~/.local/share.")
@click.option("--json", "as_json", is_flag=True)
def desktop_add(to: Path | None, as_json: bool) -> int:
    written = add_to_desktop(to or data_home())
    lines = [*map(str, written), f"{len(written)} files written. `hasty-reel desktop remove` takes them away again."]
    answer(as_json, {"written": list(map(str, written))}, lines)
    return 0


@desktop_group.command(name="remove", help="Take them away again.")
@click.option("--to", type=REEL, default=None, help="Data folder; default: $XDG_DATA_HOME, else ~/.local/share.")
@click.option("--json", "as_json", is_flag=True)
def desktop_remove(to: Path | None, as_json: bool) -> int:
    removed = remove_from_desktop(to or data_home())
    answer(as_json, {"removed": list(map(str, removed))}, [*map(str, removed), f"{len(removed)} files removed."])
    return 0
