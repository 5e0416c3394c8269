"""What is asked of the renderer in Proofs: frames, samples, size, limits, a sweep; as orders and in words."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.evidence.places import noisiest_place
from hasty_reel.evidence.sweep import swept_name
from hasty_reel.farm.forecast import order_seconds, start_words, telling_scan
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.picks import EVERY, RUN_LENGTH, SPREAD, ends, every, run_around, spread
from hasty_reel.farm.sweeps import next_label, read_values, sweep_orders, usual_values
from hasty_reel.farm.usual import DENOISED_RUN, denoising_orders, noise_order, scan_order
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import proof_frames_text, read_proof_frames
from hasty_reel.reel.shot import Shot
from hasty_reel.settings.recipe import Recipe
from hasty_reel.studio.proofs.queuewords import queue_words
from hasty_reel.typednumbers import read_number

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

WHOLE, OPTIONAL = ("samples", "floor"), ("cap", "stop")
"""Numbers that are whole, and those that may be none."""
FIRST_LOOK, PREVIEW = 3.0, 10.0
"""Seconds a frame may take for a first look, and for a preview (common practice, no source)."""
USUAL_SAMPLES = 16
"""Samples of a run for denoising where nothing is planned yet."""
CAPPED_SAMPLES = 4096
"""The most samples of a capped picture: the cap is to end it."""
KEEPS_CROP = {"frames", "samples", "seeds", "parent"}
"""What may be changed of a proof of a part of the frame; anything else makes it one of whole frames."""
NO_SWEEP = "no sweep"
TOLD_FROM = 1.5
"""Seconds from which on it is told how long an order takes."""


@dataclass(frozen=True)
class ProofRequest:
    """What is asked for, as it is typed.

    frames : as typed; scale : percent of the delivered width; floor : the fewest samples under a cap or a noise to stop at
    cap : seconds a picture may take; stop : noise below which a pixel is left alone, linear; None for neither
    sweep : the setting swept over, '' for none; values : of it, as typed; parent : id of the proof it varies
    scan : it tells how the cost changes over the shot; small : its pictures are kept small
    crops : left, top, width and height of the parts that are rendered, in pixels, each a proof of its own; none for whole frames
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
    scan: bool = False
    small: bool = False
    crops: tuple[tuple[int, int, int, int], ...] = ()

    def order(self, session: Session) -> ProofOrder:
        """Return what would be rendered now, the sweep left out.

        Parameters
        ----------
        session : the open reel

        Returns
        -------
        ProofOrder
            ProofOrder, under the draft cut where one is on.

        Raises
        ------
        WrongInput
            When the frames or numbers make no sense.
        """
        order = ProofOrder(
            session.shot, session.recipe, read_proof_frames(self.frames), self.samples, self.scale, self.seeds,
            floor=min(self.floor, self.samples), stop_noise=self.stop, cap=self.cap, parent=self.parent,
            guides=not (self.scan or self.small), scan=self.scan, small=self.small and self.seeds == 2,
            crop=self.crops[0] if self.crops else None,
        ).checked()  # fmt: skip
        return order.under(session.own.cuts.current).checked() if session.own.draft_on else order

    def orders(self, session: Session) -> list[ProofOrder]:
        """Return what would be rendered now: one order, or one for each value of the sweep.

        Parameters
        ----------
        session : the open reel

        Returns
        -------
        list[ProofOrder]
            Orders, the least value of the sweep first.

        Raises
        ------
        WrongInput
            When something makes no sense.
        """
        order = self.order(session)
        if not self.sweep:
            return [order] if order.crop is None else [replace(order, crop=crop) for crop in self.crops]
        taken = {p.sweep for p in session.evidence.proofs} | {e.order.sweep for e in session.proofs.queue.entries}
        return sweep_orders(
            order, self.sweep, read_values(self.sweep, self.values, "Sweep:", session.recipe), next_label(self.sweep, taken)
        )


def order_words(orders: list[ProofOrder], session: Session) -> str:
    """Return what is ordered and what it takes on this machine: '9 frames, two seeds each: noise is measured, about 12 s'.

    Parameters
    ----------
    orders : at least one
    session : the open reel

    Returns
    -------
    str
        Words.
    """
    order = orders[0]
    frames = f"{len(order.frames)} frame" + ("s" if len(order.frames) > 1 else "")
    if order.scan:
        words = f"a scan of {frames}: how the cost changes over the shot"
    elif order.crop is not None:
        parts = f"{len(orders)} parts" if len(orders) > 1 else "a part"
        words = f"{parts} of {frames}, {order.crop[2]} × {order.crop[3]} pixels: what denoising does"
    elif len(orders) > 1:
        words = f"{len(orders)} values of {frames}"
    else:
        words = frames + (", two seeds each: noise is measured" if order.seeds == 2 else ", one seed: noise is estimated, not measured")
    if order.draft:
        words += f", under '{order.draft}': {order.samples} samples, {order.scale:g} %"
    plan = session.plan
    if plan is None:
        return words
    seconds = order_seconds(orders, plan, session.reel.picture_size)
    starts = start_words(order, plan, session.reel.picture_size) if order.scan else ""
    words += f"; {starts}" if starts else ""
    return words + (f", about {spoken(seconds)}" if seconds >= TOLD_FROM else ", a second or two")


def _ordinary(changed: dict[str, object]) -> dict[str, object]:
    """What is changed by hand makes an ordinary proof of a usual one."""
    if not set(changed) - {"parent"}:
        return changed
    return {"scan": False, "small": False, **({} if set(changed) <= KEEPS_CROP else {"crops": ()}), **changed}


def sweep_words(name: str, recipe: Recipe) -> str:
    """Return the name of what is swept over, as it is read.

    Parameters
    ----------
    name : field of a setting, 'samples', 'scale', or '' for no sweep
    recipe : of the shot

    Returns
    -------
    str
        Words.
    """
    return swept_name(name, recipe) if name else NO_SWEEP


class RequestModel:
    """The request as it stands; changed() : it says something else, or what it takes did.

    picks : ways to choose frames by name, each with what it means
    usual : proofs that are made of nearly every shot, by name, each with what it tells

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.asked = ProofRequest()
        self.picks: dict[str, tuple[str, Callable[[Shot], tuple[int, ...]]]] = {
            "This frame": ("The frame under the playhead", lambda shot: (session.playhead.frame,)),
            f"Run of {RUN_LENGTH}": (
                "Consecutive frames around the playhead: they also show what denoising over time does",
                lambda shot: run_around(shot, session.playhead.frame),
            ),
            "First, middle, last": ("Three frames", ends),
            f"Every {EVERY}th": ("Every so many frames of the shot", every),
            f"{SPREAD} over the shot": ("Frames spread evenly from the first to the last", spread),
        }
        self.usual: dict[str, tuple[str, Callable[[], list[ProofOrder]]]] = {
            "Scan": ("Tiny pictures of every frame, one seed: how the cost changes over the shot, at next to no price", self._scan),
            "Noise": (
                "Five frames at full size, one sample a shutter step, two seeds: the best evidence of noise; pictures are kept small",
                lambda: [noise_order(session.shot, session.recipe, session.reel.picture_size)],
            ),
            "Denoising": (
                f"{DENOISED_RUN} frames around the playhead, of each the part where noise is worst and the middle, as dense as they "
                "will be: the best evidence of what denoising does",
                self._denoising,
            ),
        }
        session.playhead.frame_changed.connect(self._follow)
        session.playhead.selection_changed.connect(self._take_selection)
        session.playhead.shot_changed.connect(self._other_shot)
        for signal in (
            session.planner.plan_changed, session.planner.evidence_changed, session.own.draft_changed, session.reel_changed,
            session.own.links_changed, session.proofs.changed, session.preparing.changed,
        ):  # fmt: skip
            signal.connect(self.changed)
        self._other_shot()
        self._take_selection()

    # -- asking

    def change(self, **changed: object) -> None:
        """Ask for something else; what makes no sense is said, and nothing changes.

        Parameters
        ----------
        **changed : fields of the request
        """
        new = replace(self.asked, **_ordinary(changed))  # type: ignore[arg-type]
        try:
            new.orders(self._session)
        except HastyReelError as error:
            self._session.said.emit(str(error))
        else:
            self.asked = new
        self.changed.emit()

    def type_number(self, name: str, text: str) -> None:
        """Ask for a number as it is typed; one that makes no sense is said, and nothing changes.

        Parameters
        ----------
        name : field of the request
        text : as typed, 'none' where it may be none
        """
        try:
            value = read_number(text)
        except ValueError:
            wanted = "a number, or none" if name in OPTIONAL else "a number"
            self._refuse(f"Proof: {name} '{text[:40]}' is no number; expected {wanted}.")
            return
        if value is None and name not in OPTIONAL:
            self._refuse(f"Proof: {name} is missing; expected a number.")
            return
        self.change(**{name: int(value) if value is not None and name in WHOLE else value})

    def _refuse(self, words: str) -> None:
        self._session.said.emit(words)
        self.changed.emit()

    def choose(self, frames: tuple[int | float, ...]) -> None:
        """Take these frames.

        Parameters
        ----------
        frames : as the shot numbers them
        """
        self._take(frames=proof_frames_text(frames))

    def pick(self, name: str) -> None:
        """Take frames by one of the `picks`.

        Parameters
        ----------
        name : of the pick
        """
        self.choose(self.picks[name][1](self._session.shot))

    def take_usual(self, name: str) -> None:
        """Ask for one of the `usual` proofs.

        Parameters
        ----------
        name : of the proof
        """
        session = self._session
        try:
            orders = self.usual[name][1]()
        except HastyReelError as error:
            session.said.emit(str(error))
            return
        order = orders[0]
        self._take(
            frames=proof_frames_text(order.frames), samples=order.samples, scale=order.scale, seeds=order.seeds, sweep="", cap=None,
            stop=None, scan=order.scan, small=order.small,
            crops=tuple(o.crop for o in orders if o.crop is not None),
        )  # fmt: skip

    def _scan(self) -> list[ProofOrder]:
        session = self._session
        order = scan_order(session.shot, session.recipe, session.reel.picture_size)
        return [order if session.plan is None else telling_scan(order, session.plan, session.reel.picture_size)]

    def _denoising(self) -> list[ProofOrder]:
        session = self._session
        frame, samples = session.playhead.frame, USUAL_SAMPLES if session.plan is None else session.plan.typical_samples
        at, crops = noisiest_place(session.evidence, frame), session.own.links.current.crops
        return denoising_orders(session.shot, session.recipe, session.reel.picture_size, frame, samples, at, crops)

    def vary(self, proof: str) -> None:
        """Have the next proof vary one.

        Parameters
        ----------
        proof : its id; '' for none
        """
        self._take(parent=proof)

    def set_cap(self, seconds: float | None) -> None:
        """Cap the seconds of a picture, with many samples as the most; or none.

        Parameters
        ----------
        seconds : a picture may take; None for no cap
        """
        most = self.asked.samples if seconds is None else max(self.asked.samples, CAPPED_SAMPLES)
        self._take(cap=seconds, samples=most)

    def set_seeds(self, two: bool) -> None:
        """Render each picture twice, or once.

        Parameters
        ----------
        two : with two seeds, so that noise is measured
        """
        self._take(seeds=2 if two else 1)

    def set_sweep(self, name: str) -> None:
        """Sweep over a setting, with its usual values.

        Parameters
        ----------
        name : of the setting; '' for no sweep
        """
        values = ", ".join("none" if v is None else f"{v:g}" for v in usual_values(name, self._session.recipe)) if name else ""
        self._take(sweep=name, values=values or self.asked.values)

    def _take(self, **changed: object) -> None:
        self.asked = replace(self.asked, **_ordinary(changed))  # type: ignore[arg-type]
        self.changed.emit()

    def _follow(self, frame: int) -> None:
        # a single frame follows the playhead
        if self.asked.frames.isdigit() or not self.asked.frames:
            self._take(frames=str(frame))

    def _take_selection(self) -> None:
        selection = self._session.playhead.selection
        if selection is not None:
            self.choose(tuple(range(selection[0], selection[1] + 1)))

    def _other_shot(self) -> None:
        self._take(frames=str(self._session.playhead.frame), parent="")

    # -- ordering

    def order_now(self) -> None:
        """Put it into the queue; what makes no sense is said."""
        try:
            orders = self.asked.orders(self._session)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self._session.proofs.enqueue(orders)

    @property
    def note(self) -> str:
        """What is asked for and what it takes, and before it how long the renderer or the queue still takes."""
        try:
            words = order_words(self.asked.orders(self._session), self._session)
        except HastyReelError:
            words = ""
        before = self._session.preparing.words or queue_words(self._session.proofs.queue)
        return " · ".join(w for w in (before.capitalize() if before.startswith("about") else before, words) if w)

    @property
    def button(self) -> str:
        """What the button that orders says."""
        queue = self._session.proofs.queue
        busy = queue.rendering is not None or queue.waiting
        return "Add to queue" if busy else "Render sweep" if self.asked.sweep else "Render proof"
