"""One open reel that is looked at: the reel itself, and the models of what is seen and done with it."""

from __future__ import annotations

from datetime import datetime
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from hasty_reel.evidence.proof import Proof
from hasty_reel.evidence.rows import Evidence
from hasty_reel.measure.seen import Eyes
from hasty_reel.measure.viewing import eyes_for
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.edits import with_fields, with_hold, with_line, with_pin, with_settings, with_shot_fields, with_weight
from hasty_reel.reel.rate import place_text
from hasty_reel.reel.shot import Hold, Shot
from hasty_reel.settings.recipe import Recipe
from hasty_reel.settings.setting import Value
from hasty_reel.studio.eventloop import EventLoop
from hasty_reel.studio.openreel import OpenReel
from hasty_reel.studio.ownsettings import OwnSettings
from hasty_reel.studio.pictures import PictureMemory
from hasty_reel.studio.planner import Planner
from hasty_reel.studio.playhead import Playhead
from hasty_reel.studio.preparing import Preparing
from hasty_reel.studio.proofs.cards import CardList
from hasty_reel.studio.proofs.queue import ProofWork
from hasty_reel.studio.trial import TrialModel
from hasty_reel.studio.verdicts import Verdict, brief_verdict, budget_verdict, compare_verdict, finish_verdict, proofs_verdict

if TYPE_CHECKING:
    from hasty_reel.studio.compare.comparison import Comparison
    from hasty_reel.studio.livetry import LiveTry
    from hasty_reel.studio.machinespeed import MachineSpeed
    from hasty_reel.studio.proofs.findings import FindingsModel
    from hasty_reel.studio.proofs.onview import ProofOnView
    from hasty_reel.studio.proofs.proveit import ProveIt
    from hasty_reel.studio.proofs.request import RequestModel
    from hasty_reel.studio.proofs.roughpass import RoughPass
    from hasty_reel.studio.run.final import FinalFrames
    from hasty_reel.studio.trust import TrustModel

HELD = {"clean": "Hold clean", "noise": "Hold noise", "total": "Hold total", "cap": "Hold a cap", "flat": "Hold the same samples"}
"""A change of what is held, as undo names it."""


class Session(OpenReel):
    """An open reel with its models.

    loop : in whose thread they live; own : the person's settings; playhead : shot, frame, selection
    planner : evidence and plan; preparing : the renderer's machine code; pictures : those ready for the display
    trial : settings that are only tried; cards : of the proof sheet; proofs : the queue of proofs

    Parameters
    ----------
    path : its file
    loop : in whose thread the models live

    Raises
    ------
    HastyReelError
        When it cannot be opened.
    """

    def __init__(self, path: Path, loop: EventLoop) -> None:
        super().__init__(path, loop)
        self.loop = loop
        self.own = OwnSettings(loop)
        self.playhead = Playhead(lambda: self.reel)
        self.planner = Planner(lambda: self.reel, lambda: self.playhead.shot_id, self.background, loop, self.own.eyes)
        self.preparing = Preparing(self.background)
        self.pictures = PictureMemory(self.background)
        self.trial = TrialModel(self)
        self.cards = CardList(self)
        self.proofs = ProofWork(self)
        self.own.said.connect(self.said)
        self.own.eyes_changed.connect(self._new_eyes)
        self.own.steps_changed.connect(self.read_evidence)  # what another command did says nothing of this one
        self.planner.said.connect(self.said)
        self.playhead.shot_changed.connect(self.planner.replan)
        self.path_changed.connect(self._moved)

    # -- models of the stages, made when they are first needed: some bring the compiler along

    @cached_property
    def request(self) -> RequestModel:
        """What is asked of the renderer in Proofs."""
        from hasty_reel.studio.proofs.request import RequestModel

        return RequestModel(self)

    @cached_property
    def prove_it(self) -> ProveIt:
        """Proofs that are chosen and rendered by themselves within a time."""
        from hasty_reel.studio.proofs.proveit import ProveIt

        return ProveIt(self)

    @cached_property
    def live_try(self) -> LiveTry:
        """A small picture of what is tried."""
        from hasty_reel.studio.livetry import LiveTry

        return LiveTry(self)

    @cached_property
    def rough_pass(self) -> RoughPass:
        """The rough pass under way, or what one would take."""
        from hasty_reel.studio.proofs.roughpass import RoughPass

        return RoughPass(self)

    @cached_property
    def on_view(self) -> ProofOnView:
        """Which proof frame is looked at in Proofs."""
        from hasty_reel.studio.proofs.onview import ProofOnView

        return ProofOnView(self)

    @cached_property
    def trust(self) -> TrustModel:
        """How far the plan can be trusted, and which proof would make it surer."""
        from hasty_reel.studio.trust import TrustModel

        return TrustModel(self)

    @cached_property
    def machine_speed(self) -> MachineSpeed:
        """How fast this machine is now against when the proofs were made."""
        from hasty_reel.studio.machinespeed import MachineSpeed

        return MachineSpeed(self)

    @cached_property
    def findings(self) -> FindingsModel:
        """What was found out on the proofs of the shot."""
        from hasty_reel.studio.proofs.findings import FindingsModel

        return FindingsModel(self)

    @cached_property
    def comparison(self) -> Comparison:
        """What is compared."""
        from hasty_reel.studio.compare.comparison import Comparison

        return Comparison(self)

    @cached_property
    def final(self) -> FinalFrames:
        """The final frames of the shot; those that are finished can be compared."""
        from hasty_reel.studio.run.final import FinalFrames

        final = FinalFrames(self)
        final.frames_changed.connect(self.comparison.show_finals)
        return final

    @property
    def verdicts(self) -> list[Verdict]:
        """How each stage stands, in the order of the work."""
        when = self.planner.outlook.deadline
        compare = Verdict("Compare")
        if "comparison" in vars(self):
            causes = self.comparison.causes
            compare = compare_verdict(causes.heard, "" if causes.side is None else causes.side.name, causes.studied)
        return [
            brief_verdict(when),
            proofs_verdict(self.evidence, self.plan),
            compare,
            budget_verdict(self.plan, when),
            finish_verdict(self.plan),
            Verdict("Output"),
            Verdict("Run"),
        ]

    # -- what is looked at

    @property
    def eyes(self) -> Eyes:
        """Who looks at the current shot, from where, and from which seen flicker on it is not as calm as it is to be."""
        return eyes_for(self.reel, self.shot, self.own.eyes)

    @property
    def shot(self) -> Shot:
        """The shot or layer that is looked at."""
        return self.playhead.shot

    @property
    def recipe(self) -> Recipe:
        """Its recipe with its departures."""
        return self.reel.recipe_of(self.shot)

    @property
    def plan(self) -> ShotPlan | None:
        """Its plan; None while there is none."""
        return self.planner.outlook.plans.get(self.playhead.shot_id)

    @property
    def evidence(self) -> Evidence:
        """What its proofs say."""
        return self.planner.evidence.get(self.playhead.shot_id, Evidence())

    @property
    def lack(self) -> str:
        """Why it has no plan; '' where that is not known."""
        return self.planner.outlook.lacks.get(self.playhead.shot_id, "")

    def place_words(self, frame: int | None = None) -> str:
        """Return a frame with its time and timecode in the film, as they are shown everywhere.

        Parameters
        ----------
        frame : of the shot; None for that under the playhead

        Returns
        -------
        str
            Words.
        """
        frame, reel = self.playhead.frame if frame is None else frame, self.reel
        place = reel.film_place(self.shot, frame)
        if place is None:
            return f"{frame} · not in the film"
        return place_text(frame, place, reel.fps, reel.start_frame, reel.drop_frame)

    # -- edits of what is looked at

    def set_line(self, field_name: str, value: Value) -> None:
        """Set a line of the recipe; a value that does not do is said, and nothing changes.

        Parameters
        ----------
        field_name : of the line
        value : in its unit; None where the line has none
        """
        self.do(f"Set {self.recipe.setting(field_name).words}", lambda reel: with_line(reel, self.playhead.shot_id, field_name, value))

    def set_hold(self, hold: Hold) -> None:
        """Set what the budget of the shot holds.

        Parameters
        ----------
        hold : the promise and its value
        """
        self.do(HELD[hold.kind], lambda reel: with_hold(reel, self.playhead.shot_id, hold))

    def set_weight(self, weight: float) -> None:
        """Let the selected frames, or all of the shot, count more or less where the least noise in all is sought.

        Parameters
        ----------
        weight : how often each counts; 1 is usual
        """
        first, last = self.playhead.selection or (self.shot.begin, self.shot.end)
        self.do("Weigh frames", lambda reel: with_weight(reel, self.playhead.shot_id, first, last, weight))

    def set_pin(self, frame: int, samples: int | None) -> None:
        """Fix the samples of a frame by hand, or let it go.

        Parameters
        ----------
        frame : as the shot numbers it
        samples : per pixel; None lets it go
        """
        words = f"Let frame {frame} go" if samples is None else f"Pin frame {frame}"
        self.do(words, lambda reel: with_pin(reel, self.playhead.shot_id, frame, samples))

    def set_recipe(self, name: str) -> None:
        """Point the shot to another recipe.

        Parameters
        ----------
        name : of the recipe
        """
        self.do(f"Use recipe {name}", lambda reel: with_shot_fields(reel, self.playhead.shot_id, recipe=name))

    def set_due(self, due: datetime) -> None:
        """Set when everything must be ready.

        Parameters
        ----------
        due : with its time zone
        """
        self.do("Set due time", lambda reel: with_fields(reel, due=due.isoformat(timespec="seconds")))

    def use_settings(self, proof: Proof) -> None:
        """Make the settings of a proof those of the shot's recipe; one made under a draft cut is refused.

        Parameters
        ----------
        proof : whose recipe is taken over
        """
        if proof.draft:
            self.said.emit(f"Proof {proof.id} was made under draft cut '{proof.draft}': its settings are not for delivery.")
            return
        self.use_recipe(proof.recipe, f"Use settings of {proof.id}")

    def use_recipe(self, recipe: Recipe, name: str) -> None:
        """Make settings those of the shot's recipe.

        Parameters
        ----------
        recipe : the settings
        name : of the edit, for undo
        """
        self.do(name, lambda reel: with_settings(reel, self.playhead.shot_id, recipe))

    # -- what follows from a change

    def read_evidence(self) -> None:
        """Read all proofs anew and plan from them."""
        self.planner.read_evidence(self.proofs_root)

    def _after_edit(self) -> None:
        self.playhead.settle()
        super()._after_edit()
        self.cards.changed.emit()
        self.planner.read_unread(self.proofs_root)
        self.planner.replan()

    def _moved(self) -> None:
        """The reel lies elsewhere: its proofs are read anew where they went with it."""
        if self.proofs_root.is_dir():
            self.read_evidence()

    def _new_eyes(self) -> None:
        self.cards.changed.emit()
        self.planner.set_eyes(self.own.eyes)

    def close(self) -> None:
        """Let the reel go, and plan no more."""
        self.planner.close()
        super().close()
        self.background.close()
