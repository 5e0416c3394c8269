"""The rough pass: ordered by one button, and played at the reel's rate while its frames arrive, missing ones held."""

from __future__ import annotations

import bisect
from typing import TYPE_CHECKING

import cv2
import numpy as np
from psygnal import Signal

from hasty_reel.farm.forecast import order_seconds
from hasty_reel.farm.job import whole_steps
from hasty_reel.farm.queue import DONE, Entry
from hasty_reel.reel.durations import spoken
from hasty_reel.studio.compare.player import LoopPlayer
from hasty_reel.studio.proofs.giventime import GivenTime

if TYPE_CHECKING:
    from hasty_reel.farm.order import ProofOrder
    from hasty_reel.studio.session import Session

TIMES = (60.0, 180.0, 600.0)
"""Seconds that are offered; another is typed."""

WIDEST = 640
"""Pixels across of the frames that are kept to be played: a long pass would fill the memory otherwise."""


class RoughPass(GivenTime):
    """A pass under way or just ended. changed() : it stands otherwise; drawn() : another frame of it is to be shown.

    shown : it is played now

    Parameters
    ----------
    session : the open reel
    """

    drawn = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session, TIMES[1], "Rough pass in")
        self.shown = self._watched = False
        self.at = 0
        self._entry: Entry | None = None
        self._frames: tuple[int, ...] = ()
        self._codes: dict[int, np.ndarray] = {}
        self.player = LoopPlayer(session.loop)
        self.player.due.connect(self._due)
        session.proofs.grown.connect(self._grown)
        session.proofs.changed.connect(self._queue_changed)
        session.playhead.shot_changed.connect(self.close)

    @property
    def order(self) -> ProofOrder:
        """What would be rendered now."""
        from hasty_reel.farm.roughpass import rough_order

        session = self._session
        reel, plan = session.reel, session.plan
        return rough_order(session.shot, session.recipe, reel.picture_size, self.seconds, plan)

    @property
    def order_words(self) -> str:
        """What would be rendered now and what it takes, in words."""
        order, session = self.order, self._session
        step = (order.frames[1] - order.frames[0]) if len(order.frames) > 1 else 1
        which = f"all {len(order.frames)} frames" if step == session.shot.step else f"{len(order.frames)} frames, every {step:g}."
        takes = f"at most {spoken(self.seconds)}"
        if (plan := session.plan) is not None:
            takes = spoken(order_seconds([order], plan, session.reel.picture_size))
        return f"{which}, {order.scale:g} %, {whole_steps(order.samples, order.recipe)} samples, one seed: {takes}"

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at it: else it does not play.

        Parameters
        ----------
        watched : whether it is in sight
        """
        self._watched = watched
        if not watched:
            self.player.stop()
        elif self._entry is not None and not self._entry.ended:
            self._play()

    def _play(self) -> None:
        if self.shown and self._watched and self._codes:
            self.player.play(self._span, float(self._session.reel.fps), self.at)

    def start(self) -> None:
        """Put it into the queue, and play it from its first frame on."""
        order = self.order
        self._codes = {}
        self._frames = tuple(int(f) for f in order.frames)
        self._session.proofs.enqueue([order])
        self._entry = self._session.proofs.queue.entries[-1]
        self.shown, self.at = True, 0
        self.changed.emit()

    def toggle(self) -> None:
        """Play it, or stop it where it is."""
        if self.player.playing:
            self.player.stop()
        else:
            self._play()
        self.changed.emit()

    def close(self) -> None:
        """Show it no longer; what is rendered is a proof like others."""
        self.player.stop()
        if self.shown:
            self.shown = False
            self.changed.emit()

    @property
    def picture(self) -> np.ndarray | None:
        """The frame that is due, or the last one before it that is there, (h, w, 3) uint8 display codes; None before the first."""
        found = self._held
        return None if found is None else self._codes[found]

    @property
    def clip(self) -> list[tuple[np.ndarray, list[str]]]:
        """All frames of its span as they play, missing ones held, each with the words that stand under it; none before the first frame."""
        if self._entry is None or not self._codes:
            return []
        order = self._entry.order
        out = []
        what = f"Rough pass, {order.scale:g} %, {whole_steps(order.samples, order.recipe)} samples a pixel"
        for frame in range(self._frames[0], self._frames[-1] + 1):
            held = self._held_at(frame)
            assert held is not None
            out.append((self._codes[held], [what, f"{order.shot.id}, frame {frame}" + ("" if held == frame else f", {held} held")]))
        return out

    @property
    def words(self) -> str:
        """Which frame is shown, and how many there are."""
        held = self._held
        if held is None:
            return "Rough pass: its first frame is rendered"
        at = f"frame {self._frames[0] + self.at}" + ("" if held == self._frames[0] + self.at else f", {held} held")
        rate = f"{float(self._session.reel.fps):g} fps" if self.player.playing else "stopped"
        return f"Rough pass: {at}; {len(self._codes)} of {len(self._frames)} frames, {rate}"

    @property
    def _span(self) -> int:
        """Frames from the first to the last, those that are left out too: so that it plays as fast as the film."""
        return self._frames[-1] - self._frames[0] + 1

    @property
    def _held(self) -> int | None:
        return self._held_at(self._frames[0] + self.at) if self._frames else None

    def _held_at(self, frame: int) -> int | None:
        """The frame that is shown when one is due: itself, or the last one before it that is there, or the first."""
        there = sorted(self._codes)
        return there[max(0, bisect.bisect_right(there, frame) - 1)] if there else None

    def _rendering(self) -> bool:
        return self._entry is not None and self._session.proofs.queue.rendering is self._entry

    def _grown(self, frame: int | float, codes: np.ndarray) -> None:
        if not self.shown or not self._rendering():
            return
        first = not self._codes
        times = WIDEST / codes.shape[1]
        self._codes[int(frame)] = codes if times >= 1 else cv2.resize(codes, None, fx=times, fy=times, interpolation=cv2.INTER_AREA)
        if first:
            self._play()
            self.changed.emit()

    def _queue_changed(self) -> None:
        if self.shown and self._entry is not None and self._entry.ended and self._entry.state != DONE and not self._codes:
            self.close()

    def _due(self, at: int) -> None:
        self.at = at
        self.drawn.emit()
