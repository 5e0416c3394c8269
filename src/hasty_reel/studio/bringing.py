"""Frames rendered elsewhere: what they are, where their times are told, brought in as a proof."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.evidence.proof import Proof
from hasty_reel.farm.bringin import Bringing, bring_in
from hasty_reel.farm.patternof import guess_pair, other_sizes
from hasty_reel.farm.times import Times, read_log, read_times, times_of_files
from hasty_reel.pictures.foreign import ROLES, Channels, colour_layers, guess_channels, is_coded, read_channels_text
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
    second : the same frames in another size, brought in with it as a proof of its own; None for none
    sizes : such sequences beside it, each with width and height in pixels
    layers : of its files that hold colour, by name
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
        self.sizes = other_sizes(pattern)
        self.second: FramePattern | None = None
        self.layers: Channels = {}
        self._by_dates = False
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
            self.channels, self.layers = guess_channels(self.names), colour_layers(self.names)
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

    @property
    def second_words(self) -> str:
        """The sequence of another size that comes with it, in words."""
        if self.second is None:
            return "none" if self.sizes else "none found beside it"
        return next(self.size_words(k) for k, (pattern, _) in enumerate(self.sizes) if pattern == self.second)

    def size_words(self, place: int) -> str:
        """Return a sequence of another size in words.

        Parameters
        ----------
        place : in `sizes`
        """
        pattern, (width, height) = self.sizes[place]
        return f"{width}x{height}: {pattern.folder.name}/{_name(pattern)}"

    def choose_second(self, place: int | None) -> None:
        """Choose a sequence of another size.

        Parameters
        ----------
        place : in `sizes`; None for none
        """
        self.second = None if place is None else self.sizes[place][0]
        self._say("")

    @property
    def layer(self) -> str | None:
        """The layer whose colour is brought in, None for channels of no layer alone."""
        return next((name for name, members in self.layers.items() if members == self.channels.get("colour")), None)

    def choose_layer(self, name: str) -> None:
        """Choose the layer whose colour is brought in.

        Parameters
        ----------
        name : one of `layers`
        """
        self.channels = {**self.channels, "colour": self.layers[name]}
        self._say("")

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
        self._by_dates = False
        self.times_words = f"{len(self._times.seconds)} frames told by {path.name}"
        self._say("")

    def take_dates(self) -> None:
        """Tell times by the moments at which the files were written."""
        try:
            self._times, pauses = times_of_files({f: self.pattern.path(f) for f in self._inside})
        except (HastyReelError, OSError) as error:
            self._say(str(error))
            return
        self._by_dates = True
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
        both = [what]
        if (other := self.second) is not None:
            # a table or a log is of the sequence that it was chosen for
            inside = {f: other.path(f) for f in other.frames() if session.shot.begin <= f < session.shot.past}
            try:
                times = times_of_files(inside)[0] if self._by_dates else Times()
            except (HastyReelError, OSError) as error:
                self._say(str(error))
                return
            both.append(replace(what, pattern=other, pair=guess_pair(other), times=times))

        def _bring(task: BackgroundTask) -> list[tuple[Proof, list[str]]]:
            done = []
            for k, one in enumerate(both):

                def _tell(share: float, words: str, before: int = k) -> None:
                    task.tell((before + share) / len(both), words)

                done.append(bring_in(root, one, _tell, task.cancel))
            return done

        self._task = task = session.background.start(_bring)
        task.progressed.connect(lambda share, words: self._say(f"{100 * share:.0f} %, {words}"))
        task.done.connect(self._done)
        task.failed.connect(self._failed)
        self.changed.emit()

    def _done(self, brought: list[tuple[Proof, list[str]]]) -> None:
        self._task = None
        self._session.read_evidence()
        told = [f"{len(proof.by_frame())} frames brought in as proof {proof.id}." for proof, _ in brought]
        self._session.said.emit(" ".join([*told, *[w for _, words in brought for w in words][:MOST_WORDS]]))
        self.brought.emit(brought[0][0].id)

    def _failed(self, words: str) -> None:
        self._task = None
        self._say(words)


def _name(pattern: FramePattern) -> str:
    return f"{pattern.before}{'#' * pattern.digits}{pattern.after}"
