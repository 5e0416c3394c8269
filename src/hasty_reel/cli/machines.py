"""Commands about machines: yardstick."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

import click

from hasty_reel.cli.answers import REEL, answer, reel_group, say_some
from hasty_reel.cli.planning import proofs_root
from hasty_reel.errors import WrongInput
from hasty_reel.evidence.quiet import speed_words
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.yardstick import together, yardstick_seconds
from hasty_reel.plan.outlook import quiet_of
from hasty_reel.reel.edits import measured_machine
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.saves import save_keeping
from hasty_reel.reel.writer import writing


@reel_group.command(help="How fast this machine is now, against when the proofs were made; --machine keeps it in the reel.")
@click.argument("file", type=REEL)
@click.option("--machine", default=None, help="This machine by its name in the reel: its speed, and what its workers do together, are set.")
@click.option("--json", "as_json", is_flag=True)
def yardstick(file: Path, machine: str | None, as_json: bool) -> int:
    reel = read_reel(file)
    names = [m.name for m in reel.machines]
    if machine is not None and machine not in names:
        raise WrongInput(f"--machine '{machine[:60]}'; expected one of {', '.join(repr(n) for n in names)}.")
    evidence = EvidenceReader().read_all(proofs_root(file, reel), list(reel.tasks))
    say_some(dict.fromkeys(fault for e in evidence.values() for fault in e.faults))
    quiet = quiet_of(evidence)
    now = yardstick_seconds()
    words = speed_words(now, quiet) or "no proof has a yardstick yet: the next one takes it"
    document: dict = {"seconds": now, "then_seconds": quiet or None, "speed": quiet / now if quiet else None, "words": words}
    lines = [f"Yardstick {now:.2f} s: {words}."]
    if machine is not None:
        place = names.index(machine)
        workers = reel.machines[place].workers
        gain = together(workers)
        speed = reel.machines[place].speed if not quiet else quiet / now
        with writing(file):
            changed = measured_machine(reel, place, speed, gain)
            save_keeping(file, changed, datetime.now())
        document |= {"machine": machine, "workers": workers, "together": changed.machines[place].together, "speed": speed}
        lines.append(f"{machine}: speed {speed:.3g}, {changed.machines[place].workers_words}.")
    answer(as_json, document, lines)
    return 0
