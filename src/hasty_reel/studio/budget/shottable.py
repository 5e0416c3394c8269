"""The shots of the reel with what they take and how they play: where its hours go."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import timedelta
from typing import TYPE_CHECKING

from hasty_reel.plan.answer import span
from hasty_reel.reel.edits import with_shot_fields

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


@dataclass(frozen=True)
class ShotRow:
    """A shot or layer.

    shot : its id, '' for all of them; name : in words; frames : how many; samples : least and most, in words
    seconds : on the machines of the reel; share : of all shots, 0 to 1
    priority : shots of a higher one are rendered first; ready : when, 9 in 10, in words; late : after the due time
    seen : flicker that stands for it, in JND; clean : no frame is above the limit; why : why it has no plan, '' where it has one
    """

    shot: str
    name: str
    frames: int
    samples: str = ""
    seconds: float = 0.0
    share: float = 0.0
    seen: float = 0.0
    clean: bool = False
    why: str = ""
    priority: int = 0
    ready: str = ""
    late: bool = False


def shot_rows(session: ShotContext) -> list[ShotRow]:
    """Return a row for each shot and layer, in the order of the reel, and one for all of them.

    Parameters
    ----------
    session : the open reel
    """
    plans, lacks, speed = session.planner.outlook.plans, session.planner.outlook.lacks, session.reel.frame_speed
    whole = sum(p.total_seconds for p in plans.values()) or 1.0
    out = []
    for task in session.reel.tasks:
        plan = plans.get(task.id)
        if plan is None:
            out.append(ShotRow(task.id, task.name, len(task.frames), why=lacks.get(task.id, "no plan yet")))
            continue
        took = plan.total_seconds
        seen, clean = plan.worst_flicker, not plan.visible.any()
        ready, late = _ready(session, task.id)
        out.append(
            ShotRow(
                task.id, task.name, len(plan.frames), span(plan), took / speed, took / whole, seen, clean, "", task.priority, ready, late
            )
        )
    frames, seen = sum(r.frames for r in out), max((r.seen for r in out), default=0.0)
    return [*out, ShotRow("", "All shots", frames, "", sum(r.seconds for r in out), 0.0, seen, all(r.clean for r in out))]


def _ready(session: ShotContext, shot: str) -> tuple[str, bool]:
    """When a shot is ready nine times in ten, in words, and whether that is late."""
    when = session.planner.outlook.deadline
    seconds = math.inf if when is None else when.late.ready_of(shot)
    if when is None or not math.isfinite(seconds):
        return "never" if when is not None else "", when is not None
    at = when.start + timedelta(seconds=seconds)
    return f"{at.astimezone():%a %H:%M}", at > when.due


def raised(session: ShotContext, shot: str, by: int) -> None:
    """Have a shot rendered sooner, or later.

    Parameters
    ----------
    session : the open reel
    shot : its id
    by : change of its priority
    """
    whole = session.reel.shot(shot.partition(".")[0])
    words = f"Render {whole.id} {'sooner' if by > 0 else 'later'}"
    session.do(words, lambda reel: with_shot_fields(reel, whole.id, priority=max(-100, min(100, whole.priority + by))))
