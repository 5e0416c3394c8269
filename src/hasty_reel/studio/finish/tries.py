"""The ways to denoise that were tried on proof runs: what each leaves and costs at the samples that are planned, and how much is enough."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import msgspec

from hasty_reel.plan.compare.calm import enough_strength, worth_of
from hasty_reel.reel.edits import with_finish_order, with_line
from hasty_reel.reel.resolved import ResolvedRecipe
from hasty_reel.settings.finishorder import ENLARGED_FIRST, USUAL
from hasty_reel.settings.recipe import DENOISE_WINDOWS, Recipe
from hasty_reel.viewers import who_sees

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

WAYS = ((1, True), *((window, thorough) for window in DENOISE_WINDOWS for thorough in (False, True)))
"""Windows and care, the cheapest first; a window of 1 is none."""


@dataclass(frozen=True)
class Try:
    """One way to denoise, as a recipe and in words.

    seen : flicker in JND; seconds : a frame; detail : contrast of edges kept; calm : plays clean; chosen : it is the recipe's
    """

    recipe: Recipe
    words: str
    seen: float
    seconds: float
    detail: float
    calm: bool
    chosen: bool


class FinishTries:
    """What was tried, for the shot that is looked at.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        self._session = session

    @property
    def rows(self) -> list[Try]:
        """What proof runs tried, at the samples of the plan: the recipe's chain where it is another than the usual, the usual steps in all
        ways, and the recipe's denoising after resizing."""
        plan, model = self._session.plan, self._session.planner.outlook.models.get(self._session.playhead.shot_id)
        if plan is None or model is None:
            return []
        shown, out = self._session.recipe, []
        now = msgspec.structs.replace(shown, finish_order=USUAL)
        other = bool(plan.resolved.chain)
        if other and "denoise_window" not in plan.unproven:
            worth = worth_of(plan, model)
            out.append(Try(shown, "this chain", worth.seen, worth.seconds, worth.detail, worth.seen < plan.eyes.limit, True))
        for window, thorough in WAYS:
            if window > 1 and model.effects.at(window, None, thorough) is None:
                continue
            recipe = msgspec.structs.replace(now, denoise_window=window, denoise_thorough=int(thorough))
            worth = worth_of(plan, model, recipe)
            words = "as rendered" if window == 1 else f"over {window} frames, {'thorough' if thorough else 'quick'}"
            chosen = not other and now.denoise_window == window and (window == 1 or bool(now.denoise_thorough) == thorough)
            out.append(Try(recipe, words, worth.seen, worth.seconds, worth.detail, worth.seen < plan.eyes.limit, chosen))
        first = msgspec.structs.replace(shown, finish_order=ENLARGED_FIRST)
        chain = ResolvedRecipe.of(first, plan.shot, plan.resolved.delivered).chain
        if plan.resolved.scaled and chain not in ("", plan.resolved.chain) and model.effects.chain_at(chain) is not None:
            worth = worth_of(plan, model, first)
            words = f"resized first, over {first.denoise_window} frames"
            out.append(Try(first, words, worth.seen, worth.seconds, worth.detail, worth.seen < plan.eyes.limit, False))
        return out

    @property
    def words(self) -> str:
        """What the chosen way is worth, in a sentence; '' without a plan."""
        plan, model = self._session.plan, self._session.planner.outlook.models.get(self._session.playhead.shot_id)
        if plan is None or model is None:
            return ""
        if plan.resolved.chain and "denoise_window" in plan.unproven:
            return "Not proven yet: no run tried these steps in this order. 'Try this chain' does, on the proof runs that are there."
        if "denoise_window" in plan.unproven:
            return "Not proven yet: no run with guides tried this denoising. A run of five frames or more in Proofs does."
        return worth_of(plan, model).words

    @property
    def step_seconds(self) -> dict[str, float]:
        """Seconds a frame by the name of the step, of those measured by themselves; denoising with reading and writing."""
        plan, model = self._session.plan, self._session.planner.outlook.models.get(self._session.playhead.shot_id)
        if plan is None or model is None or plan.resolved.chain:
            return {}
        out = {}
        effect = model.effects.at(plan.resolved.window, plan.typical_samples, plan.resolved.thorough)
        if effect is not None and plan.resolved.window > 1:
            out["denoise"] = effect.seconds_per_pixel * plan.width * plan.height
        if plan.resolved.scaled:
            width, height = plan.resolved.delivered
            out["resize"] = model.effects.resize_seconds_per_pixel * width * height
        return out

    def choose(self, chosen: Try) -> None:
        """Denoise that way from now on, by the usual steps, in their usual order or resized first.

        Parameters
        ----------
        chosen : one of the rows
        """
        shot, window, care = self._session.playhead.shot_id, chosen.recipe.denoise_window, chosen.recipe.denoise_thorough
        other = self._session.reel.resolved(self._session.shot).chain
        order = USUAL if other else self._session.recipe.finish_order
        if chosen.recipe.finish_order == ENLARGED_FIRST:
            order = ENLARGED_FIRST
        self._session.do(
            f"Denoise {chosen.words}",
            lambda reel: with_finish_order(
                with_line(with_line(reel, shot, "denoise_window", window), shot, "denoise_thorough", care), shot, order
            ),
        )

    def enough(self) -> None:
        """Set the least strength with which the shot plays clean; where none does, that is said."""
        plan, model = self._session.plan, self._session.planner.outlook.models.get(self._session.playhead.shot_id)
        if plan is None or model is None:
            return
        strength = enough_strength(plan, model)
        if strength is None:
            worst = plan.worst_flicker
            self._session.said.emit(
                f"No strength is enough: with all of it {who_sees(worst)} see the noise, and at most {who_sees(plan.eyes.limit)} may. "
                "More frames, or more samples, calm it further."
            )
            return
        self._session.set_line("denoise_strength", strength)
