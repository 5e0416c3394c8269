"""Commands that look at frames before they are handed over, and tell of a reel: check, report."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

import click

from hasty_reel.cli.answers import REEL, answer, reel_group, say
from hasty_reel.cli.planning import may_write, outlook_of
from hasty_reel.commands import need_with
from hasty_reel.errors import WrongInput
from hasty_reel.handover.foldercheck import KINDS, check_frames
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.frames import read_frames, write_frames
from hasty_reel.run.framestate import FINISHED
from hasty_reel.run.shotrun import Run
from hasty_reel.studio.output.reportfile import write_report_page


@reel_group.command(help="Check frames before they are handed over: missing, broken, black, doubled, stale, flashing, sparkling.")
@click.argument("pattern")
@click.option("--frames", default=None, help="Frames that are to be there; default: from the first to the last that is.")
@click.option("--plan", type=REEL, default=None, help="A reel: frames that were not made as it plans are stale; with --shot.")
@click.option("--shot", default=None)
@click.option("--since", default=None, help="ISO time: files older than this are stale.")
@click.option("--quick", is_flag=True, help="Heads and last rows alone: what is missing, cut short, of another size or stale.")
@click.option("--json", "as_json", is_flag=True)
def check(pattern: str, frames: str | None, plan: Path | None, shot: str | None, since: str | None, quick: bool, as_json: bool) -> int:
    need_with(("shot",), plan is not None, "--plan")
    footage = Footage(read_pattern(pattern))
    wanted = list(read_frames(frames)) if frames else list(range(footage.frames[0], footage.frames[-1] + 1))
    size, fits = (None, None) if plan is None else _as_planned(plan, shot, footage, wanted)
    found = check_frames(footage, wanted, size, _time(since), fits, quick=quick)
    for frame, words in found.why.items():
        say(f"{frame}: {words}")
    document: dict = {kind: list(found.faults.get(kind, ())) for kind in KINDS}
    document["doubled"] = [list(g) for g in found.doubled]
    document["render_again"] = write_frames(found.again) if found.again else ""
    lines = list(found.words) + ([f"To render again: {write_frames(found.again)}"] if found.again else [])
    answer(as_json, document, lines)
    return 1 if found.faults else 0


def _as_planned(
    file: Path, shot: str | None, footage: Footage, wanted: list[int]
) -> tuple[tuple[int, int] | None, Callable[[Path, int], bool]]:
    """The size frames are to have by a plan, and whether one was made as it says."""
    if shot is None:
        raise WrongInput("check: --plan without --shot; expected the shot whose frames these are.")
    reel = read_reel(file)
    plans = outlook_of(file, reel, shot).plans
    if shot not in plans:
        raise WrongInput(f"check: {shot} has no plan; expected a shot or layer with proofs.")
    folder = footage.pattern.folder
    inside = [f for f in wanted if f in plans[shot].shot.frames]
    run = Run(reel, plans[shot], folder.parent, inside or None)
    if run.folder.final.folder.resolve() != folder.resolve():
        raise WrongInput(f"check: {folder}; expected the folder {shot} of a run, where its frames lie.")
    return reel.picture_size, lambda path, frame: run.states.get(frame) == FINISHED


def _time(text: str | None) -> float | None:
    if text is None:
        return None
    try:
        return datetime.fromisoformat(text).timestamp()
    except ValueError:
        raise WrongInput(f"--since '{text[:60]}'; expected a time such as 2026-11-26T18:00+01:00.") from None


@reel_group.command(help="One HTML page that stands by itself, or a PDF: plan and run with graphs, settings and pictures.")
@click.argument("file", type=REEL)
@click.option("--out", type=REEL, required=True, help="The page, ending in .html or .pdf.")
@click.option("--run", "folder", type=click.Path(path_type=Path), default=None, help="Folder of a run, to set real beside planned.")
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def report(file: Path, out: Path, folder: Path | None, overwrite: bool, as_json: bool) -> int:
    if out.suffix.lower() not in (".html", ".htm", ".pdf"):
        raise WrongInput(f"--out {out}; expected a name ending in .html or .pdf.")
    reel = read_reel(file)
    may_write(out, overwrite)
    found = outlook_of(file, reel, None)
    evidence = {name: model.evidence for name, model in found.models.items()}
    write_report_page(out, reel, found, evidence, folder, datetime.now().astimezone())
    answer(as_json, {"file": str(out), "shots": list(found.plans)}, [f"Report of {len(found.plans)} shots: {out}"])
    return 0
