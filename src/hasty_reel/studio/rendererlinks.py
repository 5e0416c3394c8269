"""Edits of the renderer links, and the trial of one."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec

from hasty_reel.errors import HastyReelError
from hasty_reel.farm.renderers.learnlog import Found, patterns_of, taken_for, times_in, with_patterns
from hasty_reel.farm.renderers.links import BY_COMMAND, Link
from hasty_reel.own.chosenlist import ChosenList
from hasty_reel.pictures.foreign import read_channels_text
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.commandlist import CommandListModel

if TYPE_CHECKING:
    from hasty_reel.farm.renderers.trial import LinkTrial
    from hasty_reel.studio.context import ShotContext


BY_NAME = "by name"
"""What is said where the names of channels tell what they are."""


class RendererLinksModel(CommandListModel[Link]):
    """The renderer links, and the trial of one.

    trial : what the last trial of the chosen link came to; None where there was none
    found : numbers of an example of what it prints, with what each is taken for

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        super().__init__(session.own.set_links)
        self._session = session
        self._task: BackgroundTask | None = None
        self.trial: LinkTrial | None = None
        self.found: list[Found] = []
        session.own.links_changed.connect(self.changed)

    @property
    def kept(self) -> ChosenList[Link]:
        """All of them and the one that is looked at."""
        return self._session.own.links

    @property
    def link(self) -> Link:
        """The chosen link."""
        return self.kept.current

    @property
    def trying(self) -> bool:
        """Whether a trial is under way."""
        return self._task is not None

    def type_seconds(self, part: str, text: str) -> None:
        """Set the pattern of the seconds of a part as it is typed.

        Parameters
        ----------
        part : of the seconds of a frame
        text : regular expression; '' or 'none' for none
        """
        seconds = {k: v for k, v in self.link.seconds.items() if k != part}
        self.change(seconds=seconds if text in ("", "none") else {**seconds, part: text})

    def duplicate(self) -> None:
        """Add a copy, to be changed, and choose it; a copy of the one inside begins with our own command."""
        base = self.link if self.link.command is not None else BY_COMMAND
        self._keep(self.kept.added(msgspec.structs.replace(base, name=self.kept.free_name(self.link.name))))

    def remove(self) -> None:
        """Take the chosen link out; one stays."""
        if len(self.kept.items) == 1:
            self._answer("This link is the only one; expected at least one.")
            return
        self._keep(self.kept.without(self.link))

    def try_it(self) -> None:
        """Render one tiny frame of this shot through the chosen link, beside everything else."""
        from hasty_reel.farm.renderers import try_link  # brings the compiler along

        if self._task is not None:
            return
        link, shot = self.link, self._session.shot
        frame = shot.scene_frame(self._session.playhead.frame)
        self._task = task = self._session.background.start(lambda task: try_link(link, shot.scene, frame, task.cancel, task.tell))
        task.done.connect(self._came)
        task.failed.connect(self._answer)
        task.progressed.connect(lambda share, words: self._answer(f"{words[0].upper()}{words[1:]} …"))
        task.ended.connect(self._tried)
        self.trial = None
        self._answer("Rendering one tiny frame …")

    def _came(self, trial: LinkTrial) -> None:
        if trial.greeting is not None:  # what it can is not a matter of choice
            self.trial = None
            now = msgspec.structs.replace(trial.taken_by(self.link), vectors=self.link.vectors, vectors_of_size=self.link.vectors_of_size)
            if now != self.link:
                self._keep(self.kept.changed(self.link, now))
        self.trial = trial
        self._answer(trial.answer)

    @property
    def to_take(self) -> bool:
        """Whether something was found out that the link does not have yet."""
        return self.trial is not None and self.trial.taken_by(self.link) != self.link

    def take(self) -> None:
        """Keep what was found out with the link."""
        if self.trial is not None:
            now = self.trial.taken_by(self.link)
            self.trial = None
            self._keep(self.kept.changed(self.link, now))
            self._answer(self.answer or "Kept with the link. A test shows what it comes to.")

    def read_log(self, text: str) -> None:
        """Look for times in an example of what the renderer prints.

        Parameters
        ----------
        text : some lines, of one frame
        """
        self.found = times_in(text)
        self.changed.emit()

    def take_for(self, place: int, part: str) -> None:
        """Take a number of the example for a part.

        Parameters
        ----------
        place : which of the numbers that were found
        part : of the seconds of a frame, 'progress', or '' for none
        """
        self.found = taken_for(self.found, place, part)
        self.changed.emit()

    def learn(self) -> None:
        """Keep the patterns of the numbers that are taken for something."""
        patterns = patterns_of(self.found)
        if not patterns:
            self._answer("No number is taken for a part; expected one that is taken for the load, the sampling or the total.")
            return
        self._keep(self.kept.changed(self.link, with_patterns(self.link, patterns)))
        self._answer(self.answer or "Learnt. 'Test the link' shows what it comes to.")

    def type_frames(self, text: str) -> None:
        """Set how many frames one start renders as it is typed.

        Parameters
        ----------
        text : a whole number
        """
        if not text.strip().isdigit():
            self._answer(f"Frames of a start '{text[:40]}'; expected a whole number, 1 for each frame by itself.")
            return
        self.change(frames=int(text))

    @property
    def channels_text(self) -> str:
        """Which channels are what, as it is typed; '' where their names tell."""
        return "; ".join(f"{role}={','.join(names) or 'none'}" for role, names in self.link.channels.items())

    def type_channels(self, text: str) -> None:
        """Say which channels are what as it is typed.

        Parameters
        ----------
        text : as 'normal=P.x,P.y,P.z; depth=d'; '' or 'by name' where their names tell
        """
        if text.strip() in ("", BY_NAME):
            self.change(channels={})
            return
        try:
            said = [read_channels_text(part.strip()) for part in text.split(";") if part.strip()]
        except HastyReelError as error:
            self._answer(str(error))
            return
        self.change(channels={role: tuple(names) for one in said for role, names in one.items()})

    def switch_stays(self, stays: bool) -> None:
        """Let it stay open, or be started for each frame.

        Parameters
        ----------
        stays : it stays open
        """
        self.change(stays=stays, can=None, knows=())

    def choose(self, name: str) -> None:
        """Look at another one.

        Parameters
        ----------
        name : of it
        """
        self.trial = None
        super().choose(name)

    def _tried(self) -> None:
        self._task = None
        self.changed.emit()

    def stop(self) -> None:
        """Stop the trial."""
        if self._task is not None:
            self._task.cancel.cancel()
