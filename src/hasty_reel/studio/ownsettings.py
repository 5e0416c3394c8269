"""What is the artist's own and not the reel's: renderer links, draft cuts, steps of finishing, whose eyes count."""

from __future__ import annotations

from typing import TypeVar

from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.farm.renderers.links import LINKS, Link
from hasty_reel.measure.eyesight import WATCHERS, Watcher, eyes_of
from hasty_reel.measure.seen import Eyes
from hasty_reel.own.chosenlist import ChosenList, KeptList, Named
from hasty_reel.own.draftcuts import DRAFT_CUTS
from hasty_reel.programs.ownsteps import OWN_STEPS, OwnStep
from hasty_reel.reel.draftcut import DraftCut
from hasty_reel.studio.eventloop import EventLoop

Item = TypeVar("Item", bound=Named)


class OwnSettings:
    """The artist's own settings, read and kept; what is wrong with a file is `said`, and what ships counts.

    Parameters
    ----------
    loop : on whose next turn it is said what could not be read
    """

    links_changed = Signal()
    draft_changed = Signal()
    eyes_changed = Signal()
    steps_changed = Signal()
    said = Signal(str)

    def __init__(self, loop: EventLoop) -> None:
        self._loop = loop
        self.draft_on = False
        self.cuts: ChosenList[DraftCut] = self._read(DRAFT_CUTS)
        self.links: ChosenList[Link] = self._read(LINKS)
        self.watchers: ChosenList[Watcher] = self._read(WATCHERS)
        self.steps: ChosenList[OwnStep] = self._read(OWN_STEPS)

    def _read(self, kept: KeptList[Item]) -> ChosenList[Item]:
        try:
            return kept.read()
        except HastyReelError as error:
            # nobody listens yet
            self._loop.call_soon_threadsafe(self.said.emit, str(error))
            return kept.shipped

    @property
    def eyes(self) -> Eyes:
        """Whose eyes count."""
        return eyes_of(self.watchers)

    def set_links(self, links: ChosenList[Link]) -> str:
        """Keep other renderer links.

        Parameters
        ----------
        links : the new ones

        Returns
        -------
        str
            What is wrong with them; '' when nothing is.
        """
        try:
            LINKS.save(links)
        except HastyReelError as error:
            return str(error)
        self.links = links
        self.links_changed.emit()
        return ""

    def set_steps(self, steps: ChosenList[OwnStep]) -> str:
        """Keep other steps of the artist's own.

        Parameters
        ----------
        steps : the new ones

        Returns
        -------
        str
            What is wrong with them; '' when nothing is.
        """
        try:
            OWN_STEPS.save(steps)
        except HastyReelError as error:
            return str(error)
        self.steps = steps
        self.steps_changed.emit()
        return ""

    def set_watchers(self, watchers: ChosenList[Watcher]) -> bool:
        """Let other eyes count from now on.

        Parameters
        ----------
        watchers : those who were tested, and who counts

        Returns
        -------
        bool
            False where they cannot be kept; then it is said why.
        """
        try:
            WATCHERS.save(watchers)
        except HastyReelError as error:
            self.said.emit(str(error))
            return False
        self.watchers = watchers
        self.eyes_changed.emit()
        return True

    def set_cuts(self, cuts: ChosenList[DraftCut]) -> bool:
        """Keep other draft cuts.

        Parameters
        ----------
        cuts : the new ones

        Returns
        -------
        bool
            False where they cannot be kept; then it is said why.
        """
        try:
            DRAFT_CUTS.save(cuts)
        except HastyReelError as error:
            self.said.emit(str(error))
            self.draft_changed.emit()
            return False
        self.cuts = cuts
        self.draft_changed.emit()
        return True

    def switch_draft(self, on: bool) -> None:
        """Lay the chosen draft cut over what is rendered as a proof, or take it off.

        Parameters
        ----------
        on : whether it lies over it
        """
        if on != self.draft_on:
            self.draft_on = on
            self.draft_changed.emit()
