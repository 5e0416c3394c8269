"""The final frames of the shot: where they go, which of them are there, and rendering the rest by the plan."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import read_frames, write_frames
from hasty_reel.run.account import Account, account_of
from hasty_reel.run.framestate import FAILED, FINISHED, OTHER, RENDERED, WAITING
from hasty_reel.run.journal import read_journal
from hasty_reel.run.shotrun import Run
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.studio.run.atwork import FramesAtWork

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


class FinalFrames:
    """The run of the shot that is looked at.

    folder : where its frames go; frames_text : which are rendered; run : how they stand, None while it is not known
    note : how it stands, in words; confirmed : frames made with other settings may be overwritten
    changed() : something of this; grown(frame, state, codes) : a picture came, as (h, w, 3) display codes
    frames_changed(Path) : other frames are finished in this folder

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()
    grown = Signal(int, str, object)
    frames_changed = Signal(object)

    def __init__(self, session: Session) -> None:
        self._session = session
        self.work = FramesAtWork(session)
        self.account = Account()
        self._looking: BackgroundTask | None = None
        self._look_again = False
        self._finished: tuple = (session.playhead.shot_id, None, frozenset())
        self.confirmed = False
        self.run: Run | None = None
        self.frames_text = ""
        self.folder = self._usual_folder()
        session.playhead.shot_changed.connect(self._other_shot)
        session.playhead.selection_changed.connect(self._take_selection)
        session.path_changed.connect(self._moved)
        session.planner.plan_changed.connect(self.look)
        session.own.draft_changed.connect(self.changed)
        self.work.changed.connect(self.changed)
        self.work.grown.connect(self.grown)
        self.work.ended.connect(self._ended)
        session.trial_changed.connect(self.changed)
        self._other_shot()
        if session.playhead.selection is not None:
            self._take_selection()

    # -- which frames, and where

    @property
    def busy(self) -> bool:
        """Whether frames are being rendered."""
        return self.work.busy

    def _other_shot(self) -> None:
        self.frames_text = write_frames(self._session.shot.frames)
        self.confirmed = False
        self.look()

    def _take_selection(self) -> None:
        shot, selection = self._session.shot, self._session.playhead.selection
        if selection is None:
            self.frames_text = write_frames(shot.frames)
        else:
            low, high = selection
            chosen = [f for f in shot.frames if low <= f <= high]
            self.frames_text = write_frames(chosen or [shot.nearest(low)])
        self.look()

    def type_frames(self, text: str) -> None:
        """Render these frames; what is not in the shot is said, and nothing changes.

        Parameters
        ----------
        text : a set of frames; '' for all of the shot
        """
        shot = self._session.shot
        try:
            frames = read_frames(text) if text else tuple(shot.frames)
            outside = [f for f in frames if f not in shot.frames]
            if outside:
                raise HastyReelError(f"Frame {outside[0]} is not in {shot.id}; expected {write_frames(shot.frames)}.")
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self.frames_text = write_frames(frames)
        self.look()

    def _usual_folder(self) -> Path:
        """Where frames go unless another folder is chosen: beside the reel, or with the person while it has no name."""
        session = self._session
        self._usual = Path.home() / "hasty-reel-frames" if session.untitled else session.path.parent / "frames"
        return self._usual

    def _moved(self) -> None:
        """The reel lies elsewhere now: its usual folder goes with it, a chosen one stays."""
        usual = self._usual
        if self.folder == usual and not self.busy and not usual.exists():
            self.set_folder(self._usual_folder())

    def set_folder(self, folder: Path) -> None:
        """Render into another folder.

        Parameters
        ----------
        folder : where frames go
        """
        self.folder = folder
        self.confirmed = False
        self.look()

    # -- how they stand

    def look(self) -> None:
        """Look into the folder beside everything else: which frames are there, in which state."""
        if self._here:
            self.changed.emit()
            return
        if self._looking is not None:
            self._look_again = True
            return
        session = self._session
        plan = session.plan
        shot = session.shot
        if any(f not in shot.frames for f in read_frames(self.frames_text)):  # the shot was cut otherwise meanwhile
            self.frames_text = write_frames(shot.frames)
        if plan is None:
            self.run = None
            self.changed.emit()
            return
        reel, folder, frames, link = session.reel, self.folder, self.frames_text, session.own.links.current

        def _look(task: BackgroundTask) -> tuple[Run, Account]:
            from hasty_reel.farm.renderers import renderer_of  # brings the compiler along

            run = Run(reel, plan, folder, list(read_frames(frames)), renderer_of(link))
            return run, account_of(read_journal(run.folder.final.folder), run.states)

        self._looking = task = session.background.start(_look)
        task.done.connect(self._looked)
        task.failed.connect(self._cannot)
        task.ended.connect(self._look_ended)
        self.changed.emit()

    def _looked(self, found: tuple[Run, Account]) -> None:
        if self._here:
            return
        run, self.account = found
        self.run = run
        self.changed.emit()
        finished = (self._session.playhead.shot_id, self.folder, frozenset(f for f, s in run.states.items() if s == FINISHED))
        if finished != self._finished:
            nothing = not finished[2] and not self._finished[2]  # no frames before, and none now
            self._finished = finished
            if not nothing:
                self.frames_changed.emit(self.folder)

    def _cannot(self, words: str) -> None:
        """No run as it is planned now: the one before must not be taken for it."""
        self.run = None
        self._session.said.emit(words)
        self.changed.emit()

    def _look_ended(self) -> None:
        self._looking = None
        if self._look_again:
            self._look_again = False
            self.look()

    # -- rendering

    def go(self) -> None:
        """Render what is not finished yet; frames made with other settings only once that is confirmed."""
        run = self.run
        if self.busy or run is None or self._kept_back:
            return
        if run.count(OTHER) and not self.confirmed:
            self.changed.emit()
            return
        self.confirmed = False
        self.work.begin(run)

    def rehearse(self) -> None:
        """Play the night with simulated machines: nothing of it is kept."""
        if self.run is not None and not self.busy:
            self.work.rehearse(self.run)

    def confirm(self) -> None:
        """Overwrite frames made with other settings, and go."""
        self.confirmed = True
        self.go()

    def stop(self) -> None:
        """Stop at once; finished frames stay, the rest can be gone on with."""
        self.work.stop()

    def set_aside(self) -> None:
        """Choose the frames that are to be rendered again."""
        if self.account.again:
            self.frames_text = write_frames(self.account.again)
            self.look()

    def _ended(self) -> None:
        self.look()

    @property
    def shown(self) -> Run | None:
        """The run whose frames are in sight: the one of this shot that is under way, or that on disk."""
        return self.work.run if self._here else self.run

    @property
    def _here(self) -> bool:
        """Whether what is under way is of the shot that is looked at."""
        return self.busy and self.work.run is not None and self.work.run.shot.id == self._session.playhead.shot_id

    # -- in words

    @property
    def _kept_back(self) -> str:
        """Why finals cannot start, in words; '' where they can."""
        if self._session.own.draft_on:
            return "Draft cuts are on: finals cannot start. Switch them off at the recipe."
        return "Settings are only tried: keep or drop them before finals start." if self._session.history.trying else ""

    @property
    def held_back(self) -> bool:
        """Whether finals cannot start now."""
        return bool(self._kept_back)

    @property
    def finished(self) -> int:
        """How many frames are finished."""
        return 0 if self.shown is None else self.shown.count(FINISHED)

    @property
    def share(self) -> float:
        """Share of the planned seconds that is done, 0 to 1."""
        return 0.0 if self.shown is None else self.shown.share_done

    @property
    def may_go(self) -> bool:
        """Whether there is something to render, and nothing in its way."""
        run = self.run
        return run is not None and not self._kept_back and not run.count(OTHER) and left_of(run) > 0

    @property
    def asks(self) -> bool:
        """Whether frames made with other settings are in the way, and it is asked about them."""
        return self.run is not None and bool(self.run.count(OTHER)) and not self.busy and not self._kept_back

    @property
    def button(self) -> str:
        """What the button says that renders."""
        return "Go on" if self.run is not None and (self.finished or self.run.count(RENDERED)) else "Render frames"

    @property
    def note(self) -> str:
        """How it stands, in words."""
        run, finished = self.shown, self.finished
        if run is None:
            return self._session.lack or "Reading the proofs …"
        count, other, left = len(run.frames), run.count(OTHER), left_of(run)
        if self._here:
            return self._busy_note(run, finished, count)
        if self.busy and self.work.run is not None:
            under_way = f"{self.work.run.shot.id} is being rendered, {spoken(self.work.run.left.middle)} left"
            return f"{under_way}; here {finished} of {count} frames are finished."
        if self._kept_back:
            words = self._kept_back
        elif other:
            words = f"{other} {'frame was' if other == 1 else 'frames were'} made with other settings and would be overwritten."
        elif left == 0:
            words = f"All {count} frames are finished."
        elif finished:
            words = f"{finished} of {count} frames finished; the other {left} take about {spoken(run.seconds_left)} on this machine."
        else:
            words = f"{count} frames, about {spoken(run.seconds_left)} on this machine alone."
        return words + (f" {len(run.faults)} failed." if run.faults else "")

    def _busy_note(self, run: Run, finished: int, count: int) -> str:
        work, left = self.work, run.left
        if work.words:
            return work.words
        what = "Rehearsal: " if work.rehearsal else ""
        how = ", paused: no new frame begins" if work.paused else ", ends after the frames under way" if work.ending else ""
        between = f" ({spoken(left.low)} to {spoken(left.high)} eight times in ten)" if left.middle > 0 else ""
        late = f"; late with a chance of {100 * run.late:.0f} %" if run.late > 0.005 else ""
        late += f"; then {', '.join(r.shot.id for r in work.waiting)}" if work.waiting else ""
        return f"{what}{finished} of {count} frames finished, about {spoken(left.middle)} left{between}{late}{how}"

    def picture_of(self, frame: int) -> tuple[Path | None, str]:
        """Return where the picture of a frame is, and how the frame stands.

        Parameters
        ----------
        frame : as the shot numbers it

        Returns
        -------
        path
            Of its picture; None where there is none
        state
            In words
        """
        state = "" if self.run is None else self.run.states.get(frame, "")
        if self.run is None or state not in (FINISHED, RENDERED):
            return None, state
        folder = self.run.folder
        return (folder.final if state == FINISHED else folder.rendered).path(frame), state


def left_of(run: Run) -> int:
    """Return how many frames of a run are not finished.

    Parameters
    ----------
    run : its frames and how they stand
    """
    return run.count(WAITING) + run.count(RENDERED) + run.count(OTHER) + run.count(FAILED)
