"""What would have the reel ready sooner, each with the time it would come to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime

import msgspec

from hasty_reel.plan.shot import ShotPlan
from hasty_reel.plan.time.deadline import Deadline, deadline
from hasty_reel.reel.document import Reel

FEWER = 0.9
"""Share of the samples with which it is tried."""


@dataclass(frozen=True)
class Help:
    """One thing that would help, and when all would be ready with it."""

    words: str
    when: Deadline

    @property
    def told(self) -> str:
        """The same in a line."""
        if self.when.never:
            return f"{self.words}: still never ready"
        return f"{self.words}: ready {self.when.sure9.astimezone():%a %H:%M} (9 in 10)"


def would_help(reel: Reel, plans: Mapping[str, ShotPlan], now: Deadline, start: datetime) -> list[Help]:
    """Return what would have the reel ready sooner, what helps most first.

    Parameters
    ----------
    reel : the reel
    plans : by shot or layer
    now : when it is ready as it stands
    start : when the work begins

    Returns
    -------
    list[Help]
        What helps by a minute or more.
    """
    fastest = max(reel.machines, key=lambda m: m.frame_speed)
    more = (*reel.machines, msgspec.structs.replace(fastest, name=f"{fastest.name}, another"))
    always = tuple(msgspec.structs.replace(m, free=()) for m in reel.machines)
    fewer = {name: replace(p, mean_samples=p.mean_samples * FEWER, sample=p.sample * FEWER) for name, p in plans.items()}
    tried = [
        Help(f"One more machine like {fastest.name}", deadline(msgspec.structs.replace(reel, machines=more), plans, start)),
        Help("All machines free at all hours", deadline(msgspec.structs.replace(reel, machines=always), plans, start)),
        Help("10 % fewer samples, 5 % more noise", deadline(reel, fewer, start)),
    ]
    found = [h for h in tried if h.when.seconds9 < now.seconds9 - 60.0]
    return sorted(found, key=lambda h: h.when.seconds9)
