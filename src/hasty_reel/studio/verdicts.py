"""How each stage stands: untouched, done, or what needs a look and why."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

from hasty_reel.evidence.rows import Evidence
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.plan.time.deadline import Deadline
from hasty_reel.viewers import who_sees

if TYPE_CHECKING:  # it brings the compiler along, and a window opens without it
    from hasty_reel.measure.causes.found import Cause

Standing = Literal["untouched", "done", "look"]
MOST_NAMED = 6


@dataclass(frozen=True)
class Verdict:
    """How a stage stands; reason : what needs a look, '' for nothing."""

    stage: str
    standing: Standing = "untouched"
    reason: str = ""


def brief_verdict(when: Deadline | None) -> Verdict:
    """Return how the Brief stands.

    Parameters
    ----------
    when : the frames are ready; None where there is no plan yet

    Returns
    -------
    Verdict
        Its words and whether it is done, wants a look or stands in the way.
    """
    if when is None:
        return Verdict("Brief")
    if when.missing:
        count = len(when.missing)
        more = " …" if count > MOST_NAMED else ""
        return Verdict("Brief", "look", f"{count} without a proof: {', '.join(when.missing[:MOST_NAMED])}{more}")
    if when.never:
        return Verdict("Brief", "look", "the free hours of the machines end before the frames are ready")
    return Verdict("Brief", "done")


def proofs_verdict(evidence: Evidence, plan: ShotPlan | None) -> Verdict:
    """Return how the Proofs of a shot stand.

    Parameters
    ----------
    evidence : what its proofs say
    plan : of the shot; None where there is none

    Returns
    -------
    Verdict
        Its words and whether it is done, wants a look or stands in the way.
    """
    if evidence.faults:
        return Verdict("Proofs", "look", evidence.faults[0])
    if plan is not None and plan.unproven:
        return Verdict("Proofs", "look", f"not proven yet: {', '.join(u.replace('_', ' ') for u in plan.unproven)}")
    return Verdict("Proofs", "done" if evidence.frames else "untouched")


def compare_verdict(heard: Sequence[Cause], side: str, studied: bool) -> Verdict:
    """Return how the comparison stands.

    Parameters
    ----------
    heard : causes of unrest that are worth a word, the plainest first
    side : in which they were found
    studied : whether a run was looked through for causes

    Returns
    -------
    Verdict
        Its words and whether it is done, wants a look or stands in the way.
    """
    if heard:
        return Verdict("Compare", "look", f"{heard[0].words} in {side}")
    return Verdict("Compare", "done" if studied else "untouched")


def finish_verdict(plan: ShotPlan | None) -> Verdict:
    """Return how Finish stands for a shot.

    Parameters
    ----------
    plan : of the shot; None where there is none

    Returns
    -------
    Verdict
        Done where the finished shot plays clean; a look where denoising is not proven, or frames flicker still.
    """
    if plan is None:
        return Verdict("Finish")
    if "denoise_window" in plan.unproven:
        return Verdict("Finish", "look", "no proof run tried this chain yet")
    return Verdict("Finish", "look" if plan.visible.any() else "done", _flickering(plan))


def _flickering(plan: ShotPlan) -> str:
    """How many frames flicker more than is allowed, in words; '' for none."""
    seen = int(plan.visible.sum())
    return f"{seen} of {len(plan.frames)} finished frames are seen to flicker by more than {who_sees(plan.eyes.limit)}" if seen else ""


def budget_verdict(plan: ShotPlan | None, when: Deadline | None) -> Verdict:
    """Return how the Budget of a shot stands.

    Parameters
    ----------
    plan : of the shot; None where there is none
    when : the frames are ready; None where there is no plan yet

    Returns
    -------
    Verdict
        Its words and whether it is done, wants a look or stands in the way.
    """
    if plan is None:
        return Verdict("Budget")
    if not plan.budget.solved or plan.budget.why:
        return Verdict("Budget", "look", plan.budget.why)
    if when is not None and when.spare_seconds < 0:
        return Verdict("Budget", "look", "the frames will not be ready when they are due")
    # whatever is held: no tick stands over a strip that marks frames
    return Verdict("Budget", "look" if plan.visible.any() else "done", _flickering(plan))
