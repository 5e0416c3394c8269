"""A shot, and what its machines have to do, in words."""

from __future__ import annotations

from hasty_reel.plan.outlook import Outlook
from hasty_reel.reel.document import Reel
from hasty_reel.reel.rate import seconds_text
from hasty_reel.reel.shot import Shot

MOST_LACKS, LONGEST_NOTE = 3, 400


def frames_text(shot: Shot) -> str:
    """Return the frames of a shot as they are told: '1001–1096', '1001–1096, every 2nd', with handles '+8/8'.

    Parameters
    ----------
    shot : the shot

    Returns
    -------
    str
        Words.
    """
    text = f"{shot.first}–{shot.last}" if shot.last > shot.first else f"{shot.first}"
    if shot.step > 1:
        text += f", every {shot.step}{ {2: 'nd', 3: 'rd'}.get(shot.step, 'th') }"
    if shot.handle_in or shot.handle_out:
        text += f"  +{shot.handle_in}/{shot.handle_out}"
    return text


def shot_tip(shot: Shot, reel: Reel, outlook: Outlook) -> str:
    """Return all of a shot in lines.

    Parameters
    ----------
    shot : the shot
    reel : it belongs to
    outlook : says what stands in the way of its plan

    Returns
    -------
    str
        Lines of words.
    """
    lines = [f"{shot.id} {shot.name}: {frames_text(shot)}, {seconds_text(shot.length, reel.fps)}"]
    if shot.move is not None:
        lines.append(shot.move.words())
    if shot.layers:
        lines.append("Layers, the first at the back: " + ", ".join(y.id for y in shot.layers))
    lines += [f"{t.id}: {outlook.lacks[t.id]}" for t in shot.as_layers() if t.id in outlook.lacks][:MOST_LACKS]
    if not shot.enabled:
        lines.append("Off: it counts neither in the film nor in the plan.")
    if shot.note:
        lines.append(shot.note[:LONGEST_NOTE])
    lines.append("Drag to another place, or Alt+↑ Alt+↓.")
    return "\n".join(lines)


def room_sentence(outlook: Outlook) -> str:
    """Return how the work and the free hours before the due time stand to each other.

    Parameters
    ----------
    outlook : plans and deadline

    Returns
    -------
    str
        Sentences.
    """
    when = outlook.deadline
    if when is None or not outlook.plans:
        return "No plan yet: a proof of a shot tells what its frames take."
    work, room = when.work / 3600, when.allowed / 3600
    text = f"{work:.1f} h of work at speed 1; the free hours before the due time hold {room:.1f} h."
    if when.never:
        text += " They end before the work is done."
    if when.cost:
        text += f" Price {when.cost:.2f}."
    if when.missing:
        count = len(when.missing)
        text += f" {count} without a proof {'is' if count == 1 else 'are'} not counted."
    return text
