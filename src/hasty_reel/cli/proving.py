"""The proofs that tell most in a given time: proof --within."""

from __future__ import annotations

import time
from pathlib import Path

from hasty_reel.cli.answers import answer, say
from hasty_reel.cli.planning import outlook_of, proofs_root
from hasty_reel.evidence.proof import proof_folders
from hasty_reel.farm.proofs import make_proof
from hasty_reel.farm.provewithin import ProveWithin
from hasty_reel.farm.renderers import renderer_of
from hasty_reel.farm.renderers.links import named_link
from hasty_reel.farm.yardstick import recent_yardsticks
from hasty_reel.plan.answer import sentence
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.shot import Shot


def prove_within(file: Path, reel: Reel, shot: Shot, seconds: float, renderer: str | None, as_json: bool) -> int:
    """Prove a shot within a time, telling each proof before it is rendered, and say what the plan is then."""
    link = named_link(renderer)
    work = ProveWithin(reel, shot, seconds, link.crops)
    render_with, root = renderer_of(link), proofs_root(file, reel)
    faults: dict[int | float, str] = {}
    made: list[dict] = []
    began = turn = time.monotonic()
    plan = model = None
    if any(proof_folders(root, shot.proofs)):
        outlook = outlook_of(file, reel, shot.id)
        plan, model = outlook.plans.get(shot.id), outlook.models.get(shot.id)
    while (step := work.next(plan, model)) is not None:
        about = "" if step.seconds is None else f", about {spoken(step.seconds)}"
        say(f"{step.words}{about}, {spoken(work.left)} left")
        for order in step.orders:
            proof = make_proof(reel, root, order, renderer=render_with, fault=faults.__setitem__, yardstick=recent_yardsticks)
            made.append(
                {"proof": proof.id, "frames": len(proof.by_frame()), "size": proof.size_words.replace(" × ", "x"), "why": step.words}
            )
        outlook = outlook_of(file, reel, shot.id)
        plan, model = outlook.plans.get(shot.id), outlook.models.get(shot.id)
        now = time.monotonic()
        work.took(now - turn)
        turn = now
    for words in faults.values():
        say(words)
    took = time.monotonic() - began
    lines = [f"{shot.id}: {len(made)} proofs in {spoken(took)}"]
    if plan is not None:
        lines.append(sentence(plan, reel.frame_speed, None))
    answer(as_json, {"shot": shot.id, "proofs": made, "seconds": took, "planned": plan is not None}, lines)
    return 1 if faults or plan is None else 0
