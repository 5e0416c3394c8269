"""Commands that render: proof, run."""

from __future__ import annotations

from pathlib import Path

import click

from hasty_reel.cli.answers import REEL, answer, clean, reel_group, say
from hasty_reel.cli.planning import outlook_of, proofs_root, tasks_of
from hasty_reel.errors import WrongInput
from hasty_reel.farm.proofs import Order, make_proof
from hasty_reel.farm.run import FrameEvent, Run
from hasty_reel.plan.shot import spoken
from hasty_reel.predict.evidence import EvidenceReader
from hasty_reel.reel.draftcut import cuts_path, read_cuts
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.frames import read_frames, write_frames
from hasty_reel.reel.recipe import departing
from hasty_reel.work import CancelToken


@reel_group.command(help="Render proofs through the renderer link.")
@click.argument("file", type=REEL)
@click.option("--shot", required=True)
@click.option("--frames", required=True, help="Frame set such as 1001,1010-1016.")
@click.option("--recipe", default=None)
@click.option("--samples", type=int, default=16, show_default=True)
@click.option("--scale", type=float, default=25.0, show_default=True, help="Percent of the delivered width.")
@click.option("--draft", is_flag=True, help="Under the draft cut that is chosen.")
@click.option("--json", "as_json", is_flag=True)
def proof(file: Path, shot: str, frames: str, recipe: str | None, samples: int, scale: float, draft: bool, as_json: bool) -> int:
    reel = read_reel(file)
    chosen = reel.shot(shot)
    settings = reel.recipe_of(chosen) if recipe is None else departing(reel.recipe(recipe), chosen.departures)
    order = Order(chosen, settings, read_frames(frames), samples, scale).checked()
    if draft:
        order = order.under(read_cuts(cuts_path()).current).checked()
    root = proofs_root(file, reel)
    made = make_proof(reel, root, order, lambda share, words: None)
    evidence = EvidenceReader().read(root, chosen)
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
    document = {
        "proof": made.id,
        "shot": shot,
        "size": [made.width, made.height],
        "samples": made.samples,
        "draft": made.draft,
        "frames": rows,
    }
    under = f", under draft cut '{made.draft}'" if made.draft else ""
    seeds = "two seeds" if order.seeds == 2 else "one seed, noise not measured"
    lines = [f"proof {made.id} of {shot}: {made.width}x{made.height}, {made.samples} samples, {seeds}{under}"]
    for r in rows:
        noise = "" if r["noise"] is None else f"  noise {r['noise']:.4f}"
        lines.append(f"{r['frame']:>6} {r['seconds']:>8.2f} s{noise}  {r['picture']}")
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
    plans = outlook_of(file, reel, shot).plans
    if not plans:
        return 1
    document: dict = {"shots": []}
    lines = []
    runs = [Run(reel, plan, out, wanted) for plan in plans.values()]
    if not resume:
        for one in runs:
            one.look()
    status = 0 if len(plans) == len(tasks_of(reel, shot)) else 1
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
