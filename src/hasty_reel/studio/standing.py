"""What stands in a stage and what to do next, in a sentence: the first line of Brief, Proofs and Compare; the others have their own."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from hasty_reel.plan.outlook import Outlook
from hasty_reel.reel.durations import spoken

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


def clock_text(when: datetime, now: datetime) -> str:
    """Return a time as Thu 05:52; with the date when it is not within the next six days.

    Parameters
    ----------
    when : the time
    now : the time it is told
    """
    local = when.astimezone()
    near = timedelta(0) - timedelta(days=1) < local - now < timedelta(days=6)
    return f"{local:%a %H:%M}" if near else f"{local:%d %b %Y %H:%M}" if local.year != now.year else f"{local:%d %b %H:%M}"


def deadline_words(outlook: Outlook) -> str:
    """Return when the frames are ready, how sure that is, and when they are due.

    Parameters
    ----------
    outlook : of the whole reel
    """
    d = outlook.deadline
    if d is None or not outlook.plans:
        return "No plan yet." if not outlook.plans else "The machines are being played through to the end."
    now, spare = d.start, d.spare_seconds
    tail = f"{spoken(abs(spare))} {'spare' if spare >= 0 else 'late'}"
    words = (
        f"Ready {clock_text(d.sure9, now)} (9 in 10 sure; {clock_text(d.sure5, now)} with an even chance), "
        f"due {clock_text(d.due, now)}: {tail}."
    )
    if not d.promised:
        words = (
            f"Ready {clock_text(d.sure5, now)} with an even chance, due {clock_text(d.due, now)}. No 9 in 10: nothing tells how the "
            f"seconds of {', '.join(d.untold)} grow with pixels and samples; the next proof in Budget does."
        )
    if d.missing:
        words += f" Not counted, no proof yet: {', '.join(d.missing)}."
    return words


def brief_words(session: Session) -> str:
    """Return what is delivered, and whether it is ready when due.

    Parameters
    ----------
    session : the open reel
    """
    shots = session.reel.shots
    frames = sum(len(shot.frames) for shot in shots)
    many = f"{len(shots)} {'shot' if len(shots) == 1 else 'shots'}, {frames:,} frames to render. "
    outlook = session.planner.outlook
    if not outlook.plans:
        return many + "When they are ready is known as soon as there are proofs: 'Prove it' in Proofs."
    late = outlook.deadline is not None and outlook.deadline.spare_seconds < 0
    return many + deadline_words(outlook) + (" 'What buys time' in Budget says what helps." if late else "")


def proofs_words(session: Session) -> str:
    """Return what proofs there are of the shot, and which one is worth most now.

    Parameters
    ----------
    session : the open reel
    """
    evidence = session.evidence
    if not evidence.proofs:
        return "No proof of this shot yet, so nothing is promised. 'Prove it' renders what tells most in the time you give."
    count = len(evidence.proofs)
    words = f"{count} {'proof' if count == 1 else 'proofs'} of this shot. "
    if evidence.faults:
        return words + evidence.faults[0]
    plan, best = session.plan, session.trust.known.next
    if plan is not None and plan.unproven:
        words += f"Not proven yet: {', '.join(name.replace('_', ' ') for name in plan.unproven)}. "
    if best is not None:
        return f"{words}Next best proof: {best.words}."
    return words + (
        "" if plan is not None and plan.unproven else "All that is set was tried: Budget can be trusted as far as 'How sure' says."
    )


def compare_words(session: Session) -> str:
    """Return what is compared, and what is restless in it.

    Parameters
    ----------
    session : the open reel
    """
    sides = session.comparison.sides
    if not sides.sides:
        return "Nothing to compare yet: two proofs of the same frames, finished frames, or any sequence on disk."
    frames = len(sides.run)
    what = "A alone" if len(sides.sides) == 1 else "A against B"
    over = f"{what} over {frames} frames: Space plays them. " if frames > 1 else f"{what}, one frame each. "
    found = session.verdicts[2].reason
    return over + (f"{found[0].upper()}{found[1:]}: 'Causes' says where, and what helps." if found else "")
