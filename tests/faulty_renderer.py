"""A renderer that misbehaves at the frames named: for trying what a renderer link makes of it.

Started as a command line like any renderer; what is not a fault goes to `hasty-bench render`.
"""

from __future__ import annotations

import subprocess
import sys
import time
from pathlib import Path

import click

FAULTY_RENDERER = (sys.executable, str(Path(__file__).resolve()))
CHILD = "a child that outlives its renderer"
CRASHED = 139
"""Exit status of a process that a segmentation fault ended, as a shell tells it."""


@click.command(context_settings={"ignore_unknown_options": True})
@click.option("--slow-start", type=float, default=0.0, help="Seconds before anything happens.")
@click.option("--crash-at", type=int, multiple=True)
@click.option("--hang-at", type=int, multiple=True)
@click.option("--half-at", type=int, multiple=True, help="Half of the file is written.")
@click.option("--nothing-at", type=int, multiple=True, help="No file is written, and all seems well.")
@click.option("--wrong-size-at", type=int, multiple=True)
@click.option("--not-finite-at", type=int, multiple=True)
@click.option(
    "--child-at", type=int, multiple=True, help="Something is started that goes on by itself, in a session of its own, and hangs."
)
@click.option("--slow-at", type=int, multiple=True, help="It takes two seconds longer.")
@click.option("--lie-at", type=int, multiple=True, help="It says that it took less than no time, and that all went well.")
@click.option("--once", default="", help="Folder: a fault happens the first time a frame is rendered, and not again.")
@click.option("--renderer", default="", help="Program that renders; default: the bench renderer.")
@click.argument("arguments", nargs=-1, type=click.UNPROCESSED)
def main(
    slow_start, crash_at, hang_at, half_at, nothing_at, wrong_size_at, not_finite_at, child_at, slow_at, lie_at, once, renderer, arguments
):  # fmt: skip
    """Render, and misbehave."""
    time.sleep(slow_start)
    given = list(arguments)
    frame = int(float(given[given.index("--frame") + 1]))
    out = Path(given[given.index("--out") + 1])
    if once and not _first_time(Path(once) / str(frame)):
        crash_at = hang_at = half_at = nothing_at = wrong_size_at = not_finite_at = child_at = slow_at = lie_at = ()
    if frame in slow_at:
        time.sleep(2.0)
    if frame in lie_at:
        click.echo("took -5 seconds, progress nan %, load inf s")
    if frame in crash_at:
        click.echo("ran out of texture memory while reading the brass", err=True)
        sys.exit(CRASHED)
    if frame in hang_at:
        time.sleep(3600)
    if frame in child_at:
        for apart in (False, True):
            subprocess.Popen([sys.executable, "-c", f"import time; '{CHILD}'; time.sleep(3600)"], start_new_session=apart)
        time.sleep(3600)
    if frame in nothing_at:
        return
    if frame in wrong_size_at:
        given[given.index("--size") + 1] = "7x5"
        given[given.index("--crop") + 1] = "0,0,7,5"
    program = [renderer] if renderer else ["-m", "hasty_reel.bench", "render"]
    subprocess.run([sys.executable, *program, *given], check=True)
    if frame in half_at:
        raw = out.read_bytes()
        out.write_bytes(raw[: len(raw) // 2])
    if frame in not_finite_at:
        _spoil(out)


def _first_time(marker: Path) -> bool:
    """Whether a frame is rendered for the first time, noted in a file."""
    try:
        marker.touch(exist_ok=False)
    except FileExistsError:
        return False
    return True


def _spoil(path: Path) -> None:
    """Make one pixel of a picture no number."""
    from hasty_reel.pictures.frame import Picture, read_picture
    from hasty_reel.pictures.writing import write_picture

    picture = read_picture(path)
    rgb = picture.rgb.copy()
    rgb[0, 0] = float("nan")
    write_picture(path, Picture(rgb, picture.guides, picture.attributes))


if __name__ == "__main__":
    main()
