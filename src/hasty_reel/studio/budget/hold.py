"""What the budget of the shot holds: the promises, what each would have to say now, and edits of them."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.measure.viewing import calm_of, calm_words
from hasty_reel.plan.compare.flat import even_saves
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.calm import Calm, Viewing, read_calm
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.edits.shots import with_calm, with_hold
from hasty_reel.reel.edits.whole import with_fields
from hasty_reel.reel.shot import CLEAN, Kind
from hasty_reel.typednumbers import read_number
from hasty_reel.viewers import seen_by, viewers_words

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

PROMISES: tuple[tuple[Kind, str, str, str], ...] = (
    ("clean", "Calm", "see it", "Of viewers with a still version of the film beside it, as many may see unrest. 1 in 4 is usual."),
    ("noise", "Noise", "", "In every frame: standard deviation of linear light after finishing; animation: 0.01 to 0.02."),
    ("total", "All frames", "h", "Hours for the whole shot at most, on the machines of the reel."),
    ("cap", "A frame", "s", "Seconds a frame may take at most. The floor wins over it."),
    ("flat", "Same samples", "", "As many in every frame, whatever its noise: what most do. The plan says what even noise would save."),
)  # fmt: skip
"""Each promise: its kind, what it says, its unit, what it means."""
VARIANTS: dict[Kind, tuple[str, tuple[tuple[str, str], ...]]] = {
    "noise": ("of", (("mean", "over the frame"), ("worst", "in its worst places"))),
    "total": ("goal", (("even", "even noise"), ("total", "least noise in all"))),
}
"""How a promise is meant, where there is a choice: the field of `Hold`, and its values in words."""
NOISE_STEP = 1e-4
"""A promise of noise is taken up to this: so that it can be kept."""


def promise_now(plan: ShotPlan, kind: Kind) -> float:
    """Return what a promise would have to say to come to the same as a plan does.

    Parameters
    ----------
    plan : of the shot
    kind : of the promise

    Returns
    -------
    float
        Percent of viewers who see unrest, noise, seconds on a machine of speed 1, or samples.
    """
    if kind == "clean":
        return 100.0 * seen_by(plan.worst_flicker)
    return {
        "noise": float(plan.noise.max()), "total": plan.total_seconds, "cap": float(plan.seconds.max()), "flat": float(plan.samples.max()),
    }[kind]  # fmt: skip


class HoldModel:
    """The promises as they stand.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: Session) -> None:
        self._session = session

    def text(self, kind: Kind) -> str:
        """Return what a promise says, or would say now.

        Parameters
        ----------
        kind : of the promise

        Returns
        -------
        str
            A number in its unit; '' where it is not known.
        """
        hold, plan = self._session.shot.hold, self._session.plan
        if kind == "clean":
            return viewers_words(seen_by(self._session.eyes.limit))
        value = hold.value if kind == hold.kind else None if plan is None else promise_now(plan, kind)
        if value is None:
            return ""
        if kind == "flat":
            return f"{value:.0f}"
        if kind == "noise":
            return f"{value:.4f}".rstrip("0")
        return f"{value / 3600 / self._session.reel.frame_speed:.2f}" if kind == "total" else f"{value:.1f}"

    def caption(self, kind: Kind) -> str:
        """Return what a promise comes to.

        Parameters
        ----------
        kind : of the promise

        Returns
        -------
        str
            Words; '' where it is not known.
        """
        plan = self._session.plan
        if plan is None:
            return ""
        if kind != self._session.shot.hold.kind:
            return f"Now {viewers_words(seen_by(plan.worst_flicker))}" if kind == "clean" else "As planned now"
        if kind in ("noise", "clean"):
            return f"Takes {spoken(plan.total_seconds / self._session.reel.frame_speed)}"
        if kind == "flat":
            return f"Even noise saves {spoken(even_saves(plan) / self._session.reel.frame_speed)}"
        return f"Brings noise to {plan.noise.max():.4f}"

    def choose(self, kind: Kind) -> None:
        """Hold another promise, at what the plan has now; 'clean' at the limit.

        Parameters
        ----------
        kind : of the promise
        """
        plan = self._session.plan
        if plan is None or kind == self._session.shot.hold.kind:
            return
        # a whole number of steps above what the plan has now, so that the promise can be kept
        value = promise_now(plan, kind)
        if kind == "clean":
            self._session.set_hold(CLEAN)
            return
        value = float(math.ceil(value / NOISE_STEP) * NOISE_STEP) if kind == "noise" else float(math.ceil(value))
        self._session.set_hold(msgspec.structs.replace(self._session.shot.hold, kind=kind, value=value))

    def variant(self, kind: Kind) -> str:
        """Return how a promise is meant, in words; '' where there is no choice.

        Parameters
        ----------
        kind : of the promise
        """
        if kind not in VARIANTS:
            return ""
        field, values = VARIANTS[kind]
        return dict(values)[getattr(self._session.shot.hold, field)]

    def vary(self, kind: Kind, value: str) -> None:
        """Mean a promise otherwise.

        Parameters
        ----------
        kind : of the promise
        value : of the field that `VARIANTS` names
        """
        field, _ = VARIANTS[kind]
        hold = self._session.shot.hold
        if getattr(hold, field) != value:
            self._session.set_hold(msgspec.structs.replace(hold, **{field: value}))

    def type_value(self, kind: Kind, text: str) -> None:
        """Hold a promise at a value as it is typed; what is none is said.

        Parameters
        ----------
        kind : of the promise
        text : a number above 0, in its unit
        """
        if kind == "clean":
            self.type_calm(text)
            return
        try:
            value = read_number(text)
        except ValueError:
            value = None
        if value is None or not value > 0:
            self._session.said.emit(f"Hold: '{text}' is no number above 0.")
            return
        if kind == "total":
            value *= 3600 * self._session.reel.frame_speed
        self._session.set_hold(msgspec.structs.replace(self._session.shot.hold, kind=kind, value=value))

    def type_calm(self, text: str) -> None:
        """Be as calm as it is typed, and hold that; what is no level is said.

        Parameters
        ----------
        text : 'strict', '1 in 6', '20 %', 'eyes'
        """
        try:
            calm = read_calm(text, "Calm")
        except WrongInput as error:
            self._session.said.emit(str(error))
            return
        self.set_calm(calm)

    def set_calm(self, calm: Calm, only: str | None = None) -> None:
        """Be as calm as that: this shot where it has a level of its own, else all that have none; the shot holds it.

        Parameters
        ----------
        calm : percent of viewers who may see unrest, or 'eyes'
        only : id of the shot that alone is to be so; None: as above
        """
        shot = self._session.shot
        own = shot.id if shot.calm is not None else only

        def _change(reel: Reel) -> Reel:
            return with_hold(with_calm(reel, own, calm), shot.id, CLEAN)

        self._session.do(f"Calm: {calm_words(calm)}", _change)

    def keep_own(self, own: bool) -> None:
        """Have the shot keep a level of calm of its own, or follow the reel.

        Parameters
        ----------
        own : whether it has its own
        """
        calm = calm_of(self._session.reel, self._session.shot) if own else None
        words = "A level of calm for this shot alone" if own else "Calm as the reel says"
        self._session.do(words, lambda reel: with_calm(reel, self._session.playhead.shot_id, calm))

    def set_viewing(self, viewing: Viewing) -> None:
        """Have the film seen elsewhere.

        Parameters
        ----------
        viewing : where
        """
        self._session.do(f"Seen on: {viewing}", lambda reel: with_fields(reel, viewing=viewing))

    @property
    def calm_text(self) -> str:
        """How calm, for what, and where it is seen: 'usual, laptop'."""
        reel, shot = self._session.reel, self._session.shot
        level = calm_words(calm_of(reel, shot)).partition(":")[0]
        where = "own screen" if self._session.own.watchers.choice is not None else reel.viewing
        return f"{level}{', this shot' if shot.calm is not None else ''}, {where}"

    @property
    def weighs(self) -> bool:
        """Whether weights of frames count: where a total is spent for the least noise in all."""
        hold = self._session.shot.hold
        return hold.kind == "total" and hold.goal == "total"

    @property
    def weight_text(self) -> str:
        """How often the selected frames count, or all of them; a range where they differ."""
        shot, selection = self._session.shot, self._session.playhead.selection or (self._session.shot.begin, self._session.shot.end)
        weights = [shot.weights.get(f, 1.0) for f in shot.frames if selection[0] <= f <= selection[1]] or [1.0]
        low, high = min(weights), max(weights)
        return f"{low:g}" if low == high else f"{low:g}–{high:g}"

    def type_weight(self, text: str) -> None:
        """Let the selected frames, or all of them, count as it is typed; what is no number is said.

        Parameters
        ----------
        text : a number above 0
        """
        if text == self.weight_text:
            return
        try:
            weight = read_number(text)
        except ValueError:
            weight = None
        if weight is None:
            self._session.said.emit(f"Weight: '{text}' is no number; expected how often the selected frames count, 1 is usual.")
            return
        self._session.set_weight(weight)
