"""Commands that render: proof, run; account of a run."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import click
import numpy as np

from hasty_reel.cli.answers import REEL, answer, clean, reel_group, say, say_some
from hasty_reel.cli.planning import outlook_of, proofs_root, tasks_of
from hasty_reel.cli.proving import prove_within
from hasty_reel.commands import need_with
from hasty_reel.errors import RendererFault, WrongInput
from hasty_reel.evidence.places import noisiest_place
from hasty_reel.evidence.proof import Proof, proof_folders
from hasty_reel.evidence.rows import Evidence, EvidenceReader
from hasty_reel.evidence.sweep import find_sweep
from hasty_reel.farm.bringin import Bringing, bring_in
from hasty_reel.farm.forecast import start_words, telling_scan
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.patternof import guess_pair
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.farm.renderers.links import named_link
from hasty_reel.farm.renderers.protocol import Renderer
from hasty_reel.farm.sweeps import USUAL, next_label, read_values, sweep_orders, usual_values
from hasty_reel.farm.times import Times, read_log, read_times, times_of_files
from hasty_reel.farm.usual import denoising_orders, noise_order, scan_order
from hasty_reel.farm.yardstick import recent_yardsticks
from hasty_reel.own.draftcuts import DRAFT_CUTS
from hasty_reel.pictures.finite import replaced_words
from hasty_reel.pictures.foreign import read_channels_text
from hasty_reel.pictures.sequence import FramePattern, read_pattern
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import read_duration, spoken
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.frames import read_frames, read_proof_frames, write_frames
from hasty_reel.run.account import account_of
from hasty_reel.run.cluster import ClusterCrew
from hasty_reel.run.clusterkeys import make_keys
from hasty_reel.run.events import FrameEvent
from hasty_reel.run.journal import NAME as JOURNAL
from hasty_reel.run.journal import NOTED, read_journal
from hasty_reel.run.shotrun import Run
from hasty_reel.settings.recipe import Recipe, departing
from hasty_reel.settings.setting import Value
from hasty_reel.work import CancelToken


@reel_group.command(name="bring-proof", help="Keep frames rendered elsewhere, and their times, as a proof.")
@click.argument("file", type=REEL)
@click.argument("pattern")
@click.option("--shot", required=True)
@click.option("--pair", default=None, help="The same frames with another seed; found by itself where it is named alike.")
@click.option("--second", default=None, help="The same frames in another size, kept as a proof of its own.")
@click.option("--samples", type=int, default=None, help="Samples per pixel; default: as the files or the times say.")
@click.option("--recipe", default=None)
@click.option("--times", type=REEL, default=None, help="CSV: frame, seconds, and any of samples and seconds by part.")
@click.option("--log", type=REEL, default=None, help="Text log, read with --log-pattern.")
@click.option("--log-pattern", default=None, help="Regular expression with groups named frame and seconds.")
@click.option("--file-dates", is_flag=True, help="A frame took as long as lies between its file and the one written before.")
@click.option("--attribute", default="", help="Header attribute with the seconds.")
@click.option("--channels", multiple=True, help="Correct a guess: albedo=a.R,a.G,a.B or albedo=none.")
@click.option("--linear/--coded", default=None, help="Colour is light, or display codes; default: as the files say.")
@click.option("--json", "as_json", is_flag=True)
def bring_proof(
    file: Path, pattern: str, shot: str, pair: str | None, second: str | None, samples: int | None, recipe: str | None, times: Path | None,
    log: Path | None, log_pattern: str | None, file_dates: bool, attribute: str,
    channels: tuple[str, ...], linear: bool | None, as_json: bool,
) -> int:  # fmt: skip
    reel = read_reel(file)
    chosen = reel.shot(shot)
    settings = reel.recipe_of(chosen) if recipe is None else reel.declared(departing(reel.recipe(recipe), chosen.departures))
    if samples is not None and not 1 <= samples <= 1 << 20:
        raise WrongInput(f"bring-proof: --samples {samples}; expected 1 to 1048576.")
    need_with(("log_pattern",), log is not None, "--log")
    if sum((log is not None, times is not None, file_dates)) > 1:
        raise WrongInput("bring-proof: --times, --log and --file-dates all tell seconds; expected one of them.")
    if log is not None and log_pattern is None:
        raise WrongInput("bring-proof: --log without --log-pattern; expected a pattern with groups named frame and seconds.")
    mapped: dict[str, tuple[str, ...]] = {}
    for text in channels:
        mapped |= read_channels_text(text)

    def _brought(source: FramePattern, other_seed: FramePattern | None, told: Times) -> dict:
        if file_dates:
            told, pauses = times_of_files({f: source.path(f) for f in source.frames() if chosen.begin <= f < chosen.past})
            if pauses:
                say(f"{pauses} frames were written after a pause: they tell no time.")
        coded = None if linear is None else not linear
        made, words = bring_in(
            proofs_root(file, reel), Bringing(chosen, settings, source, other_seed, samples, mapped or None, coded, told, attribute)
        )
        say_some(words)
        frames = write_frames(int(f) for f in made.by_frame())
        return {
            "proof": made.id, "shot": shot, "size": [made.width, made.height], "samples": made.samples, "frames": frames, "missing": words,
            "seeds": 1 if other_seed is None else 2,
        }  # fmt: skip

    source = read_pattern(pattern)
    told = read_times(times) if times is not None else read_log(log, log_pattern or "") if log is not None else Times()
    document = _brought(source, read_pattern(pair) if pair else guess_pair(source), told)
    all_of_them = [document]
    if second is not None:
        # a table or a log is of the sequence that it was named with
        other = read_pattern(second)
        document["second"] = _brought(other, guess_pair(other), Times())
        all_of_them.append(document["second"])
    lines = [
        f"proof {d['proof']} of {shot}: {d['frames']}, {d['size'][0]}x{d['size'][1]}, {d['samples']} samples, "
        + ("two seeds" if d["seeds"] == 2 else "one seed")
        for d in all_of_them
    ]
    answer(as_json, document, lines)
    return 0


@reel_group.command(help="Render proofs through the renderer link.")
@click.argument("file", type=REEL)
@click.option("--shot", required=True)
@click.option("--frames", default=None, help="Frame set such as 1001,1010-1016.")
@click.option("--scan", is_flag=True, help="Tiny, cheap pictures of every frame or every second one: how the cost changes over the shot.")
@click.option("--every", type=int, default=1, show_default=True, help="With --scan: only every so many frames of it.")
@click.option("--noise", "of_noise", is_flag=True, help="A few frames at full size with one sample: the best evidence of noise.")
@click.option("--denoising", type=int, default=None, help="A run around this frame, of each a part as dense as planned.")
@click.option("--within", default=None, help="What tells most in this time: 2min, 90s, 1h.")
@click.option("--recipe", default=None)
@click.option("--samples", type=int, default=16, show_default=True)
@click.option("--scale", type=float, default=25.0, show_default=True, help="Percent of the delivered width.")
@click.option("--draft", is_flag=True, help="Under the draft cut that is chosen.")
@click.option("--floor", type=int, default=4, show_default=True, help="The fewest samples, with --cap or --stop-noise.")
@click.option("--cap", type=float, default=None, help="Seconds a picture may take.")
@click.option("--stop-noise", type=float, default=None, help="Stop a pixel below this noise.")
@click.option("--sweep", default=None, help="Setting to sweep over, with --values: bounces, samples, scale …")
@click.option("--values", default=None, help="Values of the sweep: 0,1,2,4,none.")
@click.option("--renderer", default=None, help="Name of a renderer link; default: the chosen one.")
@click.option("--json", "as_json", is_flag=True)
def proof(
    file: Path, shot: str, frames: str | None, scan: bool, every: int, of_noise: bool, denoising: int | None, within: str | None,
    recipe: str | None,
    samples: int, scale: float, draft: bool, floor: int,
    cap: float | None, stop_noise: float | None, sweep: str | None, values: str | None, renderer: str | None, as_json: bool,
) -> int:  # fmt: skip
    need_with(("values",), sweep is not None, "--sweep")
    need_with(("floor",), cap is not None or stop_noise is not None, "--cap or --stop-noise")
    reel = read_reel(file)
    chosen = reel.shot(shot)
    settings = reel.recipe_of(chosen) if recipe is None else reel.declared(departing(reel.recipe(recipe), chosen.departures))
    if (frames is not None) + scan + of_noise + (denoising is not None) + (within is not None) != 1:
        raise WrongInput("proof: expected one of --frames, --scan, --noise, --denoising and --within.")
    need_with(("samples",), frames is not None or denoising is not None, "--frames or --denoising")
    need_with(("scale", "cap", "stop_noise", "sweep"), frames is not None, "--frames")
    if within is not None:
        need_with(("recipe", "draft"), False, "--frames, --scan, --noise or --denoising: --within proves the shot's own recipe")
        return prove_within(file, reel, chosen, read_duration(within, "--within"), renderer, as_json)
    order = ProofOrder(
        chosen, settings, read_proof_frames(frames or str(chosen.begin)), samples, scale, floor=min(floor, samples), cap=cap,
        stop_noise=stop_noise,
    ).checked()  # fmt: skip
    orders = [order]
    need_with(("every",), scan, "--scan")
    if of_noise:
        orders = [noise_order(chosen, settings, reel.picture_size)]
    if scan:
        orders = [_scan(scan_order(chosen, settings, reel.picture_size), every, file, reel)]
    link = named_link(renderer)
    if denoising is not None:
        at = noisiest_place(EvidenceReader().read(proofs_root(file, reel), chosen), denoising)
        orders = denoising_orders(chosen, settings, reel.picture_size, denoising, samples, at, link.crops)
    if draft:
        orders = [order.under(DRAFT_CUTS.read().current).checked() for order in orders]
    render_with = renderer_of(link)
    root = proofs_root(file, reel)
    faults: dict[int | float, str] = {}
    if sweep is not None:
        return run_sweep(reel, root, orders[0], sweep, values, render_with, faults, as_json)
    made = []
    try:
        for order in orders:
            made.append(make_proof(reel, root, order, renderer=render_with, fault=faults.__setitem__, yardstick=recent_yardsticks))
    finally:
        for words in faults.values():
            say(words)
    evidence = EvidenceReader().read(root, chosen)
    told = [_told_of(proof, orders[0].seeds, evidence) for proof in made]
    document = told[0][0] if denoising is None else {"proofs": [document for document, _ in told]}
    answer(as_json, document, [line for _, lines in told for line in lines])
    return 1 if faults else 0


def _told_of(made: Proof, seeds: int, evidence: Evidence) -> tuple[dict, list[str]]:
    """What is told of a proof that was made, as a document and in lines."""
    rows = [
        {
            "frame": r.frame,
            "seconds": r.seconds,
            "load_seconds": r.load_seconds,
            "sample_seconds": r.sample_seconds,
            "write_seconds": r.write_seconds,
            "noise": clean(r.noise_linear),
            "noise_L": clean(r.noise_L),
            "variance": clean(r.variance),
            "picture": str(r.picture),
        }
        for r in evidence.rows_of(made.id)
    ]
    document = {
        "proof": made.id,
        "shot": made.shot,
        "size": [made.width, made.height],
        "samples": made.samples,
        "draft": made.draft,
        "frames": rows,
    }
    if made.crop is not None:
        document |= {"crop": [made.crop.left, made.crop.top, made.width, made.height], "of": list(made.frame_size)}
    under = f", under draft cut '{made.draft}'" if made.draft else ""
    words = "two seeds" if seeds == 2 else "one seed, noise not measured"
    lines = [f"proof {made.id} of {made.shot}: {made.size_words.replace(' × ', 'x')}, {made.samples} samples, {words}{under}"]
    for r in rows:
        noise = "" if r["noise"] is None else f"  noise {r['noise']:.4f}"
        lines.append(f"{r['frame']:>6g} {r['seconds']:>8.2f} s{noise}  {r['picture']}")
    return document, lines


def _scan(order: ProofOrder, every: int, file: Path, reel: Reel) -> ProofOrder:
    """A scan as it is asked for, with what it takes said beforehand where most of that are starts of the renderer."""
    if not 1 <= every <= len(order.frames):
        raise WrongInput(f"proof: --every {every}; expected 1 to {len(order.frames)}.")
    plan = outlook_of(file, reel, order.shot.id).plans.get(order.shot.id) if _proven(file, reel, order) else None
    order = replace(order, frames=order.frames[::every])
    if plan is not None:
        order = telling_scan(order, plan, reel.picture_size)
        if words := start_words(order, plan, reel.picture_size):
            say(f"{words} (--every).")
    return order


def _proven(file: Path, reel: Reel, order: ProofOrder) -> bool:
    """Whether there are proofs of the shot, by which it can be told what an order takes."""
    return any(proof_folders(proofs_root(file, reel), order.shot.proofs))


def _usual(name: str, recipe: Recipe) -> tuple[Value, ...]:
    """Values that a sweep tries unless others are told; none of what cannot be swept, which is said where the sweep begins."""
    known = name in USUAL or any(setting.field == name for setting in recipe.settings)
    return usual_values(name, recipe) if known else ()


def run_sweep(
    reel: Reel, root: Path, order: ProofOrder, name: str, values: str | None, renderer: Renderer,
    faults: dict[int | float, str], as_json: bool,
) -> int:  # fmt: skip
    """Render a sweep and say what it found."""
    found: list[Value] = list(_usual(name, order.recipe)) if values is None else read_values(name, values, "--values", order.recipe)
    evidence = EvidenceReader().read(root, order.shot)
    label = next_label(name, {p.sweep for p in evidence.proofs})
    for one in sweep_orders(order, name, found, label):
        try:
            make_proof(reel, root, one, renderer=renderer, fault=faults.__setitem__, yardstick=recent_yardsticks)
        except RendererFault as error:
            say(str(error))
    sweep = find_sweep(EvidenceReader().read(root, order.shot), label, name, reel.picture_size[0])
    rows = [
        {"value": p.value, "proof": p.proof, "seconds": p.seconds, "noise_L": clean(p.noise_L), "off_L": clean(p.off_L)}
        for p in sweep.points
    ]
    document = {"sweep": label, "finding": sweep.finding, "enough": sweep.enough, "points": rows}
    lines = [sweep.finding]
    for p in sweep.points:
        off = "" if not np.isfinite(p.off_L) else f"  {p.off_L:.2f} L* off the fullest"
        lines.append(f"{p.value!s:>8}  {p.proof}  {p.seconds:>8.2f} s{off}")
    answer(as_json, document, lines)
    return 1 if faults else 0


@reel_group.command(help="Render the final frames by the plan.")
@click.argument("file", type=REEL)
@click.option("--shot", default=None, help="Only this shot.")
@click.option("--frames", default=None, help="Only these frames (with --shot).")
@click.option("--out", type=REEL, required=True)
@click.option("--workers", type=int, default=1, show_default=True)
@click.option("--resume", is_flag=True, help="Keep what is finished and go on.")
@click.option("--overwrite", is_flag=True, help="Render frames made with other settings again.")
@click.option("--scheduler", default=None, help="Send the frames to the dask.distributed cluster at this address.")
@click.option("--keys", type=REEL, default=None, help="With --scheduler tls://…: folder with the certificates of the cluster.")
@click.option("--trouble-first", is_flag=True, help="First, last, slowest and worst frames before the rest, so that trouble shows early.")
@click.option("--json", "as_json", is_flag=True)
def run(
    file: Path, shot: str | None, frames: str | None, out: Path, workers: int, resume: bool, overwrite: bool, scheduler: str | None,
    keys: Path | None, trouble_first: bool, as_json: bool,
) -> int:  # fmt: skip
    need_with(("keys",), scheduler is not None, "--scheduler")
    need_with(("workers",), scheduler is None, "workers of this machine, without --scheduler")
    reel = read_reel(file)
    wanted = None if frames is None else list(read_frames(frames))
    need_with(("frames",), shot is not None, "--shot")
    plans = outlook_of(file, reel, shot).plans
    if not plans:
        return 1
    document: dict = {"shots": []}
    lines = []
    link = named_link(None)
    render_with = renderer_of(link)
    in_turn = sorted(plans.values(), key=lambda plan: -plan.shot.priority)
    runs = [Run(reel, plan, out, wanted, render_with) for plan in in_turn]
    for one in runs:
        one.look(resume, overwrite)
    crew = None if scheduler is None else ClusterCrew(scheduler, link, keys)
    status = 0 if len(plans) == len(tasks_of(reel, shot)) else 1
    for one in runs:

        def tell(event: FrameEvent, one: Run = one) -> None:
            if event.state == NOTED:
                say(f"{one.shot.id}: {event.words}")
            elif event.state in ("finished", "failed") or event.words:
                say(f"{one.shot.id} {event.frame} {event.state}{': ' + event.words if event.words else ''}, "
                    f"{spoken(one.seconds_left)} left")  # fmt: skip

        one.go(tell, CancelToken(), workers, crew, trouble_first=trouble_first)
        finished = [f for f, s in one.states.items() if s == "finished"]
        status = status or (1 if one.faults else 0)
        document["shots"].append(
            {
                "id": one.shot.id,
                "frames": str(one.folder.final),
                "finished": write_frames(finished) if finished else "",
                "failed": {str(f): w for f, w in one.faults.items()},
                "replaced_pixels": {str(f): n for f, n in one.replaced.items()},
                "account": account_of(read_journal(one.folder.final.folder), one.states).words,
            }
        )
        lines.append(f"{one.shot.id}: {len(finished)} of {len(one.frames)} frames finished in {one.folder.final}")
        if one.replaced:
            say(f"{one.shot.id}: {replaced_words(one.replaced)}")
        lines += [f"  {w}" for w in account_of(read_journal(one.folder.final.folder), one.states).words]
    if crew is not None:
        crew.close()
    answer(as_json, document, lines)
    return status


@reel_group.command(name="cluster-keys", help="Make the certificates of a cluster: a folder to be copied to each of its machines.")
@click.argument("folder", type=click.Path(path_type=Path))
@click.option("--days", type=int, default=365, show_default=True, help="How long they are good.")
@click.option("--json", "as_json", is_flag=True)
def cluster_keys(folder: Path, days: int, as_json: bool) -> int:
    make_keys(folder, days)
    words = f"{folder}: certificates for {days} days. Copy the folder to every machine of the cluster, and to nobody else."
    answer(as_json, {"folder": str(folder), "days": days}, [words])
    return 0


@reel_group.command(help="What the last run into a folder did: frames, faults, real against planned seconds, what to render again.")
@click.argument("folder", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True)
def account(folder: Path, as_json: bool) -> int:
    found = {p.parent.name: account_of(read_journal(p.parent)) for p in sorted(folder.glob(f"*/{JOURNAL}"))}
    if (folder / JOURNAL).is_file():
        found[folder.name] = account_of(read_journal(folder))
    if not found:
        raise WrongInput(f"{folder}: no run has left its journal there; expected the folder of a run.")
    shots = [
        {
            "shot": name,
            "begun": None if a.begun is None else a.begun.isoformat(),
            "ended": None if a.ended is None else a.ended.isoformat(),
            "rendered": len(a.rendered),
            "finished": a.finished,
            "pace": clean(a.pace),
            "failed": {str(f): w for f, w in a.failed.items()},
            "render_again": write_frames(a.again) if a.again else "",
            "why": a.why,
            "machines": [
                {"name": m.name, "frames": m.frames, "seconds": m.seconds, "pace": clean(m.pace), "retried": m.retried} for m in a.machines
            ],
            "objects": [{"name": o.name, "seconds": o.seconds, "share": o.share, "memory_bytes": o.memory_bytes} for o in a.objects],
            "words": a.words,
        }
        for name, a in found.items()
    ]
    answer(as_json, {"shots": shots}, [f"{name}: {w}" for name, a in found.items() for w in a.words])
    return 1 if any(a.again for a in found.values()) else 0
