"""Commands on tables of times: fit."""

from __future__ import annotations

from pathlib import Path

import click
import numpy as np

from hasty_reel.cli.answers import REEL, answer, read_table, reel_group
from hasty_reel.errors import WrongInput
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


def _need_positive(table: dict[str, np.ndarray], path: Path, names: tuple[str, ...]) -> None:
    for name in names:
        bad = np.flatnonzero(table[name] <= 0)
        if len(bad):
            raise WrongInput(f"{path}, row {bad[0] + 1}: {name} is {table[name][bad[0]]:g}; expected a number above 0.")


def _model_document(model: TimeFit) -> dict:
    parts = {f"{name}_seconds": float(value) for name, value in zip(model.parts, model.seconds)}
    spreads = {f"{name}_sd": float(np.sqrt(model.covariance[k, k])) for k, name in enumerate(model.parts)}
    return {**parts, **spreads, "spread_log": model.spread, "rows": model.rows}
