"""The command line: the same core as the window, one table or one JSON document each."""

from __future__ import annotations

import csv
import json
import sys
from datetime import datetime
from fractions import Fraction
from pathlib import Path

import click
import msgspec
import numpy as np

from hasty_reel.bench.cli import numbers
from hasty_reel.bench.cli import run as run_group
from hasty_reel.budget.samples import Problem, capped, hold_cap, hold_noise, hold_total
from hasty_reel.errors import CannotSolve, WrongInput
from hasty_reel.farm.proofs import Order, make_proof
from hasty_reel.farm.run import FrameEvent, Run
from hasty_reel.finish.chain import Chain, finish_sequence
from hasty_reel.handover.deliver import FramesMissing, deliver
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.plan.deadline import deadline
from hasty_reel.plan.shot import PARTS, ShotPlan, plan_shot, spoken
from hasty_reel.predict.evidence import EvidenceReader
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.frames import read_frames, write_frames
from hasty_reel.reel.recipe import departing
from hasty_reel.work import CancelToken

REEL = click.Path(path_type=Path)


@click.group(help="Plans the rendering of 3D animation. `hasty-reel FILE.reel` opens the window.")
def reel_group() -> None:
    pass


def say(words: str) -> None:
    """A message for the person: to standard error, so that standard output stays the answer."""
    click.echo(words, err=True)


def answer(as_json: bool, document: dict, table: list[str]) -> None:
    """The answer, as one JSON document or as lines."""
    click.echo(json.dumps(document, allow_nan=False) if as_json else "\n".join(table))


def clean(value: float) -> float | None:
    """A number for JSON: None where there is none."""
    return float(value) if np.isfinite(value) else None


def proofs_root(path: Path, reel: Reel) -> Path:
    """The folder of a reel's proofs."""
    return path.parent / reel.proofs


def plans_of(path: Path, reel: Reel, only: str | None) -> tuple[dict[str, ShotPlan], list[str]]:
    """The plans of all shots (or one) and what stood in the way."""
    shots = [reel.shot(only)] if only else list(reel.shots)
    reader = EvidenceReader()
    plans, words = {}, []
    for shot in shots:
        evidence = reader.read(proofs_root(path, reel), shot.id)
        words += list(evidence.faults)
        try:
            plans[shot.id] = plan_shot(reel, shot, ShotModel(evidence, shot.frames))
        except CannotSolve as error:
            words.append(f"Shot {shot.id}: {error}")
    return plans, words


@reel_group.command(name="window", hidden=True)
@click.argument("file", type=REEL, required=False)
@click.option("--picture", type=REEL, default=None, help="Save a picture of the window and leave.")
def window(file: Path | None, picture: Path | None) -> int:
    from hasty_reel.desk.app import open_window

    return open_window(file, picture)


@reel_group.command(help="Open the window with the demo reel, copied to a place where it may be changed.")
@click.option("--folder", type=REEL, default=None, help="Where the copy goes.")
@click.option("--picture", type=REEL, default=None, help="Save a picture of the window and leave.")
@click.option("--copy-only", is_flag=True, help="Copy the demo reel, print its path and leave.")
def demo(folder: Path | None, picture: Path | None, copy_only: bool) -> int:
    from hasty_reel.demo import copy_demo, demo_folder

    path = copy_demo(folder or demo_folder(), datetime.now().astimezone())
    if copy_only:
        click.echo(str(path))
        return 0
    from hasty_reel.desk.app import open_window

    return open_window(path, picture)


@reel_group.command(help="The whole plan: seconds per frame and part, totals, finishing time.")
@click.argument("file", type=REEL)
@click.option("--shot", default=None, help="Only this shot.")
@click.option("--strict", is_flag=True, help="Exit with 1 when the deadline is not met (9 in 10).")
@click.option("--json", "as_json", is_flag=True)
def estimate(file: Path, shot: str | None, strict: bool, as_json: bool) -> int:
    reel = read_reel(file)
    plans, words = plans_of(file, reel, shot)
    for line in words:
        say(line)
    if not plans:
        return 1
    wanted = reel if shot is None else msgspec.structs.replace(reel, shots=(reel.shot(shot),))
    when = deadline(wanted, plans, datetime.now().astimezone())
    document: dict = {"reel": reel.name, "shots": []}
    table = []
    for plan in plans.values():
        table += _shot_table(plan, reel)
        document["shots"].append(_shot_document(plan))
    total = sum(p.total_seconds for p in plans.values())
    document["total"] = {
        "seconds": total,
        "sure5_seconds": when.seconds5,
        "sure9_seconds": when.seconds9,
        "sure5": when.sure5.isoformat(timespec="seconds"),
        "sure9": when.sure9.isoformat(timespec="seconds"),
        "due": when.due.isoformat(timespec="seconds"),
        "spare_seconds": when.spare_seconds,
        "chance": when.chance,
        "without_plan": list(when.missing),
    }
    word = "spare" if when.spare_seconds >= 0 else "late"
    table.append(
        f"Ready {when.sure9:%a %d %b %H:%M} (9 in 10 sure), due {when.due.astimezone():%a %d %b %H:%M}: "
        f"{spoken(abs(when.spare_seconds))} {word}; chance {100 * when.chance:.0f} %"
    )
    answer(as_json, document, table)
    return 1 if (strict and when.spare_seconds < 0) or when.missing else 0


def _shot_document(plan: ShotPlan) -> dict:
    rows = [
        {
            "frame": int(plan.frames[k]),
            "samples": int(plan.samples[k]),
            "seconds": float(plan.seconds[k]),
            **{f"{part}_seconds": float(getattr(plan, part)[k]) for part in PARTS},
            "noise": float(plan.noise[k]),
            "noise_L": float(plan.noise_L[k]),
            "seen_flicker": float(plan.seen_flicker[k]),
        }
        for k in range(len(plan.frames))
    ]
    return {
        "id": plan.shot.id,
        "recipe": plan.recipe.name,
        "rendered": [plan.width, plan.height],
        "total_seconds": plan.total_seconds,
        "parts": {part: float(getattr(plan, part).sum()) for part in PARTS},
        "worst_noise": float(plan.noise.max()),
        "solved": plan.budget.solved,
        "why": plan.budget.why,
        "not_proven": list(plan.unproven),
        "frames": rows,
    }


def _shot_table(plan: ShotPlan, reel: Reel) -> list[str]:
    lines = [
        f"{plan.shot.id} {plan.shot.name}: {len(plan.frames)} frames at {plan.width}x{plan.height}, recipe {plan.recipe.name}",
        f"{'frame':>6} {'samples':>8} {'load s':>8} {'sample s':>9} {'denoise s':>10} {'write s':>8} {'all s':>8} "
        f"{'noise':>8} {'L*':>6} {'JND':>6}",
    ]
    for k, frame in enumerate(plan.frames):
        lines.append(
            f"{frame:>6} {plan.samples[k]:>8} {plan.load[k]:>8.2f} {plan.sample[k]:>9.2f} {plan.denoise[k]:>10.2f} "
            f"{plan.write[k]:>8.2f} {plan.seconds[k]:>8.2f} {plan.noise[k]:>8.4f} {plan.noise_L[k]:>6.2f} {plan.seen_flicker[k]:>6.2f}"
        )
    lines.append(f"{plan.shot.id}: {spoken(plan.total_seconds)} on a machine of speed 1, worst noise {plan.noise.max():.4f}")
    if not plan.budget.solved:
        lines.append(f"{plan.shot.id}: cannot, {plan.budget.why}")
    if plan.unproven:
        lines.append(f"{plan.shot.id}: not proven yet: {', '.join(plan.unproven)}")
    return lines


@reel_group.command(help="Samples per frame from a table of variances and times.")
@click.argument("frames_csv", type=REEL)
@click.option("--seconds", type=float, default=None, help="At most this many seconds for all frames.")
@click.option("--noise", type=float, default=None, help="At most this noise in every frame.")
@click.option("--cap", type=float, default=None, help="At most this many seconds a frame.")
@click.option("--goal", type=click.Choice(["even", "total"]), default="even", show_default=True)
@click.option("--floor", type=int, default=1, show_default=True)
@click.option("--ceiling", type=int, default=65536, show_default=True)
@click.option("--steps", type=int, default=1, show_default=True)
@click.option("--ratio", type=float, default=None, help="The most by which noise may differ between neighbours.")
@click.option("--json", "as_json", is_flag=True)
def budget(
    frames_csv: Path, seconds: float | None, noise: float | None, cap: float | None, goal, floor: int,
    ceiling: int, steps: int, ratio: float | None, as_json: bool,
) -> int:  # fmt: skip
    if seconds is None and noise is None and cap is None:
        raise WrongInput("budget: expected --seconds, --noise or --cap.")
    if seconds is not None and noise is not None:
        raise WrongInput("budget: --seconds and --noise together; expected one of them.")
    for name, value in (("--seconds", seconds), ("--noise", noise), ("--cap", cap)):
        if value is not None and not (np.isfinite(value) and value > 0):
            raise WrongInput(f"budget: {name} {value}; expected a number above 0.")
    if floor < 1 or ceiling < floor or steps < 0 or steps > ceiling:
        raise WrongInput(f"budget: floor {floor}, ceiling {ceiling}, steps {steps}; expected 1 <= floor <= ceiling, steps in it.")
    if ratio is not None and not ratio > 1:
        raise WrongInput(f"budget: --ratio {ratio}; expected a number above 1.")
    table = read_table(frames_csv, ("frame", "variance", "seconds_per_sample", "fixed_seconds"), ("weight", "pin"))
    problem = Problem(
        table["variance"], table["seconds_per_sample"], table["fixed_seconds"], floor, ceiling, steps,
        table.get("weight"), table["pin"].astype(np.int64) if "pin" in table else None, ratio,
    )  # fmt: skip
    if noise is not None:
        found = hold_noise(problem, noise)
    elif seconds is not None:
        found = hold_total(problem, seconds, goal)
    else:
        assert cap is not None
        found = hold_cap(problem, cap)
    if cap is not None and (noise is not None or seconds is not None):
        found = capped(problem, found, cap)
    level, took = problem.noise(found.samples), problem.seconds(found.samples)
    rows = [
        {"frame": int(f), "samples": int(n), "noise": float(s), "seconds": float(t)}
        for f, n, s, t in zip(table["frame"], found.samples, level, took)
    ]
    document = {
        "frames": rows,
        "total_seconds": float(took.sum()),
        "worst_noise": float(level.max()),
        "solved": found.solved,
        "why": found.why,
    }
    lines = [f"{'frame':>7} {'samples':>8} {'noise':>9} {'seconds':>10}"]
    lines += [f"{r['frame']:>7} {r['samples']:>8} {r['noise']:>9.5f} {r['seconds']:>10.3f}" for r in rows]
    lines.append(f"total {took.sum():.3f} s, worst noise {level.max():.5f}" + (f"; {found.why}" if found.why else ""))
    answer(as_json, document, lines)
    return 0 if found.solved else 1


def read_table(path: Path, needed: tuple[str, ...], optional: tuple[str, ...]) -> dict[str, np.ndarray]:
    """Columns of numbers from a CSV file by name; other columns are ignored.

    Raises
    ------
    WrongInput
        Names the file, the line and column, and what was expected.
    """
    try:
        with open(path, newline="", encoding="utf-8-sig") as stream:
            reader = csv.DictReader(stream)
            names = [n.strip() for n in reader.fieldnames or []]
            reader.fieldnames = names
            missing = [n for n in needed if n not in names]
            if missing:
                raise WrongInput(f"{path}: no column '{missing[0]}'; expected {', '.join(needed)}.")
            wanted = [n for n in (*needed, *optional) if n in names]
            columns: dict[str, list[float]] = {n: [] for n in wanted}
            for row in reader:
                for name in wanted:
                    text = (row[name] or "").strip()
                    try:
                        value = float(text) if text or name in needed else (1.0 if name == "weight" else 0.0)
                    except ValueError:
                        value = np.nan
                    if not np.isfinite(value) or value < 0:
                        raise WrongInput(f"{path}, line {reader.line_num}: {name} is '{text}'; expected a number of 0 or more.")
                    columns[name].append(value)
    except OSError as error:
        raise WrongInput(f"{path}: cannot be read ({error.strerror}).") from error
    except (UnicodeDecodeError, csv.Error) as error:
        raise WrongInput(f"{path}: not a CSV table ({error}).") from error
    if not columns[needed[0]]:
        raise WrongInput(f"{path}: no rows; expected one row a frame.")
    return {n: np.array(v) for n, v in columns.items()}


@reel_group.command(help="Render proofs through the renderer link.")
@click.argument("file", type=REEL)
@click.option("--shot", required=True)
@click.option("--frames", required=True, help="Frame set such as 1001,1010-1016.")
@click.option("--recipe", default=None)
@click.option("--samples", type=int, default=16, show_default=True)
@click.option("--scale", type=float, default=25.0, show_default=True, help="Percent of the delivered width.")
@click.option("--json", "as_json", is_flag=True)
def proof(file: Path, shot: str, frames: str, recipe: str | None, samples: int, scale: float, as_json: bool) -> int:
    reel = read_reel(file)
    chosen = reel.shot(shot)
    settings = reel.recipe_of(chosen) if recipe is None else departing(reel.recipe(recipe), chosen.departures)
    order = Order(chosen, settings, read_frames(frames), samples, scale).checked()
    root = proofs_root(file, reel)
    made = make_proof(reel, root, order, lambda share, words: None)
    evidence = EvidenceReader().read(root, shot)
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
        for r in evidence.frames
        if r.proof == made.id
    ]
    document = {"proof": made.id, "shot": shot, "size": [made.width, made.height], "samples": made.samples, "frames": rows}
    lines = [f"proof {made.id} of {shot}: {made.width}x{made.height}, {made.samples} samples, two seeds"]
    lines += [f"{r['frame']:>6} {r['seconds']:>8.2f} s  noise {r['noise']:.4f}  {r['picture']}" for r in rows]
    answer(as_json, document, lines)
    return 0


@reel_group.command(help="Render the final frames by the plan.")
@click.argument("file", type=REEL)
@click.option("--shot", default=None, help="Only this shot.")
@click.option("--frames", default=None, help="Only these frames (with --shot).")
@click.option("--out", type=REEL, required=True)
@click.option("--workers", type=int, default=1, show_default=True)
@click.option("--resume", is_flag=True, help="Keep what is finished and go on.")
@click.option("--json", "as_json", is_flag=True)
def run(file: Path, shot: str | None, frames: str | None, out: Path, workers: int, resume: bool, as_json: bool) -> int:
    reel = read_reel(file)
    wanted = list(read_frames(frames)) if frames else None
    if wanted is not None and shot is None:
        raise WrongInput("run: --frames without --shot; expected the shot they belong to.")
    plans, words = plans_of(file, reel, shot)
    for line in words:
        say(line)
    if not plans:
        return 1
    document: dict = {"shots": []}
    lines = []
    runs = [Run(reel, plan, out, wanted) for plan in plans.values()]
    if not resume:
        for one in runs:
            one.look()
    status = 0 if len(plans) == (1 if shot else len(reel.shots)) else 1
    for one in runs:

        def tell(event: FrameEvent, one: Run = one) -> None:
            if event.state in ("finished", "failed"):
                say(f"{one.shot.id} {event.frame} {event.state}{': ' + event.words if event.words else ''}, "
                    f"{spoken(one.seconds_left)} left")  # fmt: skip

        one.go(tell, CancelToken(), workers)
        finished = [f for f, s in one.states.items() if s == "finished"]
        status = status or (1 if one.faults else 0)
        document["shots"].append(
            {
                "id": one.shot.id,
                "frames": str(one.folder.final),
                "finished": write_frames(finished) if finished else "",
                "failed": {str(f): w for f, w in one.faults.items()},
            }
        )
        lines.append(f"{one.shot.id}: {len(finished)} of {len(one.frames)} frames finished in {one.folder.final}")
        lines += [f"  {f} failed: {w}" for f, w in one.faults.items()]
    answer(as_json, document, lines)
    return status


@reel_group.command(help="The finishing chain: despike, denoise over time, resize.")
@click.argument("pattern")
@click.option("--out", required=True, help="Frame pattern of the finished frames.")
@click.option("--despike", is_flag=True)
@click.option("--denoise", type=click.Choice(["time", "frame", "off"]), default="time", show_default=True)
@click.option("--window", type=int, default=5, show_default=True)
@click.option("--size", default=None, help="WxH delivered.")
@click.option("--frames", default=None, help="Frame set; default: all that are there.")
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def finish(
    pattern: str, out: str, despike: bool, denoise: str, window: int, size: str | None, frames: str | None,
    overwrite: bool, as_json: bool,
) -> int:  # fmt: skip
    source, target = read_pattern(pattern), read_pattern(out)
    there = source.frames()
    wanted = list(read_frames(frames)) if frames else there
    if not wanted:
        raise FramesMissing(f"{source}: no frames there.")
    holes = sorted(set(wanted) - set(there))
    if holes:
        raise FramesMissing(f"{source}: frames {write_frames(holes)} are missing; nothing was written.")
    taken = sorted(set(target.frames()) & set(wanted))
    if taken and not overwrite:
        raise WrongInput(f"{target}: frames {write_frames(taken)} exist already; give another name, or --overwrite.")
    delivered = numbers(size, 2, "x", "--size") if size else None
    chain = Chain(
        window=window if denoise == "time" else 1,
        size=delivered,  # type: ignore[arg-type]
        despike=despike,
        per_frame=denoise == "frame",
    ).checked()
    done = finish_sequence(chain, wanted, source.path, target.path, lambda share, words: None, CancelToken())
    answer(as_json, {"frames": write_frames(done), "out": str(target)}, [f"{len(done)} frames finished: {target}"])
    return 0


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
    done = deliver(read_pattern(pattern), out, read_rate(fps), colour, quality, overwrite, wanted)
    answer(as_json, {"frames": write_frames(done), "out": out}, [f"{len(done)} frames delivered: {out}"])
    return 0


def read_rate(text: str) -> Fraction:
    """A frame rate: whole, a fraction, or a customary decimal of a fraction over 1001.

    Raises
    ------
    WrongInput
        When it is not a rate from 1 to 1000.
    """
    try:
        rate = Fraction(text)
    except (ValueError, ZeroDivisionError) as error:
        raise WrongInput(f"--fps '{text}'; expected a rate such as 24, 23.976 or 24000/1001.") from error
    for whole in (24, 30, 48, 60, 120):  # 23.976, 29.97, 59.94 stand for these (SMPTE ST 12)
        if "." in text and abs(rate - Fraction(whole * 1000, 1001)) < Fraction(1, 150):
            return Fraction(whole * 1000, 1001)
    if not 1 <= rate <= 1000:
        raise WrongInput(f"--fps '{text}'; expected 1 to 1000 frames a second.")
    return rate


def main(arguments: list[str] | None = None) -> None:
    """Entry point of `hasty-reel`: a command, or a reel file for the window."""
    words = list(sys.argv[1:] if arguments is None else arguments)
    if not words or (words[0] not in reel_group.commands and not words[0].startswith("-")):
        words = ["window", *words]
    sys.exit(run_group(reel_group, words, "hasty-reel"))
