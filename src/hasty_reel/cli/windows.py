"""Commands that open the window."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

import click

from hasty_reel.cli.answers import REEL, answer, reel_group
from hasty_reel.errors import WrongInput


@reel_group.command(name="window", hidden=True)
@click.argument("file", type=REEL, required=False)
@click.option("--picture", type=REEL, default=None, help="Save a picture of the window and leave.")
def window(file: Path | None, picture: Path | None) -> int:
    from hasty_reel.desk.app import open_window

    return open_window(file, picture)


@reel_group.command(help="Limits of this machine: the largest picture that is read, memory for finishing; shown, or set by an option.")
@click.option("--megapixels", type=float, default=None, help="Millions of pixels of the largest picture.")
@click.option("--channels", type=int, default=None, help="Its channels, colour and guides together.")
@click.option("--finish-memory", type=float, default=None, help="GB that finishing may take: with less it puts more away on the disk.")
@click.option("--json", "as_json", is_flag=True)
def limits(megapixels: float | None, channels: int | None, finish_memory: float | None, as_json: bool) -> int:
    from hasty_reel.own import finishmemory
    from hasty_reel.pictures.limits import PictureLimits, current_limits, set_limits

    if finish_memory is not None:
        finishmemory.keep_finish_memory(finish_memory)
    if megapixels is not None or channels is not None:
        now = current_limits()
        set_limits(
            PictureLimits(
                megapixels=now.megapixels if megapixels is None else megapixels, channels=now.channels if channels is None else channels
            )
        )
    found, gb = current_limits(), finishmemory.finish_memory() / finishmemory.GIGABYTE
    document = {"megapixels": found.megapixels, "channels": found.channels, "finish_memory_gb": gb}
    answer(as_json, document, [f"Pictures are read up to {found.words}.", f"Finishing takes up to {gb:g} GB of memory."])
    return 0


@reel_group.command(help="Open the window with the demo reel, copied to a place where it may be changed.")
@click.option("--folder", type=REEL, default=None, help="Where the copy goes.")
@click.option("--picture", type=REEL, default=None, help="Save a picture of the window and leave.")
@click.option("--copy-only", is_flag=True, help="Copy the demo reel, print its path and leave.")
def demo(folder: Path | None, picture: Path | None, copy_only: bool) -> int:
    from hasty_reel.demo import copy_demo, demo_folder

    if copy_only and picture is not None:
        raise WrongInput("demo: --copy-only opens no window that --picture could show; expected one of them.")
    path = copy_demo(folder or demo_folder(), datetime.now().astimezone())
    if copy_only:
        click.echo(str(path))
        return 0
    from hasty_reel.desk.app import open_window

    return open_window(path, picture)
