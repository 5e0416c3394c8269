"""What the stage line says of each stage: untouched, done, or what needs a look and why."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hasty_reel.desk.header import DONE, LOOK, UNTOUCHED, StageMark
from hasty_reel.desk.session import Session

if TYPE_CHECKING:
    from hasty_reel.desk.stages.compare.judged import Judged


def stage_marks(session: Session, judged: Judged | None) -> list[StageMark]:
    """Marks of Brief, Proofs, Compare, Budget and Run; judged : what Compare found, None while nobody looked."""
    plan, evidence = session.plan, session.shot_evidence
    proofs = StageMark("Proofs", DONE if evidence.frames else UNTOUCHED)
    if evidence.faults:
        proofs = StageMark("Proofs", LOOK, evidence.faults[0])
    elif plan is not None and plan.unproven:
        names = ", ".join(u.replace("_", " ") for u in plan.unproven)
        proofs = StageMark("Proofs", LOOK, f"not proven yet: {names}")
    budget = StageMark("Budget")
    when = session.outlook.deadline
    if plan is not None:
        late = when is not None and when.spare_seconds < 0
        if not plan.budget.solved or plan.budget.why:
            budget = StageMark("Budget", LOOK, plan.budget.why)
        elif late:
            budget = StageMark("Budget", LOOK, "the frames will not be ready when they are due")
        else:
            budget = StageMark("Budget", DONE)
    return [_brief_mark(session), proofs, _compare_mark(judged), budget, StageMark("Run")]


def _compare_mark(judged: Judged | None) -> StageMark:
    if judged is None:
        return StageMark("Compare", UNTOUCHED)
    heard = judged.heard
    if heard:
        return StageMark("Compare", LOOK, f"{heard[0].words} in {judged.heard_in}")
    return StageMark("Compare", DONE if judged.studied else UNTOUCHED)


def _brief_mark(session: Session) -> StageMark:
    when = session.outlook.deadline
    if when is None:
        return StageMark("Brief")
    if when.missing:
        count = len(when.missing)
        return StageMark("Brief", LOOK, f"{count} without a proof: {', '.join(when.missing[:6])}{' …' if count > 6 else ''}")
    if when.never:
        return StageMark("Brief", LOOK, "the free hours of the machines end before the frames are ready")
    return StageMark("Brief", DONE)
