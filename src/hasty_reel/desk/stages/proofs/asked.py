"""What is asked of the renderer in Proofs: frames, samples, size, limits, a sweep; as orders and in words."""

from __future__ import annotations

from dataclasses import dataclass

from hasty_reel.desk.session import Session
from hasty_reel.farm.forecast import order_seconds
from hasty_reel.farm.proofs import Order
from hasty_reel.farm.sweeps import next_label, read_values, sweep_orders
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import read_proof_frames


@dataclass(frozen=True)
class Asked:
    """As it stands in the order bar.

    frames : as typed; scale : percent of the delivered width; floor : the fewest samples under a cap or a noise to stop at
    cap : seconds a picture may take; stop : noise below which a pixel is left alone, linear; None for neither
    sweep : the setting swept over, '' for none; values : of it, as typed; parent : id of the proof it varies
    """

    frames: str = ""
    samples: int = 16
    scale: float = 25.0
    seeds: int = 2
    floor: int = 4
    cap: float | None = None
    stop: float | None = None
    sweep: str = ""
    values: str = ""
    parent: str = ""

    def order(self, session: Session) -> Order:
        """What would be rendered now, the sweep left out.

        Raises
        ------
        WrongInput
            When the frames or numbers make no sense.
        """
        order = Order(
            session.shot, session.recipe, read_proof_frames(self.frames), self.samples, self.scale, self.seeds,
            floor=min(self.floor, self.samples), stop_noise=self.stop, cap=self.cap, parent=self.parent,
        ).checked()  # fmt: skip
        return order.under(session.cuts.current).checked() if session.draft_on else order

    def orders(self, session: Session) -> list[Order]:
        """What would be rendered now: one order, or one for each value of the sweep.

        Raises
        ------
        WrongInput
            When something makes no sense.
        """
        order = self.order(session)
        if not self.sweep:
            return [order]
        taken = {p.sweep for p in session.shot_evidence.proofs} | {e.order.sweep for e in session.queue.entries}
        return sweep_orders(order, self.sweep, read_values(self.sweep, self.values, "Sweep:"), next_label(self.sweep, taken))


def order_words(orders: list[Order], session: Session) -> str:
    """What is ordered and what it takes on this machine: '9 frames, two seeds each: noise is measured, about 12 s'."""
    order = orders[0]
    frames = f"{len(order.frames)} frame" + ("s" if len(order.frames) > 1 else "")
    if len(orders) > 1:
        words = f"{len(orders)} values of {frames}"
    else:
        words = frames + (", two seeds each: noise is measured" if order.seeds == 2 else ", one seed: noise is not measured")
    if order.draft:
        words += f", under '{order.draft}': {order.samples} samples, {order.scale:g} %"
    plan = session.plan
    if plan is None:
        return words
    seconds = order_seconds(orders, plan, session.reel.picture_size)
    return words + (f", about {spoken(seconds)}" if seconds >= 1.5 else ", a second or two")
