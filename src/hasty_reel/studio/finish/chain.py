"""The order of the finishing steps of a shot's recipe, the artist's own among them, and the trial of a chain on proof runs."""

from __future__ import annotations

from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.farm.proofrun import runs_of, try_chain
from hasty_reel.programs.ownsteps import OwnStep, own_step
from hasty_reel.reel.edits import with_finish_order
from hasty_reel.settings.finishorder import ENLARGED_FIRST, USUAL, own_names, with_order
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.work import part_of

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

ORDERS: tuple[tuple[tuple[str, ...], str, str], ...] = (
    (USUAL, "denoise, then resize", "The usual: guides fit the pixels as rendered, and there are fewer of them."),
    (ENLARGED_FIRST, "resize, then denoise", "What resizing makes of noise is denoised too; as many pixels as are delivered."),
)  # fmt: skip
"""Orders that are offered, with their words and the reason for them."""


class FinishChain:
    """The chain of the shot that is looked at. changed() : its order, or the trial.

    words : what is wrong, or how far a trial is

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self._task: BackgroundTask | None = None
        self.words = ""
        for signal in (session.reel_changed, session.playhead.shot_changed, session.own.steps_changed, session.planner.plan_changed):
            signal.connect(self._forget)

    def _forget(self) -> None:
        if self._task is None:
            self.words = ""
        self.changed.emit()

    @property
    def order(self) -> tuple[str, ...]:
        """Names of the steps, in their order."""
        return self._session.recipe.finish_order

    @property
    def order_words(self) -> tuple[str, str]:
        """The order in words, and the reason for it."""
        plain = tuple(name for name in self.order if name in USUAL)
        return next(((words, why) for order, words, why in ORDERS if order == plain), ("an order of your own", ""))

    def own(self, name: str) -> OwnStep | None:
        """Return a step of the artist's own; None where it is not kept on this machine.

        Parameters
        ----------
        name : of the step
        """
        return next((step for step in self._session.own.steps.items if step.name == name), None)

    @property
    def free(self) -> list[str]:
        """Names of own steps that are not in the chain."""
        return [step.name for step in self._session.own.steps.items if step.name not in self.order]

    def arrange(self, order: tuple[str, ...]) -> None:
        """Take our own steps in another order; the artist's stay where they are between them.

        Parameters
        ----------
        order : of our own four
        """
        ours = iter(order)
        self._set("Order of finishing", tuple(next(ours) if name in USUAL else name for name in self.order))

    def move(self, name: str, way: int) -> None:
        """Take a step earlier or later.

        Parameters
        ----------
        name : of the step
        way : -1 is earlier, 1 later
        """
        self._set(f"Move {name}", with_order(self.order, name, way))

    def add(self, name: str) -> None:
        """Put a step of the artist's own at the end.

        Parameters
        ----------
        name : of the step
        """
        self._set(f"Add {name}", (*self.order, name))

    def remove(self, name: str) -> None:
        """Take a step of the artist's own out.

        Parameters
        ----------
        name : of the step
        """
        self._set(f"Take out {name}", tuple(other for other in self.order if other != name))

    def _set(self, words: str, order: tuple[str, ...]) -> None:
        if order != self.order:
            shot = self._session.playhead.shot_id
            self._session.do(words, lambda reel: with_finish_order(reel, shot, order))

    # -- the trial

    @property
    def chain_words(self) -> str:
        """The chain in words, where it is another than the usual."""
        return self._session.reel.resolved(self._session.shot).chain

    @property
    def unproven(self) -> bool:
        """Whether no run tried this chain, which is another than the usual."""
        model = self._session.planner.outlook.models.get(self._session.playhead.shot_id)
        words = self.chain_words
        return bool(words) and model is not None and model.effects.chain_at(words) is None

    @property
    def trying(self) -> bool:
        """Whether a trial is under way."""
        return self._task is not None

    def try_it(self) -> None:
        """Try the chain on the proof runs of the shot, beside everything else."""
        if self._task is not None:
            return
        session, resolved = self._session, self._session.reel.resolved(self._session.shot)
        evidence, fps, rows = session.evidence, float(session.reel.fps), session.reel.height
        try:
            own = [own_step(name, session.own.steps) for name in own_names(resolved.recipe.finish_order)]
        except HastyReelError as error:
            self._say(str(error))
            return
        away = session.shot.put_away
        runs = [p for p in evidence.proofs if p.id not in away and p.as_rendered and runs_of(list(p.by_frame()))]
        folders = [evidence.folders[p.id] for p in runs]

        def _work(task: BackgroundTask) -> int:
            session.preparing.wait(lambda words: task.cancel.check())
            done = 0
            for k, (proof, folder) in enumerate(zip(runs, folders)):
                tell = part_of(task.tell, k, len(runs))
                done += try_chain(folder, proof, resolved, own, rows, fps, tell, task.cancel) is not None
            return done

        self._task = task = session.background.start(_work)
        self._say("Trying the chain on the proof runs …")
        task.progressed.connect(lambda share, words: self._say(f"Trying the chain on the proof runs, {100 * share:.0f} %"))
        task.done.connect(self._done)
        task.failed.connect(self._say)
        task.ended.connect(self._ended)

    def _say(self, words: str) -> None:
        self.words = words
        self.changed.emit()

    def _done(self, runs: int) -> None:
        if runs:
            self._session.read_evidence()
        else:
            self._session.said.emit(
                "No proof has a run that is two frames longer than the denoise window; a run of nine frames in Proofs does."
            )

    def _ended(self) -> None:
        self._task = None
        self.changed.emit()

    def stop(self) -> None:
        """Stop the trial."""
        if self._task is not None:
            self._task.cancel.cancel()
