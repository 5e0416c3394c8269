"""Shutter steps, render scale and stop at noise of the shot: what motion asks for, what each size takes, where places stop."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

import numpy as np

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.looks import Looks, looks_of
from hasty_reel.evidence.motion import FrameSpeed, speeds_of
from hasty_reel.evidence.relight import Relight, relights_of
from hasty_reel.evidence.rows import Evidence
from hasty_reel.evidence.sizepairs import SizePair, size_pairs_of
from hasty_reel.farm.forecast import order_seconds
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.usual import PAIR_FRAMES, size_orders
from hasty_reel.plan.compare.sizes import SizeRow, size_rows, trade_words
from hasty_reel.plan.frames.shutter import GAP, Shutter, shutter_of, steps_needed
from hasty_reel.plan.shot import ShotPlan, stopping_of
from hasty_reel.reel.durations import spoken
from hasty_reel.studio.lookedfor import LookedFor
from hasty_reel.typednumbers import read_number

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

Basis = Literal["calm", "time", "samples"]
BASES: tuple[tuple[Basis, str, str], ...] = (
    ("calm", "As calm", "Samples and hours at the seen flicker of the plan as it stands"),
    ("time", "Same time", "Samples with which it takes as long as the plan as it stands, and what is seen then"),
    ("samples", "Same samples", "Hours with the samples of the plan as it stands, and what is seen then"),
)
"""By what sizes are compared: its name, what it says, what it means."""
LEAST_GAP, MOST_GAP = 0.1, 64.0


Known = tuple[list[FrameSpeed], list[Relight], Looks, list[SizePair]]


def _read_all(evidence: Evidence, size: tuple[int, int]) -> Known:
    return speeds_of(evidence), relights_of(evidence), looks_of(evidence), size_pairs_of(evidence, size)


@dataclass(frozen=True)
class MotionSize:
    """What was found.

    evidence : it was read from; speeds, relights, looks : of it
    shutter : None where no proof has vectors; sizes : by scale
    """

    evidence: Evidence
    speeds: list[FrameSpeed]
    relights: list[Relight]
    looks: Looks
    shutter: Shutter | None
    sizes: list[SizeRow]


class MotionSizeModel(LookedFor[MotionSize]):
    """Shutter and size of the shot that is looked at.

    gap : the longest in the blur that does not show, in delivered pixels; basis : by what sizes are compared

    Parameters
    ----------
    session : the open reel
    """

    _session: Session

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.gap = GAP
        self.basis: Basis = "calm"
        self._read: tuple[Evidence, *Known] | None = None

    def _work(self) -> Callable[[], MotionSize] | None:
        session, shot, read = self._session, self._session.playhead.shot_id, self._read
        plan, model = session.plan, session.planner.outlook.models.get(shot)
        if plan is None or model is None:
            return None
        reel, evidence = session.reel, model.evidence

        def _find() -> MotionSize:
            kept = read is not None and read[0] is evidence
            known = read[1:] if kept and read is not None else _read_all(evidence, reel.picture_size)
            speeds, relights, looks, pairs = known
            self._read = evidence, *known
            rows = size_rows(reel, plan, model, looks, pairs)
            return MotionSize(evidence, speeds, relights, looks, shutter_of(plan, speeds, reel.picture_size[0]), rows)

        return _find

    @property
    def words(self) -> str:
        """What motion asks of the shutter, in a sentence."""
        found = self.found
        if found is None:
            return "Reading the motion of the proofs …" if self._session.plan is not None else ""
        if found.shutter is None:
            return "No proof has motion vectors: how fast the picture moves is not known."
        shutter = found.shutter
        told = f"by the vectors of {len(shutter.told)} frames, {shutter.told[0]:g} to {shutter.told[-1]:g}"
        blur = f"The longest blur is {shutter.blur.max():.1f} delivered pixels, at frame {shutter.fastest}, {told}"
        if not shutter.steps:
            return f"{blur}; random times leave no gaps, but noise instead."
        if shutter.gap <= self.gap:
            return f"{blur}: {shutter.steps} steps leave gaps of {shutter.gap:.2f} at most, which do not show."
        return f"{blur}: {shutter.steps} steps leave gaps of {shutter.gap:.1f}, which show; {self.needed} steps do not."

    @property
    def needed(self) -> int:
        """The fewest steps that leave no gap that shows; 0 where motion is not known."""
        return 0 if self.found is None or self.found.shutter is None else steps_needed(float(self.found.shutter.blur.max()), self.gap)

    def compare_by(self, basis: Basis) -> None:
        """Compare sizes by something else.

        Parameters
        ----------
        basis : by what
        """
        self.basis = basis
        self.changed.emit()

    def at_basis(self, row: SizeRow) -> tuple[float, float, float]:
        """Return what a size comes to as sizes are compared now: samples per pixel, seconds on a machine of speed 1, seen flicker in JND.

        Parameters
        ----------
        row : of the size
        """
        plan = self._session.plan
        if plan is None or self.basis == "calm":
            return row.samples, row.seconds, row.plan.worst_flicker
        if self.basis == "time":
            return row.same_time, plan.total_seconds, row.seen
        return plan.typical_samples, row.alike_seconds, row.alike_seen

    def play_pair(self, row: SizeRow) -> bool:
        """Put the loops of a proven size and of the delivered one side by side in Compare.

        Parameters
        ----------
        row : of the size

        Returns
        -------
        bool
            Whether there is such a pair.
        """
        if row.pair is None:
            return False
        sides = self._session.comparison.sides
        sides.list_sides()
        sides.compare(*row.pair)
        return True

    @property
    def trade(self) -> str:
        """An equal-time trade of size against samples, in a sentence; '' where there is none."""
        return "" if self.found is None else trade_words(self.found.sizes)

    def type_gap(self, text: str) -> None:
        """Take another gap as the longest that does not show; what is no such number is said, and nothing changes.

        Parameters
        ----------
        text : in delivered pixels, as typed
        """
        try:
            value = read_number(text)
        except ValueError:
            value = None
        if value is None or not LEAST_GAP <= value <= MOST_GAP:
            self._session.said.emit(f"Gap: '{text}'; expected a number of pixels from {LEAST_GAP:g} to {MOST_GAP:g}.")
        else:
            self.gap = float(value)
        self.changed.emit()

    def take_steps(self) -> None:
        """Set as many shutter steps as motion asks for."""
        if self.needed:
            self._session.set_line("shutter_steps", self.needed)

    def take_random(self) -> None:
        """Give each sample a time of its own."""
        self._session.set_line("shutter_steps", 0)

    def pair_words(self, scale: float) -> str:
        """Return a pair of render sizes and what proving it takes, in words.

        Parameters
        ----------
        scale : of the other size, in percent of the delivered width
        """
        session = self._session
        try:
            orders = self._pair(scale)
        except WrongInput:
            return f"{scale:g} %"
        if session.plan is None:
            return f"{scale:g} %"
        seconds = order_seconds(orders, session.plan, session.reel.picture_size)  # proofs are rendered by one machine
        return f"{scale:g} % against 100 %, {PAIR_FRAMES} frames: {spoken(seconds)}"

    def prove_pair(self, scale: float) -> None:
        """Put a pair of render sizes into the queue: three frames about the one that is looked at, at the delivered size and at another.

        Parameters
        ----------
        scale : of the other size, in percent of the delivered width
        """
        try:
            orders = self._pair(scale)
        except WrongInput as error:
            self._session.said.emit(str(error))
            return
        self._session.proofs.enqueue(orders)

    def _pair(self, scale: float) -> list[ProofOrder]:
        session = self._session
        return size_orders(session.shot, session.recipe, session.reel.picture_size, scale, session.playhead.frame)

    def take_size(self, row: SizeRow) -> None:
        """Render at another scale.

        Parameters
        ----------
        row : of that scale
        """
        self._session.set_line("render_scale", row.scale)


def stop_words(plan: ShotPlan | None) -> str:
    """Return how much of the picture stops at noise, and with which value half of it would; '' where nothing stops.

    Parameters
    ----------
    plan : of the shot; None where there is none
    """
    stopping = None if plan is None else stopping_of(plan.recipe, plan.frame_model)
    if plan is None or stopping is None:
        return ""
    samples = plan.samples.astype(np.float64)
    ended = float(stopping.ended(samples).mean())
    return (
        f"Stop at noise {plan.recipe.stop_noise:g}: {100 * ended:.0f} % of the picture ends by its noise, "
        f"{100 * (1 - ended):.0f} % with all its samples; in balance at {stopping.balance(samples):.3g}."
    )
