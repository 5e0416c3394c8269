"""The frames of a run kept as a proof: what they really took becomes evidence for the next plan."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.evidence.proof import Proof, ProofPicture, write_proof
from hasty_reel.farm.claim import new_proof_folder
from hasty_reel.farm.proofs import SMALL_WIDTH
from hasty_reel.image.resize import square_means
from hasty_reel.pictures.frame import Picture, read_picture
from hasty_reel.pictures.writing import write_picture
from hasty_reel.run.framestate import FINISHED, RENDERED
from hasty_reel.run.journal import JournalLine
from hasty_reel.run.shotrun import Run
from hasty_reel.work import CancelToken, Progress, silent


def run_as_proof(
    root: Path,
    run: Run,
    lines: Sequence[JournalLine],
    yardstick: float = 0.0,
    progress: Progress = silent,
    cancel: CancelToken | None = None,
) -> Proof:
    """Keep the frames of the last run of a shot as a proof: small pictures, and the seconds each took.

    Parameters
    ----------
    root : the proofs folder of the reel
    run : the run, as it stands on disk
    lines : of its journal
    yardstick : seconds of the yardstick on this machine now; 0 where it was not taken
    progress : called with the share that is done, and words
    cancel : looked at between frames; None: it cannot be stopped

    Returns
    -------
    Proof
        With one picture a frame: it tells seconds, and nothing of noise.

    Raises
    ------
    WrongInput
        When the journal tells of no rendered frame that is still there, or frames were rendered in a crop.
    Stopped
        When `cancel` asked for it.
    """
    if run.around is not None:
        where = run.folder.final.folder
        raise WrongInput(f"{where}: its frames were rendered in a crop, whose seconds tell nothing of others; expected whole frames.")
    # the journal goes on over many runs: only the last one has today's settings
    began = max((k for k, x in enumerate(lines) if x.what == "begun"), default=0)
    told = {x.frame: x for x in lines[began:] if x.machine and x.what in (RENDERED, FINISHED) and x.samples > 0}
    shot, plan = run.shot, run.plan
    times = max(1, plan.width // SMALL_WIDTH)
    with new_proof_folder(root, shot.proofs) as folder:
        pictures = []
        for k, (frame, line) in enumerate(sorted(told.items())):
            if cancel is not None:
                cancel.check()
            progress(k / len(told), f"frame {frame}")
            try:
                # rendered, not finished: a proof tells what the renderer does
                whole = read_picture(run.folder.rendered.path(frame), ())
            except PictureError:
                continue  # taken away meanwhile
            name = f"{shot.proofs}.{frame:04d}.1.exr"
            write_picture(folder / name, Picture(square_means(whole.rgb, times), {}, whole.attributes))
            samples = float(str(whole.attributes.get("hr:samples", line.samples)))
            pictures.append(
                ProofPicture(
                    frame=frame, seed=1, file=name, load_seconds=line.load, sample_seconds=max(0.0, line.seconds - line.load),
                    write_seconds=0.0, samples=samples, one_number=line.one_number,
                )
            )  # fmt: skip
        if not pictures:
            raise WrongInput(f"{run.folder.final.folder}: its journal tells of no rendered frame that is still there.")
        proof = Proof(
            id=folder.name,
            shot=shot.id,
            made=datetime.now().astimezone().isoformat(timespec="seconds"),
            recipe=plan.recipe,
            width=plan.width,
            height=plan.height,
            samples=max(1, round(float(np.median([p.samples for p in pictures])))),
            offset=shot.offset,
            small=times,
            yardstick=yardstick,
            pictures=tuple(pictures),
        )
        write_proof(folder, proof)
    return proof
