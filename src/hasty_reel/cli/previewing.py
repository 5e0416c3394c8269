"""The command that shows a proof run with other samples: preview."""

from __future__ import annotations

from pathlib import Path

import click

from hasty_reel.cli.answers import REEL, answer, reel_group, say
from hasty_reel.cli.planning import proofs_root
from hasty_reel.errors import WrongInput
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.atsamples import RunAtSamples, checked_samples, run_to_look_at
from hasty_reel.farm.proofrun import chain_on
from hasty_reel.own.finishmemory import finish_memory
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.pictures.writing import write_picture
from hasty_reel.programs.ownsteps import own_step
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.frames import write_frames
from hasty_reel.settings.finishorder import own_names


@reel_group.command(help="The frames of a proof run as they would look with other samples, as rendered or as finished.")
@click.argument("file", type=REEL)
@click.option("--shot", required=True)
@click.option("--samples", type=float, required=True, help="Per pixel.")
@click.option("--finished", is_flag=True, help="With the finishing chain of the shot's recipe.")
@click.option("--out", required=True, help="Frame pattern of the pictures, as look.####.exr.")
@click.option("--overwrite", is_flag=True)
@click.option("--json", "as_json", is_flag=True)
def preview(file: Path, shot: str, samples: float, finished: bool, out: str, overwrite: bool, as_json: bool) -> int:
    reel = read_reel(file)
    chosen = reel.shot(shot)
    target = read_pattern(out)
    if not target.after.lower().endswith(".exr"):
        raise WrongInput(f"--out {out}: pictures of scene-linear light; expected a pattern that ends in .exr.")
    checked_samples(samples, "--samples")
    run = run_to_look_at(EvidenceReader().read(proofs_root(file, reel), chosen), chosen)
    if run is None:
        raise WrongInput(f"{shot}: no proof has frames in a row with two seeds; expected one, as `proof --denoising` makes.")
    off = chosen.offset - run.proof.offset
    paths = {k: target.path(k + off) for k in run.frames}
    there = [p for p in paths.values() if p.exists()]
    if there and not overwrite:
        raise WrongInput(f"{there[0]}: is there already; expected another --out, or --overwrite.")
    shown = RunAtSamples(run, finish_memory())
    if finished:
        resolved = reel.resolved(chosen)
        own = [own_step(name) for name in own_names(resolved.recipe.finish_order)]
        finish = shown.finisher(chain_on(run.proof, resolved, own), samples)
    for frame, path in paths.items():
        picture = finish(frame) if finished else shown.as_rendered(frame, samples)
        write_picture(path, picture)
    exact = shown.exact(samples)
    if not exact:
        say(f"More than both seeds have together ({2 * run.proof.samples}): what is shown is estimated from frames without noise.")
    frames = write_frames(k + off for k in run.frames)
    kind = "finished" if finished else "as rendered"
    document = {
        "shot": shot, "proof": run.proof.id, "samples": samples, "finished": finished, "estimated": not exact, "frames": frames,
        "size": [run.proof.width, run.proof.height], "pattern": str(target),
    }  # fmt: skip
    of = f"proof {run.proof.id} ({run.proof.size_words})"
    answer(as_json, document, [f"{shot}: frames {frames} of {of} at {samples:g} samples, {kind}: {target}"])
    return 0
