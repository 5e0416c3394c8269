"""Commands that finish and deliver frames: finish, handover."""

from __future__ import annotations

from pathlib import Path

import click

from hasty_reel.cli.answers import answer, reel_group, say
from hasty_reel.commands import need_with, whole_numbers
from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.finish.chain import Chain, finish_sequence
from hasty_reel.handover.deliver import FramesMissing, deliver
from hasty_reel.pictures.finite import replaced_words
from hasty_reel.pictures.frame import read_header
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.reel.frames import read_frames, write_frames
from hasty_reel.reel.rate import read_rate
from hasty_reel.work import CancelToken


@reel_group.command(help="The finishing chain: despike, denoise over time and space, resize, sharpen.")
@click.argument("pattern")
@click.option("--out", required=True, help="Frame pattern of the finished frames.")
@click.option("--despike", is_flag=True)
@click.option("--denoise", type=click.Choice(["time", "frame", "off"]), default="time", show_default=True)
@click.option("--window", type=int, default=5, show_default=True)
@click.option("--quick", is_flag=True, help="Denoise with less care, in a third of the time.")
@click.option("--strength", type=float, default=100.0, show_default=True, help="Percent of the denoised picture in the result.")
@click.option("--size", default=None, help="WxH delivered.")
@click.option(
    "--sharpen", type=float, default=0.0, show_default=True, help="Share of the finest detail that is added; 0.1 after enlarging."
)
@click.option("--workers", type=int, default=1, show_default=True, help="Stretches of frames finished at once.")
@click.option("--resume", is_flag=True, help="Keep finished frames that are there, and go on.")
@click.option("--frames", default=None, help="Frame set; default: all that are there.")
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def finish(
    pattern: str, out: str, despike: bool, denoise: str, window: int, quick: bool, strength: float, size: str | None, sharpen: float,
    workers: int, resume: bool, frames: str | None, overwrite: bool, as_json: bool,
) -> int:  # fmt: skip
    source, target = read_pattern(pattern), read_pattern(out)
    need_with(("window",), denoise == "time", "--denoise time")
    need_with(("quick", "strength"), denoise != "off", "--denoise time or frame")
    delivered = None if size is None else whole_numbers(size, 2, "x", "--size")
    if not target.after.lower().endswith(".exr"):
        raise WrongInput(
            f"--out '{out[:120]}'; expected a pattern ending in .exr, since finished frames are light; handover makes the rest."
        )
    if (source.folder.resolve(), source.before, source.after) == (target.folder.resolve(), target.before, target.after):
        raise WrongInput(f"--out '{out[:120]}': the frames that are read; expected another name, so that they are not lost.")
    there = source.frames()
    wanted = list(read_frames(frames)) if frames else there
    if not wanted:
        raise FramesMissing(f"{source}: no frames there.")
    holes = sorted(set(wanted) - set(there))
    if holes:
        raise FramesMissing(f"{source}: frames {write_frames(holes)} are missing; nothing was written.")
    taken = sorted(set(target.frames()) & set(wanted))
    if taken and not overwrite and not resume:
        raise WrongInput(f"{target}: frames {write_frames(taken)} exist already; give another name, --resume or --overwrite.")
    left = [f for f in wanted if not (resume and f in taken and _whole(target.path(f)))]
    chain = Chain(
        window=window if denoise == "time" else 1,
        size=delivered,  # type: ignore[arg-type]
        despike=despike,
        per_frame=denoise == "frame",
        thorough=not quick,
        strength=strength / 100.0,
        sharpen=sharpen,
    ).checked()
    if chain.per_frame and len(wanted) > 1:
        say("Each frame is denoised by itself: what is left moves from frame to frame, and boils in motion. For stills it is fine.")
    done = finish_sequence(chain, there, source.path, target.path, lambda share, words: None, CancelToken(), workers, left)
    if done.replaced:
        say(replaced_words(done.replaced))
    document = {"frames": write_frames(done.frames), "out": str(target), "replaced_pixels": {str(f): n for f, n in done.replaced.items()}}
    document["despiked"] = {str(f): {"sparks": d.sparks, "moved": d.moved, "worst_tile": d.worst} for f, d in done.despiked.items()}
    answer(as_json, document, [f"{len(done.frames)} frames finished: {target}", *([done.despike_words] if done.despiked else [])])
    return 0


def _whole(path: Path) -> bool:
    """Whether a picture is there and can be read to its end."""
    try:
        read_header(path, whole=True)
    except PictureError:
        return False
    return True


@reel_group.command(help="Pictures to a video (.mp4) or to PNG 16 bit (out.####.png).")
@click.argument("pattern")
@click.option("--out", required=True)
@click.option("--fps", required=True, help="24, 23.976 or 24000/1001.")
@click.option("--colour", default="Un-tone-mapped", show_default=True, help="Display view.")
@click.option("--quality", type=int, default=16, show_default=True, help="0 (best) to 51.")
@click.option("--frames", default=None)
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def handover(pattern: str, out: str, fps: str, colour: str, quality: int, frames: str | None, overwrite: bool, as_json: bool) -> int:
    wanted = list(read_frames(frames)) if frames else None
    need_with(("quality",), out.lower().endswith(".mp4"), "a film ending in .mp4")
    done = deliver(read_pattern(pattern), out, read_rate(fps), colour, quality, overwrite, wanted)
    if done.replaced:
        say(replaced_words(done.replaced))
    document = {"frames": write_frames(done.frames), "out": out, "replaced_pixels": {str(f): n for f, n in done.replaced.items()}}
    answer(as_json, document, [f"{len(done.frames)} frames delivered: {out}"])
    return 0
