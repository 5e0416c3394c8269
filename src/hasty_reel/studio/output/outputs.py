"""What finished frames are handed over as: format, colour, options, name, and what it weighs."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.handover.deliver import Delivered, Delivery, deliver, form_named
from hasty_reel.handover.films import FilmFormat
from hasty_reel.handover.names import USUAL_FILM, USUAL_PICTURES, Naming, checked_pattern, collisions, filled_name, next_version, target_of
from hasty_reel.pictures.colourspaces import OUTPUTS, output_named
from hasty_reel.pictures.finite import replaced_words
from hasty_reel.pictures.outputs import PictureFormat
from hasty_reel.reel.bytewords import bytes_text
from hasty_reel.reel.frames import write_frames
from hasty_reel.run.framestate import FINISHED
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.output.weighing import Weighing, free_bytes, shown_forms, usual_delivery
from hasty_reel.studio.run.final import FinalFrames
from hasty_reel.typednumbers import read_number

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

NEARLY_FULL = 1.1
"""Times the bytes of a delivery that must be free, so that nothing else is pushed off the disk."""


class OutputsModel:
    """One delivery of the shot that is looked at. changed() : something of it; weighing : what it weighs in each format.

    how : format, colour and options; folder : where it goes; patterns : of names, of pictures and of films
    words : what was handed over, or is being; waiting : deliveries that follow

    Parameters
    ----------
    session : the open reel
    final : the run whose frames are handed over
    """

    changed = Signal()

    def __init__(self, session: Session, final: FinalFrames) -> None:
        self._session, self._final = session, final
        self.weighing = Weighing(session)
        self.how: Delivery = usual_delivery(form_named("exr-half"))
        self.patterns = {False: USUAL_PICTURES, True: USUAL_FILM}
        self.folder = self._usual_folder()
        self.words = ""
        self.made: Path | None = None
        self._target: Path | None = None
        self._task: BackgroundTask | None = None
        self.waiting: list[tuple[Delivery, Path]] = []
        for signal in (final.changed, session.reel_changed, session.playhead.shot_changed, self.weighing.changed):
            signal.connect(self.changed)
        session.path_changed.connect(self._moved)

    def _usual_folder(self) -> Path:
        session = self._session
        return Path.home() / "hasty-reel-delivery" if session.untitled else session.path.parent / "delivery"

    def _moved(self) -> None:
        self.folder = self._usual_folder()
        self.changed.emit()

    # -- what is chosen

    @property
    def forms(self) -> list[PictureFormat | FilmFormat]:
        """The formats there are here."""
        return shown_forms()

    @property
    def film(self) -> bool:
        """Whether all frames go into one file."""
        return isinstance(self.how.form, FilmFormat)

    @property
    def colours(self) -> list[str]:
        """What light can be written as in the chosen format."""
        light = isinstance(self.how.form, PictureFormat) and self.how.form.light
        return [o.name for o in OUTPUTS if light or not o.light]

    def choose(self, key: str) -> None:
        """Hand over in a format, with its usual colour and options.

        Parameters
        ----------
        key : of the format
        """
        self.how = usual_delivery(form_named(key))
        self.changed.emit()

    def choose_colour(self, name: str) -> None:
        """Write light as something else.

        Parameters
        ----------
        name : of the colour
        """
        self._take(replace(self.how, colour=output_named(name)))

    def choose_compression(self, name: str) -> None:
        """Compress pictures otherwise.

        Parameters
        ----------
        name : of the compression
        """
        self._take(replace(self.how, picture=replace(self.how.picture, compression=name, level=None)))

    def choose_layers(self, on: bool) -> None:
        """Keep the guides beside the colour, or leave them out.

        Parameters
        ----------
        on : whether they are kept
        """
        self._take(replace(self.how, picture=replace(self.how.picture, layers=on)))

    def choose_window(self, on: bool) -> None:
        """Keep of each picture the part alone that is not empty, or all of it.

        Parameters
        ----------
        on : whether the part alone is kept
        """
        self._take(replace(self.how, picture=replace(self.how.picture, window=on)))

    def type_quality(self, text: str) -> None:
        """Set the quality of the coder; what is none is said, and nothing changes.

        Parameters
        ----------
        text : as typed; '' for the usual
        """
        try:
            value = read_number(text)
        except ValueError:
            self._session.said.emit(f"Quality: '{text[:40]}'; expected a whole number.")
            self.changed.emit()
            return
        chosen = None if value is None else int(value)
        if self.film:
            self._take(replace(self.how, film=replace(self.how.film, quality=chosen)))
        else:
            self._take(replace(self.how, picture=replace(self.how.picture, quality=chosen)))

    def type_gop(self, text: str) -> None:
        """Set the frames between key frames of a film; what is no number is said, and nothing changes.

        Parameters
        ----------
        text : as typed
        """
        try:
            value = read_number(text) or 0
            self._take(replace(self.how, film=replace(self.how.film, gop=int(value))))
        except ValueError:
            self._session.said.emit(f"Key frames: '{text[:40]}'; expected a whole number.")
            self.changed.emit()

    def _take(self, how: Delivery) -> None:
        try:
            self.how = how.checked()
        except WrongInput as error:
            self._session.said.emit(str(error))
        self.changed.emit()

    # -- where it goes

    @property
    def pattern(self) -> str:
        """The pattern of names of what is chosen."""
        return self.patterns[self.film]

    def type_pattern(self, text: str) -> None:
        """Name files by another pattern; one by which none can be named is said, and nothing changes.

        Parameters
        ----------
        text : with places such as {shot}, {version}, {frame}
        """
        try:
            self.patterns[self.film] = checked_pattern(text.strip(), self.film)
        except WrongInput as error:
            self._session.said.emit(str(error))
        self.changed.emit()

    def set_folder(self, folder: Path) -> None:
        """Hand over into another folder.

        Parameters
        ----------
        folder : where files go
        """
        self.folder = folder
        self.changed.emit()

    @property
    def naming(self) -> Naming:
        """What fills the places of a name."""
        shot, layer = self._session.shot, ""
        whole, _, layer = shot.id.partition(".")
        return Naming(whole, self._session.recipe.name, self._session.reel.name, layer)

    @property
    def version(self) -> int:
        """The next version: what is there is kept."""
        return next_version(self.folder, self.pattern, self.how.form.ending, self.naming)

    @property
    def example(self) -> str:
        """The name of the first file, and what stands in the way of it."""
        shot, ending = self._session.shot, self.how.form.ending
        name = filled_name(self.pattern, self.naming, self.version, f"{shot.begin:04d}")
        return f"{name}{ending}" if self.film else f"{name}{ending} … {shot.past - 1}"

    @property
    def warnings(self) -> list[str]:
        """What is lost, and shots whose files would have the same names."""
        reel = self._session.reel
        namings = [Naming(t.id.partition(".")[0], reel.recipe_of(t).name, reel.name, t.id.partition(".")[2]) for t in reel.tasks]
        same = collisions(self.pattern, namings)
        told = [f"{a} and {b} would have the same names: add {{shot}} or {{layer}}." for a, b in same[:1]]
        return [*told, *self.how.warnings]

    # -- what it weighs

    def weight(self, key: str) -> tuple[str, str]:
        """Return what a frame and the shot weigh in a format, in words.

        Parameters
        ----------
        key : of the format

        Returns
        -------
        frame
            Of one frame; '' where it is not known.
        shot
            Of the whole shot.
        """
        found = self.weighing.found
        weight = None if found is None else found.weights.get(key)
        if weight is None:
            return "", ""
        likely, _ = weight.of(len(self._session.shot.frames))
        return bytes_text(weight.bytes), bytes_text(likely)

    @property
    def room_words(self) -> str:
        """What the delivery takes and what is free, in a sentence."""
        free, found = free_bytes(self.folder), self.weighing.found
        weight = None if found is None else found.weights.get(self.how.form.key)
        if weight is None or found is None:
            known = "Measuring what it weighs …" if self.weighing.stale else "No proof with two seeds tells what it weighs."
            return f"{known} {bytes_text(free)} are free."
        likely, most = weight.of(len(self._session.shot.frames))
        told = (
            f"About {bytes_text(likely)}, at most {bytes_text(most)} nine times in ten, by {weight.frames} frames of {weight.width} pixels"
        )
        if free < most * NEARLY_FULL:
            return f"{told}; only {bytes_text(free)} are free: that may not be enough."
        return f"{told}; {bytes_text(free)} are free."

    # -- doing it

    @property
    def busy(self) -> bool:
        """Whether frames are being handed over."""
        return self._task is not None

    @property
    def ready(self) -> bool:
        """Whether there are frames to hand over now."""
        return bool(self._final.finished) and not self._final.busy

    def hand_over(self) -> None:
        """Hand the finished frames over under the next version, or after what is handed over now; with holes nothing is made."""
        run, session = self._final.run, self._session
        if run is None or not self.ready:
            return
        frames = [f for f, s in run.states.items() if s == FINISHED]
        wanted = [f for f in session.shot.frames if frames[0] <= f <= frames[-1]]
        gaps = sorted(set(wanted) - set(frames))
        if gaps:
            session.said.emit(f"Frames {write_frames(gaps)} are not finished; what has holes is not handed over.")
            return
        try:
            target = target_of(self.folder, self.pattern, self.how.form.ending, self.naming, self.version)
            if free_bytes(self.folder) < self._most_bytes(len(frames)):
                raise WrongInput(f"{self.folder}: {self.room_words}")
        except HastyReelError as error:
            session.said.emit(str(error))
            return
        if target in (t for _, t in self.waiting) or (self.busy and target == self._target):
            session.said.emit(f"{target.name} is being handed over already.")
            return
        shows = session.reel.panorama
        around = shows is not None and (shows.width, shows.height) == (360, 180)
        self.waiting.append((replace(self.how, panorama=around), target))
        self._next()

    def _next(self) -> None:
        run, session = self._final.run, self._session
        if self.busy or not self.waiting or run is None:
            self.changed.emit()
            return
        how, target = self.waiting.pop(0)
        self._target = target
        frames, fps, source = [f for f, s in run.states.items() if s == FINISHED], session.reel.fps, run.folder.final
        self._task = task = session.background.start(
            lambda task: deliver(source, str(target), fps, how, False, frames, task.tell, task.cancel)
        )
        task.progressed.connect(lambda share, words: self._say(f"Handing over {target.name}: {words}"))
        task.done.connect(lambda done: self._delivered(done, target))
        task.failed.connect(session.said)
        task.ended.connect(self._ended)
        self._say(f"Handing over {target.name} …")

    def _most_bytes(self, frames: int) -> float:
        found = self.weighing.found
        weight = None if found is None else found.weights.get(self.how.form.key)
        return 0.0 if weight is None else weight.of(frames)[1]

    def stop(self) -> None:
        """Stop handing over; a film that is not whole is not left behind, and what waits is not begun."""
        self.waiting = []
        if self._task is not None:
            self._task.cancel.cancel()

    def _delivered(self, done: Delivered, target: Path) -> None:
        self.made = target
        self._say(f"{len(done.frames)} frames handed over: {target}")
        if done.replaced:
            self._session.said.emit(replaced_words(done.replaced))

    def _say(self, words: str) -> None:
        self.words = words
        self.changed.emit()

    def _ended(self) -> None:
        self._task = None
        if self.words.startswith("Handing over"):
            self.words = ""
        self._next()
