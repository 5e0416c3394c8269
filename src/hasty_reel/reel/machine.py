"""Machines that render."""

from __future__ import annotations

import msgspec


class Machine(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """One machine.

    speed : relative to the machine the proofs were rendered on; 2 halves the seconds
    workers : frames it renders at the same time, each at its full speed
    """

    name: str
    speed: float = 1.0
    workers: int = 1
