"""What is asked of the renderer in Proofs: frames, samples, size, limits, a sweep; as orders and in words."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.desk.fields import read_number
from hasty_reel.desk.session import Session
from hasty_reel.errors import WrongInput
from hasty_reel.farm.proofs import Order
from hasty_reel.farm.sweeps import USUAL, sweep_orders
from hasty_reel.predict.sweep import Value
from hasty_reel.reel.frames import read_proof_frames
from hasty_reel.reel.recipe import LINE, Recipe
from hasty_reel.reel.shot import Shot

RUN_LENGTH = 9
SPREAD = 9
EVERY = 12


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
        label = next(n for k in range(1, len(taken) + 2) if (n := f"{self.sweep} {k}") not in taken)
        return sweep_orders(order, self.sweep, self.sweep_values(), label)

    def sweep_values(self) -> list[Value]:
        """The values typed for the sweep.

        Raises
        ------
        WrongInput
            Names the one that is wrong.
        """
        out: list[Value] = []
        for text in self.values.replace(";", ",").split(","):
            plain = text.strip()
            if self.sweep in LINE:
                named, value = LINE[self.sweep].named(plain)
                if named:
                    out.append(value)
                    continue
            try:
                number = read_number(plain)
            except ValueError as error:
                raise WrongInput(f"Sweep: '{plain[:40]}' is no number; expected values such as 0, 1, 2, 4.") from error
            out.append(int(number) if number is not None and number == int(number) else number)
        return out


def usual_values(name: str, recipe: Recipe) -> str:
    """The values a sweep over a setting begins with, as one would type them."""
    values = USUAL.get(name)
    if values is None:
        line = LINE[name]
        values = tuple(v for v in (line.neutral, getattr(recipe, name), line.low, line.high) if v is not None or line.optional)
    return ", ".join("none" if v is None else f"{v:g}" for v in dict.fromkeys(values))


def run_around(shot: Shot, frame: int) -> tuple[int, ...]:
    """Consecutive frames around one, within the shot."""
    first = min(max(frame - RUN_LENGTH // 2, shot.begin), max(shot.begin, shot.past - RUN_LENGTH))
    return tuple(range(first, min(shot.past, first + RUN_LENGTH)))


def ends(shot: Shot) -> tuple[int, ...]:
    """First, middle and last frame."""
    return tuple(sorted({shot.begin, (shot.begin + shot.past - 1) // 2, shot.past - 1}))


def every(shot: Shot) -> tuple[int, ...]:
    """Every so many frames from the first on."""
    return tuple(range(shot.begin, shot.past, EVERY))


def spread(shot: Shot) -> tuple[int, ...]:
    """Frames spread evenly from the first to the last."""
    return tuple(sorted({round(f) for f in np.linspace(shot.begin, shot.past - 1, SPREAD)}))


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
    seconds = 0.0
    for o in orders:
        pixels = float(np.prod(session.reel.picture_size)) * (o.scale / 100) ** 2
        k = np.array([plan.index(int(f)) for f in o.frames])
        cost = plan.sample[k] / plan.samples[k] / (plan.width * plan.height)
        each = plan.load[k] + cost * pixels * o.samples
        seconds += float(o.seeds * np.sum(each if o.cap is None else np.minimum(each, o.cap)))
    return words + (f", about {seconds:.0f} s" if seconds >= 1.5 else ", a second or two")
