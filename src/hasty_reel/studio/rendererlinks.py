"""Edits of the renderer links, and the trial of one."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import msgspec
from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.farm.renderers.links import BY_COMMAND, Link
from hasty_reel.own.chosenlist import ChosenList
from hasty_reel.programs.commands import read_command
from hasty_reel.reel.numbers import read_number
from hasty_reel.studio.background import BackgroundTask

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


class RendererLinksModel:
    """The renderer links; answer : what is wrong with the last edit, or what came of a trial. changed() : something of this.

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self._task: BackgroundTask | None = None
        self.answer = ""
        session.own.links_changed.connect(self.changed)

    @property
    def links(self) -> ChosenList[Link]:
        """All links and the one that is chosen."""
        return self._session.own.links

    @property
    def link(self) -> Link:
        """The chosen link."""
        return self.links.current

    @property
    def trying(self) -> bool:
        """Whether a trial is under way."""
        return self._task is not None

    def choose(self, name: str) -> None:
        """Render with another renderer from now on.

        Parameters
        ----------
        name : of the link
        """
        self._keep(self.links.choosing(name))

    def _keep(self, links: ChosenList[Link]) -> None:
        self._answer(self._session.own.set_links(links))

    def _answer(self, words: str) -> None:
        self.answer = words
        self.changed.emit()

    def change(self, **changes: Any) -> None:
        """Change fields of the chosen link.

        Parameters
        ----------
        **changes : by field
        """
        self._keep(self.links.changed(self.link, msgspec.structs.replace(self.link, **changes)))

    def type_command(self, text: str) -> None:
        """Set the command of the chosen link as it is typed.

        Parameters
        ----------
        text : arguments, the program first
        """
        try:
            self.change(command=read_command(text))
        except HastyReelError as error:
            self._answer(str(error))

    def type_timeout(self, text: str) -> None:
        """Set the time-out of the chosen link as it is typed.

        Parameters
        ----------
        text : seconds
        """
        try:
            value = read_number(text)
        except ValueError:
            value = None
        if value is None:
            self._answer(f"Time-out: '{text[:40]}' is no number; expected seconds.")
            return
        self.change(timeout=float(value))

    def type_seconds(self, part: str, text: str) -> None:
        """Set the pattern of the seconds of a part as it is typed.

        Parameters
        ----------
        part : of the seconds of a frame
        text : regular expression; '' or 'none' for none
        """
        seconds = {k: v for k, v in self.link.seconds.items() if k != part}
        self.change(seconds=seconds if text in ("", "none") else {**seconds, part: text})

    def type_progress(self, text: str) -> None:
        """Set the pattern of the progress as it is typed.

        Parameters
        ----------
        text : regular expression; '' or 'none' for none
        """
        self.change(progress="" if text in ("none", "") else text)

    def duplicate(self) -> None:
        """Add a copy, to be changed, and choose it; a copy of the one inside begins with our own command."""
        base = self.link if self.link.command is not None else BY_COMMAND
        self._keep(self.links.added(msgspec.structs.replace(base, name=self.links.free_name(self.link.name))))

    def remove(self) -> None:
        """Take the chosen link out; one stays."""
        if len(self.links.items) == 1:
            self._answer("This link is the only one; expected at least one.")
            return
        self._keep(self.links.without(self.link))

    def try_it(self) -> None:
        """Render one tiny frame of this shot through the chosen link, beside everything else."""
        from hasty_reel.farm.renderers import try_link  # brings the compiler along

        if self._task is not None:
            return
        link, shot = self.link, self._session.shot
        frame = shot.scene_frame(self._session.playhead.frame)
        self._task = task = self._session.background.start(lambda task: try_link(link, shot.scene, frame, task.cancel))
        task.done.connect(self._answer)
        task.failed.connect(self._answer)
        task.ended.connect(self._tried)
        self._answer("Rendering one tiny frame …")

    def _tried(self) -> None:
        self._task = None
        self.changed.emit()

    def stop(self) -> None:
        """Stop the trial."""
        if self._task is not None:
            self._task.cancel.cancel()
