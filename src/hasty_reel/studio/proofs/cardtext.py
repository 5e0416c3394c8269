"""A card of the proof sheet in words."""

from __future__ import annotations

import numpy as np

from hasty_reel.evidence.rows import quiet_share
from hasty_reel.evidence.sheet import Card
from hasty_reel.reel.frames import write_frames
from hasty_reel.viewers import who_sees

UNEVEN = 0.15
"""Spread of the logarithm of short yardsticks from which on the machine was busy at times."""


def tip_of(card: Card) -> str:
    """Return all of a card in lines.

    Parameters
    ----------
    card : of a proof

    Returns
    -------
    str
        Lines of words.
    """
    proof = card.proof
    lines = [
        f"Proof {proof.id}, made {proof.made[:16].replace('T', ' ')}, recipe {proof.recipe.name}",
        f"{proof.size_words}, {proof.samples} samples, frames {card.frames_text}",
        (f"Against {card.parent}: " + (", ".join(card.changes) or "nothing changed")) if card.parent else "The first proof",
    ]
    if proof.scan:
        lines.append("A scan: it tells how the cost changes over the shot, and nothing of noise")
    if proof.small > 1:
        lines.append("Noise was measured at full size; the pictures are kept small")
    if proof.crop is not None:
        lines.append("A part of each frame, as dense as it is planned: it tells what denoising does, and nothing of the seconds of a frame")
    if np.isfinite(card.noise):
        lines.append(
            f"noise {card.noise:.4f} linear, {card.noise_L:.2f} L*; its grain is seen by {who_sees(card.seen)} ({card.seen:.2f} JND)"
        )
    elif np.isfinite(card.guess):
        lines.append(f"noise about {card.guess:.3f} linear, estimated from one picture: texture reads as noise, a second seed measures it")
    if np.isfinite(card.flicker_L):
        lines.append(f"flicker of the run, along the motion: {card.flicker_L:.2f} L*")
    memory = max((p.memory_bytes for p in proof.pictures), default=0)
    if memory:
        lines.append(f"its renderer took up to {memory / 2**20:.0f} MB; what it printed is kept beside its pictures")
    busy = [int(f) for f, pictures in proof.by_frame().items() if quiet_share(pictures) < 1.0]
    if busy:
        lines.append(f"other work kept its renderer waiting at {write_frames(busy)}: the seed that waited least is planned with")
    elif proof.yardstick_spread > UNEVEN:
        lines.append(f"the machine was busy at times: its yardstick strayed by {100 * proof.yardstick_spread:.0f} %")
    if proof.draft:
        lines.append(f"Made under draft cut '{proof.draft}'")
    if card.mark.note:
        lines.append(card.mark.note)
    lines.append("S: star · N: note · Delete: hide · right click: more")
    return "\n".join(lines)


def figures_of(card: Card) -> list[str]:
    """Return seconds, noise, viewers and flicker of a card, what counts most first.

    Parameters
    ----------
    card : of a proof

    Returns
    -------
    list of str
        Words, each by itself; nothing where it has no pictures.
    """
    if not card.rows:
        return []
    seconds = f"{card.seconds:.2f} s"
    if card.proof.scan:
        return [f"scan, {seconds} a frame"]
    kind = "crop, " if card.proof.crop is not None else "full size, " if card.proof.small > 1 else ""
    parts = [kind + seconds]
    if np.isfinite(card.noise):
        parts += [f"noise {card.noise:.3f}", f"seen by {who_sees(card.seen)}"]
    elif np.isfinite(card.guess):
        parts.append(f"noise about {card.guess:.3f}")
    if np.isfinite(card.flicker_L):
        parts.append(f"flicker {card.flicker_L:.1f} L*")
    return parts
