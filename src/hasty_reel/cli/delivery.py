"""Commands that finish and deliver frames: finish, own-step, try-finish, handover."""

from __future__ import annotations

from pathlib import Path

import click
import msgspec

from hasty_reel.cli.answers import REEL, answer, reel_group, say
from hasty_reel.cli.planning import proofs_root
from hasty_reel.commands import need_with, whole_numbers
from hasty_reel.errors import WrongInput
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.proofrun import try_chain
from hasty_reel.finish.chain import Chain
from hasty_reel.finish.sequence import as_finished, finish_sequence
from hasty_reel.finish.sources import SourceDigests
from hasty_reel.handover.deliver import Delivery, FramesMissing, deliver, form_named, form_of, usual_colour
from hasty_reel.handover.films import FILM, USUAL_GOP, FilmFormat, FilmOptions
from hasty_reel.own.finishmemory import checked_memory, finish_memory
from hasty_reel.pictures.colourspaces import output_named
from hasty_reel.pictures.finite import replaced_words
from hasty_reel.pictures.outputs import FORMAT, PictureOptions
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.programs.commands import command_text
from hasty_reel.programs.ownsteps import OWN_STEPS, OwnStep, own_step
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.frames import read_frames, write_frames
from hasty_reel.reel.rate import read_rate
from hasty_reel.settings.finishorder import own_names, read_order
from hasty_reel.work import CancelToken


def _loop(there: list[int]) -> tuple[int, int]:
    """First and last frame of a loop that is all there."""
    if there != list(range(there[0], there[-1] + 1)):
        raise FramesMissing(f"--loop: frames {write_frames(there)} are there; expected every frame from the first to the last of the loop.")
    return there[0], there[-1]


@reel_group.command(help="The finishing chain: despike, denoise over time and space, resize, sharpen.")
@click.argument("pattern")
@click.option("--out", required=True, help="Frame pattern of the finished frames.")
@click.option("--despike", is_flag=True)
@click.option("--denoise", type=click.Choice(["time", "frame", "off"]), default="time", show_default=True)
@click.option("--window", type=int, default=5, show_default=True)
@click.option("--quick", is_flag=True, help="Denoise with less care, in half to two thirds of the time.")
@click.option("--strength", type=float, default=100.0, show_default=True, help="Percent of the denoised picture in the result.")
@click.option("--size", default=None, help="WxH delivered.")
@click.option(
    "--sharpen", type=float, default=0.0, show_default=True, help="Share of the finest detail that is added; 0.1 after enlarging."
)
@click.option(
    "--steps", default=None, help="Order of steps, own ones by their names among them, as resize,denoise,Grade; default: the usual."
)
@click.option("--loop", is_flag=True, help="The first frame comes again after the last one: both are denoised with the frames beyond.")
@click.option("--workers", type=int, default=1, show_default=True, help="Stretches of frames finished at once.")
@click.option("--memory", type=float, default=None, help="GB that it may take; default: as 'limits' says.")
@click.option("--resume", is_flag=True, help="Keep finished frames that are there, and go on.")
@click.option("--frames", default=None, help="Frame set; default: all that are there.")
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def finish(
    pattern: str, out: str, despike: bool, denoise: str, window: int, quick: bool, strength: float, size: str | None, sharpen: float,
    steps: str | None, loop: bool, workers: int, memory: float | None, resume: bool, frames: str | None, overwrite: bool, as_json: bool,
) -> int:  # fmt: skip
    source, target = read_pattern(pattern), read_pattern(out)
    order = read_order(steps or "", "--steps")
    need_with(("window",), denoise == "time", "--denoise time")
    need_with(("quick", "strength"), denoise != "off", "--denoise time or frame")
    most = finish_memory() if memory is None else checked_memory(memory, "--memory")
    delivered = None if size is None else whole_numbers(size, 2, "x", "--size")
    if not target.after.lower().endswith(".exr"):
        raise WrongInput(
            f"--out '{out[:120]}'; expected a pattern ending in .exr, since finished frames are light; handover makes the rest."
        )
    if (source.folder.resolve(), source.before, source.after) == (target.folder.resolve(), target.before, target.after):
        raise WrongInput(f"--out '{out[:120]}': the frames that are read; expected another name, so that they are not lost.")
    there = source.frames()
    if words := source.padding_words():
        say(words)
    wanted = list(read_frames(frames)) if frames else there
    if not wanted:
        raise FramesMissing(f"{source}: no frames there.")
    holes = sorted(set(wanted) - set(there))
    if holes:
        raise FramesMissing(f"{source}: frames {write_frames(holes)} are missing; nothing was written.")
    taken = sorted(set(target.frames()) & set(wanted))
    if taken and not overwrite and not resume:
        raise WrongInput(f"{target}: frames {write_frames(taken)} exist already; give another name, --resume or --overwrite.")
    chain = Chain(
        window=window if denoise == "time" else 1,
        size=delivered,  # type: ignore[arg-type]
        despike=despike,
        per_frame=denoise == "frame",
        thorough=not quick,
        strength=strength / 100.0,
        sharpen=sharpen,
        order=order,
        own=tuple(own_step(name) for name in own_names(order)),
        loop=_loop(there) if loop else None,
    ).checked()
    left = wanted
    if resume:
        digests = SourceDigests(source.path)
        kept = {f for f in taken if as_finished(chain, digests, there, target.path(f), f)}
        left = [f for f in wanted if f not in kept]
        anew = sorted(set(left) & set(taken))
        if anew:
            which = f"Frame{'' if len(anew) == 1 else 's'} {write_frames(anew)}"
            say(f"{which}: made anew, since not whole, or made with other settings or from other pictures.")
    if chain.per_frame and len(wanted) > 1:
        say("Each frame is denoised by itself: what is left moves from frame to frame, and boils in motion. For stills it is fine.")
    done = finish_sequence(
        chain, there, source.path, target.path, lambda share, words: None, CancelToken(), workers, left, memory=most
    )  # fmt: skip
    if done.replaced:
        say(replaced_words(done.replaced))
    document = {"frames": write_frames(done.frames), "out": str(target), "replaced_pixels": {str(f): n for f, n in done.replaced.items()}}
    document["despiked"] = {str(f): {"sparks": d.sparks, "moved": d.moved, "worst_tile": d.worst} for f, d in done.despiked.items()}
    answer(as_json, document, [f"{len(done.frames)} frames finished: {target}", *([done.despike_words] if done.despiked else [])])
    return 0


@reel_group.command(name="own-step", help="Steps of your own for the finishing chain, kept on this machine: list, keep, take out.")
@click.argument("name", required=False)
@click.argument("command", nargs=-1)
@click.option("--folder", is_flag=True, help="Started once, on a folder with all frames, and not on each frame.")
@click.option("--timeout", type=float, default=600.0, show_default=True, help="Seconds after which it is given up.")
@click.option("--progress", default="", help="Regular expression; its first group is the percentage done.")
@click.option("--remove", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def own_steps(name: str | None, command: tuple[str, ...], folder: bool, timeout: float, progress: str, remove: bool, as_json: bool) -> int:
    kept = OWN_STEPS.read()
    need_with(("folder", "timeout", "progress"), bool(command), "a command")
    if remove:
        kept = kept.without(own_step(name or "", kept))
        OWN_STEPS.save(kept)
    elif command:
        kept = kept.added(OwnStep(name=name or "", command=command, timeout=timeout, progress=progress, folder=folder))
        OWN_STEPS.save(kept)
    elif name is not None:
        own_step(name, kept)
    shown = [s for s in kept.items if name is None or command or remove or s.name == name]
    lines = [f"{s.name}: {'on the folder' if s.folder else 'on each frame'}, {s.timeout:g} s: {command_text(s.command)}" for s in shown]
    answer(as_json, {"steps": [msgspec.to_builtins(s) for s in shown]}, lines or ["No steps of your own are kept."])
    return 0


@reel_group.command(name="try-finish", help="Try the chain of a shot's recipe on its proof runs; the plan counts on what it does.")
@click.argument("file", type=REEL)
@click.option("--shot", required=True)
@click.option("--json", "as_json", is_flag=True)
def try_finish(file: Path, shot: str, as_json: bool) -> int:
    reel = read_reel(file)
    chosen = reel.shot(shot)
    resolved = reel.resolved(chosen)
    words = resolved.chain
    if not words:
        raise WrongInput(f"{shot}: its chain is the usual one, which every proof run tries; expected another order or a step of your own.")
    own = [own_step(name) for name in own_names(resolved.recipe.finish_order)]
    evidence = EvidenceReader().read(proofs_root(file, reel), chosen)
    tried = {}
    for proof in evidence.proofs:
        if proof.as_rendered and proof.id not in chosen.put_away:
            folder = evidence.folders[proof.id]
            found = try_chain(folder, proof, resolved, own, reel.height, float(reel.fps), lambda share, words: None, CancelToken())
            if found is not None:
                tried[proof.id] = found
    if not tried:
        raise WrongInput(f"{shot}: no proof run is two frames longer than the denoise window; expected one, as `proof --frames` makes.")
    lines = [
        f"{proof}, {e.samples:g} samples: {words}: noise x {e.noise_ratio:.2f}, seen flicker x {e.seen:.2f}, edges {100 * e.detail:.0f} %"
        for proof, e in tried.items()
    ]
    answer(as_json, {"chain": words, "tried": {k: msgspec.to_builtins(e) for k, e in tried.items()}}, lines)
    return 0


@reel_group.command(help="Pictures to a film (.mp4, .mov, .mkv), or to pictures of another format and colour (out.####.png).")
@click.argument("pattern")
@click.option("--out", required=True)
@click.option("--fps", required=True, help="24, 23.976 or 24000/1001.")
@click.option("--format", "key", default=None, help=f"One of {', '.join([*FORMAT, *FILM])}; default: the usual one of the ending.")
@click.option("--colour", default=None, help="sRGB, Rec. 1886, ACEScg … or a display view; default: sRGB, light for formats that keep it.")
@click.option("--config", type=click.Path(path_type=Path), default=None, help="An OpenColorIO configuration of your own.")
@click.option("--quality", type=int, default=None, help="Of the coder, or of a JPEG.")
@click.option("--compression", default="", help="Of OpenEXR or TIFF: zip, piz, dwaa …")
@click.option("--level", type=float, default=None, help="Of compression dwaa or dwab; 45 is usual.")
@click.option("--tiles", is_flag=True, help="OpenEXR in tiles instead of lines.")
@click.option("--window", is_flag=True, help="OpenEXR: keep the part alone that is not empty; what is shown stays as large.")
@click.option("--layers", is_flag=True, help="Guides beside the colour, in one OpenEXR file.")
@click.option("--apart", is_flag=True, help="With --layers: each guide in files of its own.")
@click.option("--panorama", is_flag=True, help="Tag the pictures as all around, 360 by 180 degrees.")
@click.option("--gop", type=int, default=USUAL_GOP, show_default=True, help="Frames between key frames of a film.")
@click.option("--pixels", default="", help="Pixel format of a film, as yuv444p.")
@click.option("--sound", type=REEL, default=None, help="A file whose first sound goes along.")
@click.option("--frames", default=None)
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def handover(
    pattern: str, out: str, fps: str, key: str | None, colour: str | None, config: Path | None, quality: int | None, compression: str,
    level: float | None, tiles: bool, window: bool, layers: bool, apart: bool, panorama: bool, gop: int, pixels: str, sound: Path | None,
    frames: str | None, overwrite: bool, as_json: bool,
) -> int:  # fmt: skip
    wanted = list(read_frames(frames)) if frames else None
    form = form_of(out) if key is None else form_named(key)
    film = isinstance(form, FilmFormat)
    need_with(("gop", "pixels", "sound"), film, "a film")
    need_with(("compression", "level", "tiles", "window", "layers", "panorama"), not film, "pictures")
    need_with(("apart",), layers, "--layers")
    how = Delivery(
        form, output_named(colour or usual_colour(form), config),
        PictureOptions(compression, level, None if film else quality, tiles, layers, apart, window),
        FilmOptions(quality if film else None, gop, pixels, sound=sound), config, panorama,
    )  # fmt: skip
    done = deliver(read_pattern(pattern), out, read_rate(fps), how, overwrite, wanted)
    if done.replaced:
        say(replaced_words(done.replaced))
    for words in how.warnings:
        say(words)
    document = {
        "frames": write_frames(done.frames), "out": out, "format": form.key, "colour": how.colour.name, "warnings": how.warnings,
        "replaced_pixels": {str(f): n for f, n in done.replaced.items()},
    }  # fmt: skip
    answer(as_json, document, [f"{len(done.frames)} frames delivered as {form.words}, {how.colour.name}: {out}"])
    return 0
