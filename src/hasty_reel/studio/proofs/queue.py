"""The queue of proofs, worked off beside everything else; what becomes of each entry is told once."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from psygnal import Signal

from hasty_reel.farm.forecast import order_seconds
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.queue import FAILED, Entry, ProofQueue
from hasty_reel.pictures.colour import codes8
from hasty_reel.settings.recipe import Recipe
from hasty_reel.studio.background import BackgroundTask

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


class ProofWork:
    """The queue and the work on it.

    share : of the entry under way that is done
    changed() : the queue stands otherwise; grown(frame, codes) : a picture under way, as (h, w, 3) display codes
    ended() : nothing is under way any more

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()
    grown = Signal(object, object)
    ended = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.queue = ProofQueue()
        self.share = 0.0
        self._task: BackgroundTask | None = None
        self._reported: set[int] = set()

    @property
    def busy(self) -> bool:
        """Whether proofs are being rendered."""
        return self._task is not None

    @property
    def left(self) -> int:
        """How many entries have not ended."""
        return sum(1 for e in self.queue.entries if not e.ended)

    def enqueue(self, orders: Sequence[ProofOrder]) -> None:
        """Put orders into the queue and work it off.

        Parameters
        ----------
        orders : of proofs
        """
        session = self._session
        for order in orders:
            plan = session.planner.outlook.plans.get(order.shot.id)
            self.queue.add(order, None if plan is None else order_seconds([order], plan, session.reel.picture_size))
        self.changed.emit()
        if self._task is None:
            self._begin()

    def render_telling(self, recipe: Recipe) -> None:
        """Render a proof that tells two changes apart: like the first one, with one of them alone.

        Parameters
        ----------
        recipe : with that change
        """
        session = self._session
        evidence = session.evidence.without(session.shot.put_away)
        if not evidence.frames:
            return
        row = evidence.frames[0]
        first = next(p for p in evidence.proofs if p.id == row.proof)
        scale = 100.0 * first.width / session.reel.picture_size[0]
        self.enqueue([ProofOrder(session.shot, recipe, (row.frame,), first.samples, scale, parent=first.id)])

    def _begin(self) -> None:
        # what renders brings the compiler along: a window opens without it
        from hasty_reel.farm.proofs import make_proof
        from hasty_reel.farm.renderers import renderer_of
        from hasty_reel.farm.yardstick import recent_yardsticks

        session = self._session
        reel, root, queue = session.reel, session.proofs_root, self.queue
        renderer = renderer_of(session.own.links.current)

        def work(task: BackgroundTask) -> None:
            def make(entry: Entry, tell) -> str:
                def show(frame: int | float, rgb: np.ndarray) -> None:
                    task.send((frame, codes8(rgb)))

                def wait(words: str) -> None:
                    tell(0.0, words)
                    entry.cancel.check()

                try:
                    session.preparing.wait(wait)
                    faults = entry.faults.__setitem__
                    proof = make_proof(reel, root, entry.order, renderer, tell, entry.cancel, show, faults, recent_yardsticks)
                finally:
                    task.send(None)
                return proof.id

            queue.work(make, lambda entry: task.tell(entry.share, entry.words), task.cancel)

        self._task = task = session.background.start(work)
        self.share = 0.0
        task.progressed.connect(self._progressed)
        task.came.connect(self._came)
        task.failed.connect(session.said)
        task.ended.connect(self._ended)
        self.changed.emit()

    def _progressed(self, share: float, words: str) -> None:
        self.share = share
        self.changed.emit()

    def _came(self, thing: tuple[int | float, np.ndarray] | None) -> None:
        if thing is not None:
            self.grown.emit(*thing)
            return
        self.changed.emit()
        for entry in self.queue.entries:
            if entry.ended and entry.faults:
                self._report(entry, f"{entry.words} The rest goes on.")
        self._session.read_evidence()

    def _ended(self) -> None:
        self._task = None
        for entry in self.queue.entries:
            if entry.state == FAILED:
                self._report(entry, entry.words)
        self.ended.emit()
        self.changed.emit()
        self._session.read_evidence()
        if self.queue.waiting:
            self._begin()

    def _report(self, entry: Entry, words: str) -> None:
        """Say once what became of an entry."""
        if entry.number not in self._reported:
            self._reported.add(entry.number)
            self._session.said.emit(f"Proof of {entry.order.shot.id}: {words}")

    # -- by hand

    def cancel_all(self) -> None:
        """Stop everything at once; what is finished stays."""
        self.queue.cancel_all()
        self.changed.emit()

    def cancel(self, entry: Entry) -> None:
        """Cancel an entry.

        Parameters
        ----------
        entry : of the queue
        """
        self.queue.cancel(entry.number)
        self.changed.emit()

    def move(self, entry: Entry, way: int) -> None:
        """Move an entry that waits.

        Parameters
        ----------
        entry : of the queue
        way : -1 earlier, 1 later
        """
        self.queue.move(entry.number, way)
        self.changed.emit()

    def toggle(self) -> None:
        """Hold the queue, or go on."""
        self.queue.resume() if self.queue.paused else self.queue.pause()
        self.changed.emit()

    def clear_ended(self) -> None:
        """Forget what has ended."""
        self.queue.clear_ended()
        self.changed.emit()
