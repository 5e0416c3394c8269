"""Edits of machines."""

from __future__ import annotations

from typing import Any

from hasty_reel.errors import WrongInput
from hasty_reel.reel.checked import check_machine
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits.whole import replaced, with_fields
from hasty_reel.reel.machine import Machine


def with_machine(reel: Reel, place: int, **changes: Any) -> Reel:
    """Return the reel with some fields of a machine changed.

    Parameters
    ----------
    reel : the reel; it stays as it was
    place : from 0 on
    **changes : fields and their new values
    """
    machine = replaced(reel.machines[place], **changes)
    check_machine(machine, f"Machine '{reel.machines[place].name}'")
    return with_fields(reel, machines=tuple(machine if k == place else m for k, m in enumerate(reel.machines)))


def measured_machine(reel: Reel, place: int, speed: float, together: float) -> Reel:
    """Return the reel with what was measured of a machine, to three digits.

    Parameters
    ----------
    reel : the reel; it stays as it was
    place : from 0 on
    speed : against the machine the proofs were rendered on
    together : frames all its workers render in the time of one that has it to itself; counts where it has several
    """
    workers = reel.machines[place].workers
    gain = None if workers == 1 else float(f"{min(together, float(workers)):.3g}")
    return with_machine(reel, place, speed=float(f"{speed:.3g}"), together=gain)


def added_machine(reel: Reel) -> Reel:
    """Return the reel with one machine more, like the last.

    Parameters
    ----------
    reel : the reel; it stays as it was
    """
    taken = {m.name for m in reel.machines}
    name = next(n for k in range(len(taken) + 1, 2 * len(taken) + 3) if (n := f"Machine {k}") not in taken)
    last = reel.machines[-1]
    return with_fields(reel, machines=(*reel.machines, Machine(name=name, zone=last.zone, free=last.free)))


def removed_machine(reel: Reel, place: int) -> Reel:
    """Return the reel without a machine.

    Parameters
    ----------
    reel : the reel; it stays as it was
    place : from 0 on

    Raises
    ------
    WrongInput
        When it is the only one.
    """
    if len(reel.machines) == 1:
        raise WrongInput(f"Machine '{reel.machines[0].name}' is the only one; expected at least one machine.")
    return with_fields(reel, machines=tuple(m for k, m in enumerate(reel.machines) if k != place))
