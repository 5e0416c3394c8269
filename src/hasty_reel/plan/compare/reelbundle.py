"""One bundle for each shot, so that the whole reel plays clean, is ready when due, and loses the least of its look.

A multiple-choice knapsack: of each shot one bundle, the sum of seconds within what is allowed, the loss of all frames least. Shots
are joined one by one, and of partial choices those are kept that no other beats in both seconds and loss:
exact but for the rounding of losses.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from hasty_reel.plan.compare.bundles import Bundle

ROUNDED = 0.01
"""Steps in which the loss of a shot is counted, in L* of its frames' mean; choices that lose as much are told apart by seconds alone."""


@dataclass(frozen=True)
class ReelBundle:
    """A bundle for each shot.

    chosen : by shot; seconds : of all, on a machine of speed 1; loss : mean over all frames, in L*
    in_time : whether they fit
    """

    chosen: dict[str, Bundle]
    seconds: float
    loss: float
    in_time: bool

    @property
    def changed(self) -> int:
        """Shots whose settings change."""
        return sum(bool(b.words) for b in self.chosen.values())


def reel_bundle(bundles: Mapping[str, Sequence[Bundle]], allowed: float) -> ReelBundle | None:
    """Return the bundles that lose least and fit; the fastest where none fit; None where a shot has none.

    Parameters
    ----------
    bundles : that play clean, by shot
    allowed : seconds for all of them, on a machine of speed 1
    """
    if not bundles or any(not of for of in bundles.values()):
        return None
    front: list[tuple[float, int, tuple[Bundle, ...]]] = [(0.0, 0, ())]
    for of in bundles.values():
        joined = [
            (seconds + b.seconds, loss + round(b.loss / ROUNDED) * len(b.plan.frames), (*chosen, b))
            for seconds, loss, chosen in front
            for b in _front(of)
        ]
        joined.sort(key=lambda j: (j[0], j[1]))
        front = []
        for choice in joined:
            if not front or choice[1] < front[-1][1]:
                front.append(choice)
    fitting = [choice for choice in front if choice[0] <= allowed]
    seconds, loss, chosen = fitting[-1] if fitting else front[0]
    frames = sum(len(b.plan.frames) for b in chosen)
    return ReelBundle(dict(zip(bundles, chosen)), seconds, loss * ROUNDED / frames, bool(fitting))


def _front(of: Sequence[Bundle]) -> list[Bundle]:
    """Bundles of a shot that no other beats in both."""
    out: list[Bundle] = []
    for bundle in sorted(of, key=lambda b: (b.seconds, b.loss, len(b.words))):
        if not out or bundle.loss < out[-1].loss - ROUNDED / 2:
            out.append(bundle)
    return out
