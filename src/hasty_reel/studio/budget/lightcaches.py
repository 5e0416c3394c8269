"""Light caches of the shot: where they belong by how fast the view changes, what they cost, and what they risk."""

from __future__ import annotations

from itertools import pairwise
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.plan.frames.caches import FRESH, Placing, placing_of
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.bytewords import bytes_text
from hasty_reel.reel.caching import cache_frames, owners_of
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.edits import with_caches
from hasty_reel.studio.budget.motionsize import MotionSize, MotionSizeModel
from hasty_reel.typednumbers import read_number

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

LEAST_PERCENT, MOST_PERCENT = 1.0, 100.0
"""Percent of the picture that may be asked to be new from one cache to the next."""


class LightCacheModel:
    """Where the caches of the shot that is looked at belong. changed() : it is known anew.

    share : of the picture that may be new from one cache to the next, 0 to 1

    Parameters
    ----------
    session : the open reel
    motion : knows how fast the picture moves
    """

    changed = Signal()

    def __init__(self, session: ShotContext, motion: MotionSizeModel) -> None:
        self._session, self._motion = session, motion
        self.share = FRESH
        self._derived: tuple[tuple[ShotPlan, MotionSize, float], Placing | None] | None = None
        motion.changed.connect(self.changed.emit)

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at it.

        Parameters
        ----------
        watched : whether it is in sight
        """
        self._motion.watch(watched)

    @property
    def placing(self) -> Placing | None:
        """Where they belong; None while that is not known, or where no proof has vectors."""
        plan, found, share = self._session.plan, self._motion.found, self.share
        if plan is None or found is None:
            return None
        known = self._derived
        if known is None or known[0][0] is not plan or known[0][1] is not found or known[0][2] != share:
            known = self._derived = (plan, found, share), placing_of(plan, found.speeds, found.relights, share)
        return known[1]

    @property
    def on(self) -> bool:
        """Whether the recipe of the shot uses a light cache."""
        return self._session.recipe.cache_step > 0

    @property
    def placed(self) -> bool:
        """Whether the caches were placed, and do not follow each other by a step."""
        return self.on and bool(self._session.shot.caches)

    @property
    def owners(self) -> list[int]:
        """Frames that own a cache as the shot stands."""
        return owners_of(self._session.shot, self._session.recipe)

    @property
    def words(self) -> str:
        """What there is now, in a sentence."""
        session = self._session
        if session.plan is None or self._motion.found is None:
            return "Reading the motion of the proofs …" if session.plan is not None else ""
        if not self.on:
            return "The light cache is off: every frame finds its bounced light itself. A cache step in the recipe turns it on."
        how = "placed by the view" if self.placed else f"on every {session.recipe.cache_step}th frame and the last"
        return f"{self._told(self.owners)}, {how}; each frame blends the nearest {session.recipe.cache_blend}."

    @property
    def offer(self) -> str:
        """What placing them by the view comes to, in a sentence; '' where that is not known."""
        placing = self.placing
        if placing is None:
            return "No proof has motion vectors: how fast the view changes is not known." if self._motion.found is not None else ""
        step = placing.same_as_step
        shot = self._session.shot
        even = len(cache_frames(shot.begin, shot.end, step))
        return (
            f"By the view: {self._told(placing.placed)}, at most {100 * placing.farthest(placing.placed):.0f} % of the picture new from "
            f"one to the next, its light changed by {placing.light(placing.placed):.1f} L* at most. A fixed step that leaves no more "
            f"is {step}: {even} caches."
        )

    @property
    def risk(self) -> str:
        """What the caches as they stand risk, in a sentence; '' where there are none."""
        placing, session = self.placing, self._session
        if placing is None or not self.on or len(self.owners) < 2:
            return ""
        longest = max(b - a for a, b in pairwise(self.owners))
        seconds = longest * float(1 / session.reel.fps)
        told = (
            f"What is missing in a cache comes in over up to {longest} frames ({seconds:.2f} s): where much is new from one to the "
            f"next, now {100 * placing.farthest(self.owners):.0f} % and {placing.light(self.owners):.1f} L* at most, bounced light pumps"
        )
        looks = None if self._motion.found is None else self._motion.found.looks
        change = None if looks is None else looks.between("cache_step", 0, session.recipe.cache_step)
        if change is None:
            return f"{told}. No proofs with and without a cache tell by how much: 'Vary' the cache step in Proofs."
        return f"{told}. With and without a cache every {session.recipe.cache_step} frames proofs differ by {change:.2f} L* besides noise."

    @property
    def stands(self) -> bool:
        """Whether the shot has its caches where they belong."""
        placing = self.placing
        return placing is not None and self.placed and tuple(self.owners) == placing.placed

    def type_share(self, text: str) -> None:
        """Take another share of the picture as the most that may be new; what is no such number is said, and nothing changes.

        Parameters
        ----------
        text : in percent, as typed
        """
        try:
            value = read_number(text.replace("%", ""))
        except ValueError:
            value = None
        if value is None or not LEAST_PERCENT <= value <= MOST_PERCENT:
            self._session.said.emit(f"New picture: '{text}'; expected {LEAST_PERCENT:g} to {MOST_PERCENT:g} %.")
        else:
            self.share = float(value) / 100.0
        self.changed.emit()

    def place(self) -> None:
        """Place the caches by the view."""
        placing = self.placing
        if placing is not None and self.on:
            self._session.do("Place light caches", lambda reel: with_caches(reel, self._session.playhead.shot_id, placing.placed))

    def by_step(self) -> None:
        """Let them follow each other by the step of the recipe again."""
        self._session.do("Light caches by step", lambda reel: with_caches(reel, self._session.playhead.shot_id, ()))

    def _told(self, owners: list[int] | tuple[int, ...]) -> str:
        """'12 caches, 41 s, 12 files of 210 kB'."""
        placing = self.placing
        told = f"{len(owners)} light cache{'' if len(owners) == 1 else 's'}"
        if placing is not None and placing.seconds > 0:
            told += f", {spoken(len(owners) * placing.seconds)}"
        size = max((p.cache_bytes for proof in self._session.evidence.proofs for p in proof.pictures), default=0)
        return f"{told}, {bytes_text(len(owners) * size)}" if size else told
