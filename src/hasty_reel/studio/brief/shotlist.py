"""Edits of the list of shots; what was made is looked at next."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from hasty_reel.errors import HastyReelError
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits import added, added_machine, duplicated, moved, removed, split

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


class ShotListModel:
    """The shots of the reel, edited where one looks at them.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: Session) -> None:
        self._session = session

    @property
    def may_split(self) -> bool:
        """Whether the shot can be cut before the playhead."""
        shot = self._session.reel.shot(self._session.playhead.whole_id)
        return shot.first < self._session.playhead.frame <= shot.last

    def _then_show(self, name: str, change: Callable[[Reel], tuple[Reel, str]]) -> None:
        made: list[str] = []

        def act(reel: Reel) -> Reel:
            new, shot_id = change(reel)
            made.append(shot_id)
            return new

        if self._session.do(name, act) and made:
            self._session.playhead.show_shot(made[0])

    def new(self) -> None:
        """Put a new shot behind this one."""
        near = self._session.playhead.whole_id
        self._then_show("New shot", lambda reel: added(reel, near))

    def duplicate(self) -> None:
        """Put a copy behind this shot."""
        shot_id = self._session.playhead.whole_id
        self._then_show(f"Duplicate {shot_id}", lambda reel: duplicated(reel, shot_id))

    def split(self) -> None:
        """Cut this shot before the playhead."""
        playhead = self._session.playhead
        shot_id, frame = playhead.whole_id, playhead.frame
        self._then_show(f"Split {shot_id}", lambda reel: split(reel, shot_id, frame))
        playhead.show_frame(frame)

    def remove(self) -> None:
        """Take this shot out; the one behind it is looked at then."""
        session = self._session
        shot_id = session.playhead.whole_id
        k = [s.id for s in session.reel.shots].index(shot_id)
        if session.do(f"Remove {shot_id}", lambda reel: removed(reel, shot_id)):
            left = session.reel.shots
            session.playhead.show_shot(left[min(k, len(left) - 1)].id)

    def move(self, shot_id: str, row: int) -> None:
        """Move a shot to another place in the film.

        Parameters
        ----------
        shot_id : of the shot
        row : its place among the shots, from 0
        """
        self._session.do(f"Move shot {shot_id}", lambda reel: moved(reel, shot_id, row))

    def add_machine(self) -> int | None:
        """Put one machine more.

        Returns
        -------
        int | None
            Its place among the machines, from 0; None where there may be no more, which is said.
        """
        session = self._session
        try:
            session.edit("Add machine", added_machine(session.reel))
        except HastyReelError as error:
            session.said.emit(str(error))
            return None
        return len(session.reel.machines) - 1
