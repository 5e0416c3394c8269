"""Frames rendered elsewhere: what they are, where their times are told, brought in as a proof."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.evidence.proof import Proof
from hasty_reel.farm.bringin import Bringing, bring_in
from hasty_reel.farm.patternof import guess_pair
from hasty_reel.farm.times import Times, read_log, read_times, times_of_files
from hasty_reel.pictures.foreign import ROLES, Channels, guess_channels, is_coded, read_channels_text
from hasty_reel.pictures.frame import read_planes
from hasty_reel.pictures.sequence import FramePattern
from hasty_reel.reel.frames import write_frames
from hasty_reel.studio.background import BackgroundTask

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

LOG_EXAMPLE = r"frame (?P<frame>\d+).*?(?P<seconds>[\d.]+) s"
MOST_SAMPLES = 1 << 20
MOST_WORDS = 2


class BringingModel:
    """One sequence; what is guessed of it can be corrected.

    frames_words, pair_words : which frames of the shot it has, and which sequence is the other seed
    names : of the channels of its files; channels : what is which; coded : whether colour holds display codes
    samples : per pixel, 0 while not told; times_words : where the times are told; fault : what is wrong, '' for nothing
    changed() : something of this; brought(str) : it is a proof now, of this id

    Parameters
    ----------
    session : the open reel
    pattern : of its files
    """

    changed = Signal()
    brought = Signal(str)

    def __init__(self, session: Session, pattern: FramePattern) -> None:
        self._session, self.pattern = session, pattern
        self._task: BackgroundTask | None = None
        self._times = Times()
        self.pair = guess_pair(pattern)
        self.names: list[str] = []
        self.channels: Channels = {}
        self.coded, self.samples = False, 0
        self.fault = ""
        self.times_words = "from the heads of the files, where they tell them"
        self.log_pattern = LOG_EXAMPLE
        shot = session.shot
        there = pattern.frames()
        self._inside = [f for f in there if shot.begin <= f < shot.past]
        self._look(pattern.path((self._inside or there)[0]) if there else None)
        which = (
            f"{write_frames(self._inside)} of {shot.id}"
            if self._inside
            else f"none of {shot.id} ({shot.begin}–{shot.past - 1}) among {len(there)}"
        )
        self.frames_words = f"{pattern.folder.name}/{_name(pattern)}: {which}"
        self.pair_words = "none: noise is not measured" if self.pair is None else _name(self.pair)

    def _look(self, first: Path | None) -> None:
        try:
            if first is None:
                raise WrongInput(f"{self.pattern}: no frames there.")
            _, self.names, head = read_planes(first)
            self.channels = guess_channels(self.names)
            self.coded = is_coded(first, head)
            told = head.get("hr:samples")
            self.samples = int(told) if isinstance(told, int | float) else 0
        except HastyReelError as error:
            self.fault = str(error)

    @property
    def may_bring(self) -> bool:
        """Whether it can be brought in now."""
        return bool(self._inside) and bool(self.names) and self._task is None

    def channels_text(self, role: str) -> str:
        """Return the channels of a role as they are written.

        Parameters
        ----------
        role : one of `ROLES`

        Returns
        -------
        str
            Names, or 'none'.
        """
        return ", ".join(self.channels.get(role, ())) or "none"

    def _say(self, fault: str) -> None:
        self.fault = fault
        self.changed.emit()

    def type_samples(self, text: str) -> None:
        """Set the samples per pixel as they are typed.

        Parameters
        ----------
        text : a whole number
        """
        if not text.isdigit() or not 1 <= int(text) <= MOST_SAMPLES:
            self._say(f"Samples '{text[:20]}'; expected 1 to {MOST_SAMPLES}.")
            return
        self.samples = int(text)
        self._say("")

    def type_channels(self, role: str, text: str) -> None:
        """Say which channels a role has.

        Parameters
        ----------
        role : one of `ROLES`
        text : names, or 'none'
        """
        try:
            found = read_channels_text(f"{role}={text}")
            missing = [n for n in found[role] if n not in self.names]
            if missing:
                raise WrongInput(f"No channel '{missing[0][:40]}'; there are {', '.join(self.names)[:200]}.")
        except HastyReelError as error:
            self._say(str(error))
            return
        self.channels = {**self.channels, **found}
        self._say("")

    def take_times(self, path: Path) -> None:
        """Read times from a table or a log.

        Parameters
        ----------
        path : a CSV table, or a text log that is read by `log_pattern`
        """
        try:
            self._times = read_times(path) if path.suffix.lower() == ".csv" else read_log(path, self.log_pattern)
        except HastyReelError as error:
            self._say(str(error))
            return
        self.times_words = f"{len(self._times.seconds)} frames told by {path.name}"
        self._say("")

    def take_dates(self) -> None:
        """Tell times by the moments at which the files were written."""
        try:
            self._times, pauses = times_of_files({f: self.pattern.path(f) for f in self._inside})
        except (HastyReelError, OSError) as error:
            self._say(str(error))
            return
        told = f"{len(self._times.seconds)} frames by their files' dates, as if rendered one after another"
        self.times_words = told + (f"; {pauses} after a pause tell nothing" if pauses else "")
        self._say("")

    def bring(self) -> None:
        """Bring the frames in, beside everything else."""
        if self._task is not None:
            return
        session = self._session
        what = Bringing(
            session.shot,
            session.recipe,
            self.pattern,
            self.pair,
            self.samples or None,
            {role: self.channels.get(role, ()) for role in ROLES},
            self.coded,
            self._times,
        )
        root = session.proofs_root
        self._task = task = session.background.start(lambda task: bring_in(root, what, task.tell, task.cancel))
        task.progressed.connect(lambda share, words: self._say(f"{100 * share:.0f} %, {words}"))
        task.done.connect(self._done)
        task.failed.connect(self._failed)
        self.changed.emit()

    def _done(self, thing: tuple[Proof, list[str]]) -> None:
        proof, words = thing
        self._task = None
        self._session.read_evidence()
        count = len(proof.by_frame())
        self._session.said.emit(" ".join([f"{count} frames brought in as proof {proof.id}.", *words[:MOST_WORDS]]))
        self.brought.emit(proof.id)

    def _failed(self, words: str) -> None:
        self._task = None
        self._say(words)


def _name(pattern: FramePattern) -> str:
    return f"{pattern.before}{'#' * pattern.digits}{pattern.after}"
