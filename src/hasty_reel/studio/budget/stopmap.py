"""Stop at noise, seen: the map of the shot that is looked at, in words, and the value that is tried."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from hasty_reel.evidence.places import places_of
from hasty_reel.plan.frames.stopmap import StopMap, map_of
from hasty_reel.settings.recipe import SETTING
from hasty_reel.studio.lookedfor import LookedFor
from hasty_reel.typednumbers import read_number

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


class StopMapModel(LookedFor[StopMap | None]):
    """Where the shot that is looked at stops at noise.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        super().__init__(session)
        self._asked: tuple[str, float] | None = None
        session.playhead.frame_changed.connect(lambda frame: self._moved())

    def _moved(self) -> None:
        if self._watchers:
            self._outdate()

    @property
    def asked(self) -> float | None:
        """A value that was typed to be looked at, for this shot."""
        return self._asked[1] if self._asked is not None and self._asked[0] == self._session.playhead.shot_id else None

    def _work(self) -> Callable[[], StopMap | None] | None:
        session = self._session
        plan, frame, asked = session.plan, session.playhead.frame, self.asked
        model = session.planner.outlook.models.get(session.playhead.shot_id)
        if plan is None or model is None:
            return None
        evidence = model.evidence
        return lambda: map_of(plan, places_of(evidence, frame), asked)

    @property
    def words(self) -> str:
        """What the map shows, in sentences."""
        found, session = self.found, self._session
        if session.plan is None or (found is None and self.stale):
            return "Reading the noise of the places …" if session.plan is not None else ""
        if found is None:
            return "No proof has two seeds of a frame: how noisy each place is is not known."
        how = "as the renderer counted them" if found.measured else "foretold from two seeds"
        share = f"{100 * found.ended:.0f} % of the picture ends by its noise, {100 * (1 - found.ended):.0f} % with all its samples"
        now = session.recipe.stop_noise
        if now is None or now != found.stop:
            told = "Stop at noise is off" if now is None else f"It stops at {now:g} now"
            return f"{told}; at {found.stop:.3g} {share}. Samples of frame {found.places.frame:g}, {how}."
        return f"Stop at noise {found.stop:g}: {share}; in balance at {found.balance:.3g}. Samples of frame {found.places.frame:g}, {how}."

    def type_stop(self, text: str) -> None:
        """Look at another value; what is no such number is said, and nothing changes.

        Parameters
        ----------
        text : as typed
        """
        line = SETTING["stop_noise"]
        try:
            value = read_number(text)
        except ValueError:
            value = None
        if value is None or not max(1e-6, line.low) <= value <= line.high:
            self._session.said.emit(f"Stop at noise: '{text}'; expected a number above 0, up to {line.high:g}.")
            self.changed.emit()
            return
        self._asked = self._session.playhead.shot_id, float(value)
        self._outdate()

    def take(self) -> None:
        """Stop at the value that is looked at."""
        if self.found is not None:
            self._session.set_line("stop_noise", float(f"{self.found.stop:.3g}"))
