"""The cards of the proof sheet: laid out once for evidence and reel, then filtered and sorted as one looks for them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from psygnal import Signal

from hasty_reel.evidence.rows import Evidence
from hasty_reel.evidence.sheet import Card, SortBy, chosen, marked, unmarked
from hasty_reel.reel.edits import with_mark

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


class CardList:
    """The cards of the shot's proofs, and which of them are listed.

    text : words that a listed card holds; starred : only those with a star; hidden : those put away instead of those at hand
    sort : their order
    changed() : the cards are others, or say something else; listing_changed() : others are listed

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()
    listing_changed = Signal()

    def __init__(self, session: ShotContext) -> None:
        self._session = session
        self._laid_out: tuple[tuple, list[Card]] | None = None
        self.text = ""
        self.starred = False
        self.hidden = False
        self.sort: SortBy = "newest"
        session.planner.ahead = self._lay_out_ahead

    @property
    def all(self) -> list[Card]:
        """All cards of the shot, the oldest first."""
        evidence = self._session.evidence
        rests_on = self._rests_on(evidence)
        # evidence is told apart as an object: it holds arrays, and is read anew as a whole
        if self._laid_out is None or self._laid_out[0][0] is not evidence or self._laid_out[0][1:] != rests_on[1:]:
            self._laid_out = (rests_on, unmarked(evidence, self._session.reel, self._session.eyes))
        return marked(self._laid_out[1], self._session.shot)

    def _rests_on(self, evidence: Evidence) -> tuple:
        reel = self._session.reel
        return (evidence, reel.picture_size, reel.rate, self._session.eyes)

    def _lay_out_ahead(self, evidence: Mapping[str, Evidence]) -> None:
        """Lay out what was just read, in the thread that read it: thousands of cards take a while."""
        found = evidence.get(self._session.playhead.shot_id)
        if found is not None:
            self._laid_out = (self._rests_on(found), unmarked(found, self._session.reel, self._session.eyes))

    @property
    def listed(self) -> list[Card]:
        """The cards that are asked for, in their order."""
        return chosen(self.all, self.text, self.starred, self.hidden, self.sort)

    def list_by(self, **asked: Any) -> None:
        """Ask for other cards.

        Parameters
        ----------
        **asked : any of text, starred, hidden, sort
        """
        for name, value in asked.items():
            setattr(self, name, value)
        self.listing_changed.emit()

    # -- decisions about proofs are edits of the reel

    def star(self, card: Card) -> None:
        """Star a proof, or take the star off.

        Parameters
        ----------
        card : of the proof
        """
        self._mark("Unstar" if card.mark.star else "Star", card, star=not card.mark.star)

    def hide(self, card: Card) -> None:
        """Hide a proof: it is no evidence any more; or take it back. Its files stay.

        Parameters
        ----------
        card : of the proof
        """
        self._mark("Take back" if card.mark.away else "Hide", card, away=not card.mark.away)

    def note(self, card: Card, text: str) -> None:
        """Note something about a proof.

        Parameters
        ----------
        card : of the proof
        text : the note, '' for none
        """
        self._mark("Note on", card, note=text.strip())

    def _mark(self, name: str, card: Card, **changes: Any) -> None:
        shot_id = self._session.playhead.shot_id
        self._session.do(f"{name} {card.proof.id}", lambda reel: with_mark(reel, shot_id, card.proof.id, **changes))
