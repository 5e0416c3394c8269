"""Proofs of a shot in a given time: one after another, each what narrows most for what it costs, until none fits into what is left.

First comes one frame, small: by it the plan knows what a sample costs. From then on the candidates of the next best proof are held against
the clock: a scan tells the frames from each other, a few frames at full size tell noise, a run tells what denoising does, a larger
frame tells the start of the renderer from what grows. What is too long for the time is taken shorter. What proofs really took
against what they were expected to (starts, reading, measuring) sets the pace by which the rest is told.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

from hasty_reel.errors import WrongInput
from hasty_reel.farm.forecast import measuring_seconds, order_seconds
from hasty_reel.farm.nextproof import LITTLE, NextProof, candidates
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofrun import BEYOND, SHORTEST_RUN
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot
from hasty_reel.scaledsize import scaled_size

LEAST, MOST = 10.0, 24 * 3600.0
"""Seconds that may be given."""
FIRST_SAMPLES, FIRST_SCALES, FIRST_PIXELS = 16, (10.0, 25.0, 50.0, 100.0), 2000
"""Samples of the first look, sizes in percent, and the pixels that it has at least."""
TIMES = 3
"""How often a proof of one kind is made at most: the same again tells less each time."""
SHORTER = (2, 4, 8, 16)
"""Of a long scan every so many frames."""
SHORT_RUNS = ((1.0, 0.5, 2), (0.7, 0.5, 2), (0.7, 0.25, 2), (0.54, 0.25, 2), (0.54, 0.25, 1), (0.4, 0.25, 1))
"""Runs that are taken where a longer one does not fit: shares of its frames and of its samples, and parts of the picture."""
FEWEST = 8
"""Samples of a shorter run at least."""
SHARE, AT_FIRST = 0.5, 0.25
"""Of the time that is left a proof may take, while something shorter would do: one kind alone makes no plan. Before any forecast
was held against the clock, less: it may be twice off."""


@dataclass(frozen=True)
class Step:
    """What is rendered next: orders, in words, and the seconds that it is expected to take at the pace so far; None where not known."""

    orders: tuple[ProofOrder, ...]
    words: str
    seconds: float | None


class ProveWithin:
    """Chooses the proofs of a shot for a time that is given.

    Parameters
    ----------
    reel : says size
    shot : the shot or layer
    seconds : given, on the clock
    crops : the renderer can be told to render a part of a frame
    """

    def __init__(self, reel: Reel, shot: Shot, seconds: float, crops: bool = True) -> None:
        if not LEAST <= seconds <= MOST:
            raise WrongInput(f"Prove {shot.id} in {seconds:g} s; expected {LEAST:g} s to {MOST / 3600:g} h.")
        self._reel, self._shot, self._given, self._crops = reel, shot, seconds, crops
        self._pace, self._paced = 1.0, False
        self._spent = 0.0
        self._made: dict[str, int] = {}
        self._forecast: float | None = None

    @property
    def left(self) -> float:
        """Seconds of the time that are left."""
        return max(0.0, self._given - self._spent)

    def took(self, seconds: float) -> None:
        """Say what the step that was chosen last took on the clock, from choosing it to its being in the plan.

        Parameters
        ----------
        seconds : on the clock
        """
        self._spent += seconds
        if self._forecast is not None and self._forecast > 0:
            now = seconds / self._forecast
            self._pace = max(self._pace / 2.0, min(now, 20.0)) if self._paced else now
            self._paced = True
        self._forecast = None

    def next(self, plan: ShotPlan | None, model: ShotModel | None) -> Step | None:
        """Return what is rendered next; None where nothing that tells anything fits into the time that is left.

        Parameters
        ----------
        plan : of the shot as it stands; None where there is no proof of it
        model : what its proofs say
        """
        if plan is None or model is None:
            return self._first() if not self._made else None
        found: list[tuple[float, NextProof]] = []
        for proof in candidates(self._reel, plan, model, self._crops):
            kind = proof.kind
            if proof.narrows <= 0 or self._made.get(kind, 0) >= TIMES:
                continue
            fitting = self._fitting(proof, plan, SHARE if self._paced else AT_FIRST) or self._fitting(proof, plan, 1.0)
            if fitting is not None:
                worth = fitting.narrows / (fitting.seconds + LITTLE * plan.total_seconds) / (1 + self._made.get(kind, 0))
                found.append((worth, fitting))
        if not found:
            return None
        _, best = max(found, key=lambda f: f[0])
        self._made[best.kind] = self._made.get(best.kind, 0) + 1
        self._forecast = best.seconds
        return Step(best.orders, f"{best.what}: {best.why}", best.seconds * self._pace)

    def _first(self) -> Step:
        """One frame in the middle, small: what a sample costs, and how noisy it is."""
        shot, size = self._shot, self._reel.picture_size
        scale = next((s for s in FIRST_SCALES if int(scaled_size(size, s)[0] * scaled_size(size, s)[1]) >= FIRST_PIXELS), FIRST_SCALES[-1])
        middle = list(shot.frames)[len(shot.frames) // 2]
        self._made["first"] = 1
        order = ProofOrder(shot, self._reel.recipe_of(shot), (middle,), FIRST_SAMPLES, scale)
        return Step((order,), f"a first look at frame {middle}: what a sample costs here", None)

    def _fitting(self, proof: NextProof, plan: ShotPlan, part: float) -> NextProof | None:
        """A proof, or the longest shorter one that fits into a part of the time that is left, with its seconds on the clock.

        What is shorter tells as much less.
        """
        for orders in _shorter(proof.orders):
            size = self._reel.picture_size
            seconds = order_seconds(orders, plan, size) + measuring_seconds(orders, size)
            if seconds * self._pace <= part * self.left:
                share = sum(len(o.frames) for o in orders) / sum(len(o.frames) for o in proof.orders)
                what = proof.what if orders is proof.orders else _words(orders)
                return replace(proof, orders=orders, seconds=seconds, narrows=proof.narrows * share, what=what)
        return None


def _shorter(orders: tuple[ProofOrder, ...]) -> list[tuple[ProofOrder, ...]]:
    """Orders, and shorter ones in their stead, the longest first."""
    frames = orders[0].frames
    out = [orders]
    if orders[0].scan:
        out += [(replace(orders[0], frames=frames[::step]),) for step in SHORTER if len(frames) >= 3 * step]
    elif len(frames) >= SHORTEST_RUN and frames[-1] - frames[0] == len(frames) - 1:
        for length, samples, parts in SHORT_RUNS:
            # a shorter one would not tell of the window that is planned
            count = min(len(frames), max(SHORTEST_RUN, orders[0].recipe.denoise_window + BEYOND, round(length * len(frames))))
            first = (len(frames) - count) // 2
            fewer = max(min(FEWEST, orders[0].samples), round(samples * orders[0].samples))
            out.append(tuple(replace(o, frames=frames[first : first + count], samples=fewer) for o in orders[:parts]))
    elif len(frames) > 2:
        out.append((replace(orders[0], frames=frames[::2]),))
        out.append((replace(orders[0], frames=frames[len(frames) // 2 : len(frames) // 2 + 1]),))
    return out


def _words(orders: tuple[ProofOrder, ...]) -> str:
    frames = orders[0].frames
    if orders[0].scan:
        return f"a scan of {len(frames)} frames"
    if len(frames) >= SHORTEST_RUN and frames[-1] - frames[0] == len(frames) - 1:
        return f"a run of frames {frames[0]} to {frames[-1]}"
    return f"{len(frames)} frame{'s' if len(frames) > 1 else ''} at {orders[0].scale:g} %"
