"""Commands on tables of times: fit, schedule."""

from __future__ import annotations

from datetime import datetime, timedelta
from pathlib import Path

import click
import numpy as np

from hasty_reel.cli.answers import REEL, answer, read_table, reel_group
from hasty_reel.errors import WrongInput
from hasty_reel.plan.time.machinehours import hours_of, read_instant, read_machines
from hasty_reel.plan.time.schedule import FAR, Ahead, Worker, best_chunk, scheduled
from hasty_reel.predict.timefit import TimeFit, fit_times, predict_times
from hasty_reel.reel.durations import spoken

OPTIONAL = ("bounces", "first", "denoise")
UNITS = {
    "fixed": "s a frame", "first": "s more for the first of a chunk", "pixels": "s a megapixel", "samples": "s a megapixel and sample",
    "bounces": "s a megapixel, sample and bounce", "denoise": "s a megapixel that is denoised",
}  # fmt: skip


@reel_group.command(help="A cost model from measured times; with --predict, the seconds of planned frames and their total.")
@click.argument("times_csv", type=REEL)
@click.option("--predict", "plan_csv", type=REEL, default=None, help="CSV: frame, width, height, samples; bounces, first, denoise.")
@click.option("--json", "as_json", is_flag=True)
def fit(times_csv: Path, plan_csv: Path | None, as_json: bool) -> int:
    table = read_table(times_csv, ("frame", "width", "height", "samples", "seconds"), OPTIONAL)
    _need_positive(table, times_csv, ("width", "height", "samples", "seconds"))
    model = fit_times(table)
    document: dict = {"model": _model_document(model), "frames": [], "total": None}
    lines = [f"{name}: {value:.6g} {UNITS[name]}" for name, value in zip(model.parts, model.seconds)]
    lines.append(f"{model.rows} rows lie within {100 * np.expm1(model.spread):.0f} % of it, as a standard deviation")
    if plan_csv is not None:
        plan = read_table(plan_csv, ("frame", "width", "height", "samples"), OPTIONAL)
        _need_positive(plan, plan_csv, ("width", "height", "samples"))
        ahead = predict_times(model, plan)
        document["frames"] = [
            {"frame": int(f), "seconds": float(s), "low": float(a), "high": float(b)}
            for f, s, a, b in zip(plan["frame"], ahead.seconds, ahead.low, ahead.high)
        ]
        low, sure5, sure9, high = (float(q) for q in np.quantile(ahead.totals, (0.05, 0.5, 0.9, 0.95)))
        document["total"] = {"sure5": sure5, "sure9": sure9, "low": low, "high": high}
        lines += [f"{'frame':>7} {'seconds':>10} {'low':>10} {'high':>10}"]
        lines += [f"{r['frame']:>7} {r['seconds']:>10.2f} {r['low']:>10.2f} {r['high']:>10.2f}" for r in document["frames"]]
        lines.append(f"total {spoken(sure5)} (5 in 10), {spoken(sure9)} (9 in 10)")
    answer(as_json, document, lines)
    return 0


@reel_group.command(help="When frames are ready: machines with speeds, free hours and failures; work is not divisible.")
@click.argument("frames_csv", type=REEL)
@click.option("--machines", "machines_json", type=REEL, required=True, help="JSON: name, speed, free, fail_per_frame of each machine.")
@click.option("--start", required=True, help="ISO time with zone.")
@click.option("--due", required=True, help="ISO time with zone.")
@click.option("--runs", type=int, default=1000, show_default=True)
@click.option("--seed", type=int, default=1, show_default=True)
@click.option("--chunk", default="1", show_default=True, help="Frames that a machine takes at once, or 'best'.")
@click.option("--json", "as_json", is_flag=True)
def schedule(frames_csv: Path, machines_json: Path, start: str, due: str, runs: int, seed: int, chunk: str, as_json: bool) -> int:
    if not 1 <= runs <= 100_000:
        raise WrongInput(f"schedule: --runs {runs}; expected 1 to 100000.")
    table = read_table(frames_csv, ("frame", "seconds"), ("spread_own", "spread_shared", "load_seconds"))
    begin, end = read_instant(start, "--start"), read_instant(due, "--due")
    machines = read_machines(machines_json)
    none = np.zeros(len(table["frame"]))
    ahead = Ahead(
        table["seconds"], table.get("spread_own", none), float(np.mean(table.get("spread_shared", none))), table.get("load_seconds", none)
    )
    hours = hours_of(machines, begin)
    workers = [Worker(k, m.speed, m.fail_per_frame) for k, m in enumerate(machines)]
    if chunk == "best":
        size = best_chunk(ahead, workers, hours, seed)
    else:
        size = int(chunk) if chunk.isdecimal() and 0 < len(chunk) < 8 else 0
        if size < 1:
            raise WrongInput(f"schedule: --chunk '{chunk[:40]}'; expected a number of frames, or best.")
    found = scheduled(ahead, workers, hours, size, runs, seed)
    sure5, sure9 = (found.quantile(q) for q in (0.5, 0.9))
    document: dict = {
        "sure5": _instant(begin, sure5), "sure9": _instant(begin, sure9), "chance": found.chance((end - begin).total_seconds()),
        "chunk": size,
        "machines": [
            {"name": m.name, "hours": float(w) / 3600.0, "frames": float(f)}
            for m, w, f in zip(machines, found.worked.mean(axis=0), found.frames.mean(axis=0))
        ],
    }  # fmt: skip
    if runs == 1 or not (ahead.own.any() or ahead.shared or any(w.fails for w in workers)):
        document["finish"] = _instant(begin, float(found.ready[0]) if found.ready[0] < FAR / 2 else float("inf"))
    lines = [f"{m['name']}: {m['hours']:.2f} h, {m['frames']:.0f} frames" for m in document["machines"]]
    told = "never: the machines' free hours end before" if document["sure9"] is None else f"{document['sure9']} (9 in 10)"
    lines.append(f"Ready {told}; chance to be ready when due {100 * document['chance']:.0f} %, chunks of {size}")
    answer(as_json, document, lines)
    return 0


def _instant(begin: datetime, seconds: float) -> str | None:
    return (begin + timedelta(seconds=seconds)).isoformat(timespec="seconds") if np.isfinite(seconds) else None


def _need_positive(table: dict[str, np.ndarray], path: Path, names: tuple[str, ...]) -> None:
    for name in names:
        bad = np.flatnonzero(table[name] <= 0)
        if len(bad):
            raise WrongInput(f"{path}, row {bad[0] + 1}: {name} is {table[name][bad[0]]:g}; expected a number above 0.")


def _model_document(model: TimeFit) -> dict:
    parts = {f"{name}_seconds": float(value) for name, value in zip(model.parts, model.seconds)}
    spreads = {f"{name}_sd": float(np.sqrt(model.covariance[k, k])) for k, name in enumerate(model.parts)}
    return {**parts, **spreads, "spread_log": model.spread, "rows": model.rows}
