"""Commands that plan: estimate, budget, export, bring-in."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

import click
import msgspec
import numpy as np

from hasty_reel.budget.samples import Problem, hold_cap, hold_clean, hold_noise, hold_total
from hasty_reel.cli.answers import LARGEST_NUMBER, REEL, answer, clean, read_table, reel_group, say_some
from hasty_reel.cli.plantables import (
    bundle_document,
    bundle_table,
    cache_document,
    cache_table,
    held_document,
    held_table,
    next_document,
    saving_document,
    saving_table,
    shot_document,
    shot_table,
    shutter_document,
    shutter_table,
    size_document,
    size_table,
    step_document,
)
from hasty_reel.commands import need_with
from hasty_reel.errors import WrongInput, reason
from hasty_reel.evidence.looks import looks_of
from hasty_reel.evidence.motion import speeds_of
from hasty_reel.evidence.relight import relights_of
from hasty_reel.evidence.sizepairs import size_pairs_of
from hasty_reel.farm.fromframes import reel_from_frames
from hasty_reel.farm.jobtemplate import job_template
from hasty_reel.farm.nextproof import next_proof
from hasty_reel.farm.renderers.links import named_link
from hasty_reel.measure.eyesight import WATCHERS, eyes_of
from hasty_reel.plan.answer import sentence
from hasty_reel.plan.compare.bundles import allowed_work, alternatives
from hasty_reel.plan.compare.savings import savings
from hasty_reel.plan.compare.sizes import size_rows
from hasty_reel.plan.compare.steps import calm_steps
from hasty_reel.plan.compare.wouldhelp import would_help
from hasty_reel.plan.frames.caches import placing_of
from hasty_reel.plan.frames.memory import memory_of, memory_words
from hasty_reel.plan.frames.shutter import shutter_of
from hasty_reel.plan.heldback import held_back
from hasty_reel.plan.outlook import Outlook
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.edits import brought_in, with_value
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.fresh import FIRST_SCENE, fresh_reel
from hasty_reel.reel.hours import hours_text
from hasty_reel.reel.incoming import read_shots
from hasty_reel.reel.rate import timecode
from hasty_reel.reel.saves import save_keeping
from hasty_reel.reel.shot import Shot
from hasty_reel.reel.shottable import write_table
from hasty_reel.reel.timeline import write_timeline
from hasty_reel.reel.writer import writing
from hasty_reel.studio.planner import plan_reel
from hasty_reel.wholefile import write_whole

SMALLEST_PROMISE, MOST_SAMPLES = 1e-12, 1 << 30
"""Bounds of what a table or an option may say, far beyond any frame."""


def proofs_root(path: Path, reel: Reel) -> Path:
    """The folder of a reel's proofs."""
    return path.parent / reel.proofs


def tasks_of(reel: Reel, only: str | None) -> list[Shot]:
    """What is to be rendered of a reel, or of one of its shots or layers."""
    return list(reel.tasks) if only is None else list(reel.shot(only).as_layers())


def outlook_of(path: Path, reel: Reel, only: str | None) -> Outlook:
    """The plans of all shots, or of one, and the deadline they make; what stands in the way is told."""
    outlook, faults = plan_reel(reel, proofs_root(path, reel), eyes_of(WATCHERS.read()), only)
    say_some(faults)
    say_some(f"Shot {task_id}: {lack}" for task_id, lack in outlook.lacks.items())
    return outlook


@reel_group.command(help="The whole plan: seconds per frame and part, totals, finishing time.")
@click.argument("file", type=REEL)
@click.option("--shot", default=None, help="Only this shot, or layer as SHOT.LAYER.")
@click.option("--strict", is_flag=True, help="Exit with 1 when the deadline is not met (9 in 10).")
@click.option("--check", is_flag=True, help="The held-back check: each proof and each run left out and predicted from the rest.")
@click.option(
    "--alternatives",
    "others",
    is_flag=True,
    help="The sharpest, calmest and fastest settings that are calm enough, and what buys the most time.",
)
@click.option("--json", "as_json", is_flag=True)
def estimate(file: Path, shot: str | None, strict: bool, check: bool, others: bool, as_json: bool) -> int:
    reel = read_reel(file)
    found = outlook_of(file, reel, shot)
    when = found.deadline
    if not found.plans or when is None:
        return 1
    document: dict = {
        "reel": reel.name,
        "rate": [reel.fps.numerator, reel.fps.denominator],
        "size": [reel.width, reel.height],
        "frames": reel.length,
        "film_seconds": float(reel.length / reel.fps),
        "film_timecode": timecode(reel.length, reel.fps, reel.drop_frame),
        "shots": [],
    }
    table = []
    for plan in found.plans.values():
        table += shot_table(plan)
        document["shots"].append(shot_document(plan, reel))
        model = found.models[plan.shot.id]
        if (better := next_proof(reel, plan, model, named_link(None).crops)) is not None:
            table.append(f"{plan.shot.id}: next best proof: {better.words}")
            document["shots"][-1]["next_proof"] = next_document(better)
        table.append(f"{plan.shot.id}: {sentence(plan, reel.frame_speed)}")
        if (needs := memory_of(plan, model.evidence.proofs)) is not None:
            words = memory_words(reel, plan, model.evidence.proofs)
            table.append(f"{plan.shot.id}: {words}")
            document["shots"][-1]["memory"] = {"bytes": needs.bytes, "low": needs.low, "high": needs.high, "words": words}
        document["shots"][-1]["answer"] = sentence(plan, reel.frame_speed)
        steps = calm_steps(reel, plan, model, found.plans, when)
        table += [f"{plan.shot.id}: {step.sentence(reel.frame_speed)}" for step in steps]
        document["shots"][-1]["steps"] = [step_document(step, reel.frame_speed) for step in steps]
        if others:
            looks = looks_of(model.evidence)
            choice = alternatives(reel, plan, model, looks, allowed_work(when, plan))
            table += bundle_table(plan.shot.id, choice, reel.frame_speed)
            document["shots"][-1]["alternatives"] = bundle_document(choice)
            buys = savings(reel, plan, model, looks)
            table += saving_table(plan.shot.id, buys, reel.frame_speed)
            document["shots"][-1]["savings"] = [saving_document(s) for s in buys]
            speeds, pairs = speeds_of(model.evidence), size_pairs_of(model.evidence, reel.picture_size)
            shutter, sizes = shutter_of(plan, speeds, reel.picture_size[0]), size_rows(reel, plan, model, looks, pairs)
            table += shutter_table(plan.shot.id, shutter) + size_table(plan.shot.id, sizes, reel.frame_speed)
            caches = placing_of(plan, speeds, relights_of(model.evidence))
            table += cache_table(plan, caches)
            document["shots"][-1] |= {"light_caches": cache_document(plan, caches)}
            document["shots"][-1] |= {"shutter": shutter_document(shutter), "sizes": [size_document(r) for r in sizes]}
        if check:
            held = held_back(model.evidence, list(model.frames), plan.degrees)
            table += held_table(plan.shot.id, held)
            document["shots"][-1]["check"] = held_document(held)
    document["total"] = {
        "seconds": when.work,
        "sure5_seconds": clean(when.seconds5),
        "sure9_seconds": clean(when.seconds9) if when.promised else None,
        "sure5": None if when.never else when.sure5.isoformat(timespec="seconds"),
        "sure9": None if when.never or not when.promised else when.sure9.isoformat(timespec="seconds"),
        "untold": list(when.untold),
        "due": when.due.isoformat(timespec="seconds"),
        "spare_seconds": None if when.never else when.spare_seconds,
        "chance": when.chance,
        "cost": when.cost,
        "without_plan": list(when.missing),
    }
    document["machines"] = [
        {"name": m.name, "hours": h, "free": hours_text(m.free), "zone": m.zone} for m, h in zip(reel.machines, when.hours)
    ]
    if when.never:
        table.append(f"Never ready: the free hours of the machines end before; due {when.due.astimezone():%a %d %b %H:%M}")
    else:
        word = "spare" if when.spare_seconds >= 0 else "late"
        table.append(
            f"Ready {when.ready:%a %d %b %H:%M} ({when.how_sure}), due {when.due.astimezone():%a %d %b %H:%M}: "
            f"{spoken(abs(when.spare_seconds))} {word}; chance {100 * when.chance:.0f} %"
        )
    if when.spare_seconds < 0 and not when.missing:
        helps = would_help(reel, found.plans, when, when.start)
        document["would_help"] = [
            {"what": h.words, "sure9": None if h.when.never else h.when.sure9.isoformat(timespec="seconds")} for h in helps
        ]
        table += [h.told for h in helps]
    table += [f"{m.name}: {h:.1f} h of work, free {hours_text(m.free)}" for m, h in zip(reel.machines, when.hours)]
    if when.cost:
        table.append(f"Price of these hours: {when.cost:.2f}")
    answer(as_json, document, table)
    return 1 if (strict and when.spare_seconds < 0) or when.missing else 0


@reel_group.command(help="The shots and their plan for other programs.")
@click.argument("file", type=REEL)
@click.option("--to", "form", type=click.Choice(["otio", "csv", "openjd"]), required=True)
@click.option("--out", type=REEL, required=True)
@click.option("--shot", default=None, help="With openjd: only this shot.")
@click.option("--renderer", default=None, help="With openjd: name of the renderer link whose command is started; default: the chosen one.")
@click.option("--overwrite", is_flag=True)
def export(file: Path, form: str, out: Path, shot: str | None, renderer: str | None, overwrite: bool) -> int:
    need_with(("shot", "renderer"), form == "openjd", "--to openjd")
    reel = read_reel(file)
    may_write(out, overwrite)
    found = outlook_of(file, reel, shot)
    seconds = {s.id: t for s in reel.shots if (t := found.seconds_of(s)) is not None}
    if form == "openjd":
        template = job_template(reel, found.plans.values(), named_link(renderer))
        try:
            write_whole(out, msgspec.json.format(msgspec.json.encode(template), indent=2))
        except OSError as error:
            raise WrongInput(f"{out}: cannot be written ({reason(error)}).") from error
        click.echo(f"{len(template['steps'])} chunks of {len(found.plans)} shots written: {out}")
        return 0 if not found.lacks else 1
    if form == "otio":
        write_timeline(out, reel, seconds)
    else:
        write_table(out, reel, seconds)
    click.echo(f"{len(reel.shots)} shots written: {out}")
    return 0


@reel_group.command(name="bring-in", help="Shots from an OpenTimelineIO file (.otio) or a CSV table into a reel.")
@click.argument("file", type=REEL)
@click.argument("shots", type=REEL)
@click.option("--out", type=REEL, required=True, help="The reel with the shots added.")
@click.option("--scene", default=None, help="Scene of shots that name none; default: that of the first shot.")
@click.option("--overwrite", is_flag=True)
def bring_in(file: Path, shots: Path, out: Path, scene: str | None, overwrite: bool) -> int:
    reel = read_reel(file)
    may_write(out, overwrite)
    new = read_shots(shots, reel, scene)
    with writing(out):
        save_keeping(out, brought_in(reel, new), datetime.now())
    click.echo(f"{len(new)} shots brought in: {out}")
    return 0


@reel_group.command(help="A new reel: with one shot, or with the sequences in a folder of frames.")
@click.option("--out", type=REEL, required=True, help="The reel.")
@click.option("--frames", type=REEL, default=None, help="Folder of frames: shots, rate and size are read from it.")
@click.option("--scene", default=FIRST_SCENE, show_default=True, help="Scene of the first shot, without --frames.")
@click.option("--size", default=None, help="Delivered size, WxH.")
@click.option("--rate", default=None, help="Frames a second.")
@click.option("--range", "span", default=None, help="Frames of the first shot, such as 1001-1096; without --frames.")
@click.option("--hold", default=None, help="What its samples are solved for: clean, noise 0.02, total 2 h, cap 30 s, flat 64.")
@click.option("--calm", default=None, help="How many viewers may see unrest: strict, usual, relaxed, 1 in 6, 20 %, eyes.")
@click.option("--viewing", default=None, help="Where it is seen: laptop, phone, television, cinema.")
@click.option("--due", default=None, help="When all must be ready, such as 2026-12-02T09:00.")
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def begin(
    out: Path, frames: Path | None, scene: str, size: str | None, rate: str | None, span: str | None, hold: str | None,
    calm: str | None, viewing: str | None, due: str | None, overwrite: bool, as_json: bool,
) -> int:  # fmt: skip
    need_with(("scene", "span"), frames is None, "a reel without --frames")
    may_write(out, overwrite)
    now = datetime.now().astimezone()
    words: tuple[str, ...] = ()
    if frames is None:
        reel = fresh_reel(out.stem, scene, now)
    else:
        found = reel_from_frames(frames, now)
        reel, words = found.reel, found.words
    say_some(words)
    first = reel.shots[0].id
    for path, value in (("rate", rate), ("size", size), ("calm", calm), ("viewing", viewing), ("due", due), (f"{first}.range", span)):
        reel = reel if value is None else with_value(reel, path, value)
    for shot in reel.shots if hold is not None else ():
        reel = with_value(reel, f"{shot.id}.hold", hold or "")
    with writing(out):
        save_keeping(out, reel, datetime.now())
    document = {"file": str(out), "shots": [s.id for s in reel.shots], "rate": list(reel.rate), "size": list(reel.picture_size)}
    answer(as_json, document, [f"{len(reel.shots)} shots at {float(reel.fps):g} a second, {reel.width}x{reel.height}: {out}"])
    return 0


@reel_group.command(name="set", help="Set values by path: sh010.hold=clean, sh010.bounces=4, recipe.Final.bounces=4, size=1920x1080 …")
@click.argument("file", type=REEL)
@click.argument("values", nargs=-1, required=True, metavar="PATH=VALUE …")
@click.option("--json", "as_json", is_flag=True)
def set_values(file: Path, values: tuple[str, ...], as_json: bool) -> int:
    reel = read_reel(file)
    changed = reel
    for one in values:
        path, found, text = one.partition("=")
        if not found:
            raise WrongInput(f"set: '{one[:80]}'; expected PATH=VALUE, such as sh010.hold=clean.")
        changed = with_value(changed, path.strip(), text.strip())
    if changed != reel:
        with writing(file):
            save_keeping(file, changed, datetime.now())
    answer(as_json, {"file": str(file), "set": list(values), "changed": changed != reel}, [f"{len(values)} values set: {file}"])
    return 0


def may_write(out: Path, overwrite: bool) -> None:
    """Refuse to write over what is there without being told to.

    Raises
    ------
    WrongInput
        When the file exists.
    """
    if out.exists() and not overwrite:
        raise WrongInput(f"{out}: exists already; give another name, or --overwrite.")


@reel_group.command(help="Samples per frame from a table of variances and times.")
@click.argument("frames_csv", type=REEL)
@click.option("--seconds", type=float, default=None, help="At most this many seconds for all frames.")
@click.option("--noise", type=float, default=None, help="At most this noise in every frame.")
@click.option("--clean", "clean_at", type=float, default=None, help="Seen flicker in JND at most; needs the column seen_body.")
@click.option("--cap", type=float, default=None, help="At most this many seconds a frame.")
@click.option("--goal", type=click.Choice(["even", "total"]), default="even", show_default=True)
@click.option("--floor", type=int, default=1, show_default=True)
@click.option("--ceiling", type=int, default=65536, show_default=True)
@click.option("--steps", type=int, default=1, show_default=True)
@click.option("--ratio", type=float, default=None, help="The most by which noise may differ between neighbours.")
@click.option("--json", "as_json", is_flag=True)
def budget(
    frames_csv: Path, seconds: float | None, noise: float | None, clean_at: float | None, cap: float | None, goal, floor: int,
    ceiling: int, steps: int, ratio: float | None, as_json: bool,
) -> int:  # fmt: skip
    if seconds is None and noise is None and clean_at is None and cap is None:
        raise WrongInput("budget: expected --seconds, --noise, --clean or --cap.")
    need_with(("goal",), seconds is not None, "--seconds")
    asked = [name for name, value in (("--seconds", seconds), ("--noise", noise), ("--clean", clean_at)) if value is not None]
    if len(asked) > 1:
        raise WrongInput(f"budget: {' and '.join(asked)} together; expected one of them.")
    for name, value in (("--seconds", seconds), ("--noise", noise), ("--clean", clean_at), ("--cap", cap)):
        if value is not None and not (SMALLEST_PROMISE <= value <= LARGEST_NUMBER):
            raise WrongInput(f"budget: {name} {value:g}; expected a number above 0, from {SMALLEST_PROMISE:g} to {LARGEST_NUMBER:g}.")
    if floor < 1 or ceiling < floor or ceiling > MOST_SAMPLES or steps < 0 or steps > ceiling:
        given = f"floor {floor:.6g}, ceiling {ceiling:.6g}, steps {steps:.6g}" if max(floor, ceiling, steps) < 10**300 else "a number"
        raise WrongInput(f"budget: {given}; expected 1 <= floor <= ceiling <= {MOST_SAMPLES}, steps up to the ceiling.")
    if ratio is not None and not 1 < ratio <= LARGEST_NUMBER:
        raise WrongInput(f"budget: --ratio {ratio:g}; expected a number above 1.")
    table = read_table(
        frames_csv, ("frame", "variance", "seconds_per_sample", "fixed_seconds"), ("weight", "pin", "seen_body", "seen_rest")
    )
    problem = Problem(
        table["variance"], table["seconds_per_sample"], table["fixed_seconds"], floor, ceiling, steps,
        table.get("weight"), table["pin"].astype(np.int64) if "pin" in table else None, ratio, cap, table["frame"],
    )  # fmt: skip
    body, rest = table.get("seen_body"), table.get("seen_rest", np.zeros(len(table["frame"])))
    if clean_at is not None:
        if body is None:
            raise WrongInput(
                f"{frames_csv}: column seen_body is missing; expected it for --clean: seen flicker at one sample a pixel, in JND."
            )
        found = hold_clean(problem, lambda n: np.sqrt(body**2 / n + rest**2), clean_at)
    elif noise is not None:
        found = hold_noise(problem, noise)
    elif seconds is not None:
        found = hold_total(problem, seconds, goal)
    else:
        assert cap is not None
        found = hold_cap(problem, cap)
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
