"""Commands that put frames together: compose, film, contact."""

from __future__ import annotations

from pathlib import Path

import click

from hasty_reel.cli.answers import REEL, answer, reel_group, say
from hasty_reel.cli.planning import may_write
from hasty_reel.commands import whole_numbers
from hasty_reel.errors import WrongInput
from hasty_reel.handover.contactsheet import contact_sheet, write_contact_sheet
from hasty_reel.handover.deliver import Delivery, FramesMissing, deliver_reel, form_named, form_of, missing_of
from hasty_reel.handover.parts import compose as put_parts_together
from hasty_reel.handover.parts import read_part
from hasty_reel.pictures.colourspaces import output_named
from hasty_reel.pictures.finite import replaced_words
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.sequence import FramePattern, read_pattern
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.frames import evenly, read_frames, write_frames


@reel_group.command(help="Put layers and crops together: over:A.####.exr plus:B.####.exr place:C.####.exr@320,180, the first at the back.")
@click.argument("parts", nargs=-1, required=True)
@click.option("--out", required=True, help="Frame pattern of the whole frames, ending in .exr.")
@click.option("--size", default=None, help="WxH of the whole frame; default: that of the first part.")
@click.option("--frames", default=None)
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def compose(parts: tuple[str, ...], out: str, size: str | None, frames: str | None, overwrite: bool, as_json: bool) -> int:
    read, target = [read_part(p) for p in parts], read_pattern(out)
    if not target.after.lower().endswith(".exr"):
        raise WrongInput(f"--out '{out[:120]}'; expected a pattern ending in .exr, since what is put together is light.")
    wanted = list(read_frames(frames)) if frames else read[0].source.frames()
    if not wanted:
        raise WrongInput(f"{read[0].source}: no frames there.")
    whole = None if size is None else whole_numbers(size, 2, "x", "--size")
    put_parts_together(read, target, wanted, whole, overwrite)  # type: ignore[arg-type]
    answer(as_json, {"frames": write_frames(wanted), "out": str(target)}, [f"{len(wanted)} frames put together: {target}"])
    return 0


@reel_group.command(help="One film of the reel in its order, without handles, from the folder of its runs.")
@click.argument("file", type=REEL)
@click.option("--run", "folder", type=click.Path(path_type=Path), required=True, help="Folder of the runs.")
@click.option("--out", type=REEL, required=True)
@click.option("--format", "key", default=None, help="As of handover; default: the usual one of the ending.")
@click.option("--colour", default="sRGB", show_default=True)
@click.option("--shot", default=None, help="Only this shot.")
@click.option("--leave-out", is_flag=True, help="Frames that are missing are left out, and named; else nothing is written.")
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def film(
    file: Path, folder: Path, out: Path, key: str | None, colour: str, shot: str | None, leave_out: bool, overwrite: bool, as_json: bool
) -> int:  # fmt: skip
    reel = read_reel(file)
    parts = []
    for one in (s for s in reel.shots if s.enabled) if shot is None else (reel.shot(shot),):
        if one.layers:
            raise WrongInput(f"{one.id}: rendered as layers; put them together with `compose` first, as frames of {one.id}.")
        frames = [f for f in range(one.first, one.last + 1)]
        parts.append((FramePattern(folder / one.id, f"{one.id}.", 4, ".exr"), [one.nearest(f) for f in frames]))
    how = Delivery(form_of(str(out)) if key is None else form_named(key), output_named(colour))
    missing = missing_of(parts)
    try:
        done = deliver_reel(parts, out, reel.fps, how, overwrite, leave_out=leave_out)
    except FramesMissing as error:
        raise FramesMissing(str(error) if leave_out else f"{error} --leave-out makes a film without them.") from error
    for words in missing:
        say(f"{words}, and left out of the film.")
    if done.replaced:
        say(replaced_words(done.replaced))
    document = {"frames": len(done.frames), "missing": missing, "out": str(out)}
    answer(as_json, document, [f"{len(done.frames)} frames of {len(parts)} shots: {out}"])
    return 0


@reel_group.command(help="A contact sheet: frames as small pictures with their numbers, on one (.png, .jpg).")
@click.argument("pattern")
@click.option("--out", type=REEL, required=True)
@click.option("--frames", default=None, help="Frame set; default: 24 evenly over all that are there.")
@click.option("--columns", type=int, default=6, show_default=True)
@click.option("--wide", type=int, default=240, show_default=True, help="Pixels of each picture.")
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def contact(pattern: str, out: Path, frames: str | None, columns: int, wide: int, overwrite: bool, as_json: bool) -> int:
    may_write(out, overwrite)
    footage = Footage(read_pattern(pattern))
    wanted = list(read_frames(frames)) if frames else evenly(footage.frames, 24)
    write_contact_sheet(out, contact_sheet(footage, wanted, columns, wide))
    answer(as_json, {"frames": write_frames(wanted), "out": str(out)}, [f"Contact sheet of {len(wanted)} frames: {out}"])
    return 0
