"""The shots of the reel with what they take and how they play: where its hours go."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from hasty_reel.plan.answer import span

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


@dataclass(frozen=True)
class ShotRow:
    """A shot or layer.

    shot : its id, '' for all of them; name : in words; frames : how many; samples : least and most, in words
    seconds : on the machines of the reel; share : of all shots, 0 to 1
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


def shot_rows(session: Session) -> list[ShotRow]:
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
        out.append(ShotRow(task.id, task.name, len(plan.frames), span(plan), took / speed, took / whole, seen, clean))
    frames, seen = sum(r.frames for r in out), max((r.seen for r in out), default=0.0)
    return [*out, ShotRow("", "All shots", frames, "", sum(r.seconds for r in out), 0.0, seen, all(r.clean for r in out))]
