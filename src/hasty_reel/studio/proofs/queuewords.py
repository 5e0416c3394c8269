"""The queue of proofs in words."""

from __future__ import annotations

from hasty_reel.farm.queue import DONE, RENDERING, WAITING, Entry, ProofQueue
from hasty_reel.farm.sweeps import swept_words
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import proof_frames_text

LONGEST_FRAMES = 28
"""Characters of a set of frames beyond which their number is told instead."""


def entry_words(entry: Entry) -> tuple[str, str]:
    """Return an entry of the queue in two lines.

    Parameters
    ----------
    entry : the entry

    Returns
    -------
    head
        What is rendered
    tail
        How it stands
    """
    order = entry.order
    frames = proof_frames_text(order.frames)
    frames = frames if len(frames) <= LONGEST_FRAMES else f"{len(order.frames)} frames, {order.frames[0]}–{order.frames[-1]}"
    swept = f"{swept_words(order)} · " if order.sweep else ""
    head = f"{order.shot.id}  {swept}{frames}, {order.samples} samples, {order.scale:g} %"
    left = entry.seconds_left
    about = "" if left is None else f", about {spoken(left)} left"
    takes = "" if left is None else f", takes about {spoken(left)}"
    going = f"{100 * entry.share:.0f} %{about}, {entry.words}" if entry.share or not entry.words else entry.words
    tail = {WAITING: f"waits{takes}", RENDERING: going, DONE: f"done as {entry.proof}. {entry.words}".strip()}
    return head, tail.get(entry.state, entry.words or entry.state)


def queue_words(queue: ProofQueue) -> str:
    """Return how long the queue still takes.

    Parameters
    ----------
    queue : the queue

    Returns
    -------
    str
        Words; '' where there is nothing to do or it is not known.
    """
    left = queue.seconds_left
    if left is None or not (queue.waiting or queue.rendering is not None):
        return ""
    return "paused" if queue.paused else f"about {spoken(left)} left"
