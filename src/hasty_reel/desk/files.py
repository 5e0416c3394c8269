"""Files of the window: reels opened, saved and gone back to; shots brought in and exported."""

from __future__ import annotations

import re
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QMenu

from hasty_reel.desk.asking import ask_target
from hasty_reel.errors import HastyReelError
from hasty_reel.pictures.foreign import ENDINGS as PICTURES
from hasty_reel.reel.edits import brought_in
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.fresh import fresh_reel
from hasty_reel.reel.incoming import ENDINGS, read_shots
from hasty_reel.reel.keeping import earlier_saves
from hasty_reel.reel.recent import recent_path, recent_reels
from hasty_reel.reel.shottable import write_table
from hasty_reel.reel.timeline import write_timeline
from hasty_reel.reel.untitled import UNTITLED, keep_untitled

if TYPE_CHECKING:
    from hasty_reel.desk.stages.proofs.bringing import BringingPage
    from hasty_reel.desk.window import ReelWindow

REEL_KINDS = {".reel": "Reels"}
SHOTS = "Shots (*.otio *.csv)"
MOST_IN_MENU = 40
"""Shots in the menu: with more, those around the one that is looked at."""


class Files:
    """What the menu of the reel does with files."""

    def __init__(self, window: ReelWindow) -> None:
        self._window = window
        self._session = window.session

    # -- menus

    def fill_shots(self, menu: QMenu) -> None:
        """Shots, each with its layers, to be looked at."""
        session = self._session
        shots = session.reel.shots
        here = next((k for k, s in enumerate(shots) if s.id == session.shot_id.partition(".")[0]), 0)
        first = min(max(0, here - MOST_IN_MENU // 2), max(0, len(shots) - MOST_IN_MENU))
        for shot in shots[first : first + MOST_IN_MENU]:
            for part in (shot, *(shot.as_layers() if shot.layers else ())):
                indent = "" if part is shot else "      "
                entry = menu.addAction(f"{indent}{part.id}  {part.name}, {len(part.frames)} frames")
                entry.setCheckable(True)
                entry.setChecked(part.id == session.shot_id)
                entry.triggered.connect(lambda _=False, s=part.id: session.show_shot(s))

    def fill_recent(self, menu: QMenu) -> None:
        """Reels opened lately."""
        found = [p for p in recent_reels(recent_path()) if p != self._session.path.resolve()]
        for path in found:
            menu.addAction(f"{path.stem}   {path.parent}").triggered.connect(lambda _=False, p=path: self._window.open_reel(p))
        menu.setEnabled(bool(found))

    def fill_saves(self, menu: QMenu) -> None:
        """The last five saves of this reel; going back to one is an edit."""
        found = earlier_saves(self._session.path)
        for path in found:
            when = datetime.strptime(path.name[:19], "%Y-%m-%dT%H-%M-%S")
            menu.addAction(f"{when:%a %d %b %H:%M:%S}").triggered.connect(lambda _=False, p=path: self.go_back(p))
        menu.setEnabled(bool(found))

    # -- reels

    def new(self) -> None:
        """Begin a reel that has no name yet; where it is kept is asked when it is saved."""
        now = datetime.now().astimezone()
        try:
            path = keep_untitled(fresh_reel(UNTITLED, self._session.shot.scene, now), now)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self._window.open_reel(path)

    def open(self) -> None:
        """Ask for a reel and open it."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Open a reel", str(self.near), f"{REEL_KINDS['.reel']} (*.reel)")
        if name:
            self._window.open_reel(Path(name))

    def save(self) -> bool:
        """Save the reel; one without a name is asked for it."""
        return self.save_as() if self._session.untitled else self._session.save()

    def save_as(self) -> bool:
        """Ask for another name and save there."""
        session = self._session
        start = self.near / f"{_file_name(session.reel.name)}.reel" if session.untitled else session.path
        path = ask_target(self._window, "Save the reel as", start, REEL_KINDS, mine=session.path)
        return path is not None and session.save(path)

    @property
    def near(self) -> Path:
        """The folder where a dialog begins: that of the reel, or the person's own."""
        return Path.home() if self._session.untitled else self._session.path.parent

    def go_back(self, path: Path) -> None:
        """Take up an earlier save, as an edit that can be undone."""
        try:
            reel = read_reel(path)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return
        self._session.edit(f"Go back to the save of {path.name[11:19].replace('-', ':')}", reel)

    # -- shots

    def bring_in(self) -> None:
        """Ask for a file with shots and add them."""
        name, _ = QFileDialog.getOpenFileName(self._window, "Bring in shots", str(self.near), SHOTS)
        if name:
            self.take(Path(name))

    def take(self, path: Path) -> None:
        """Open a reel, or add the shots of another file, beside the window's thread."""
        if path.suffix.lower() == ".reel":
            self._window.open_reel(path)
            return
        if path.suffix.lower() in PICTURES:
            self.bring_frames(path)
            return
        if path.suffix.lower() not in ENDINGS:
            self._session.said.emit(f"{path}: expected a reel, a picture of a sequence, or a file ending in {' or '.join(ENDINGS)}.")
            return
        session = self._session
        reel = session.reel
        job = session.jobs.start(lambda job: read_shots(path, reel))
        job.done.connect(lambda shots: session.do(f"Bring in {len(shots)} shots", lambda now: brought_in(now, shots)))
        job.failed.connect(session.said)

    def ask_frames(self) -> None:
        """Ask for one picture of a sequence and bring the sequence in."""
        kinds = f"Pictures ({' '.join('*' + e for e in PICTURES)})"
        name, _ = QFileDialog.getOpenFileName(self._window, "One picture of the sequence", str(self.near), kinds)
        if name:
            self.bring_frames(Path(name))

    def bring_frames(self, path: Path) -> BringingPage | None:
        """Open the page that brings the sequence of a picture in as a proof."""
        from hasty_reel.desk.stages.proofs.bringing import BringingPage
        from hasty_reel.farm.bringin import pattern_of, sequences_in

        try:
            pattern = sequences_in([path])[0] if path.is_file() else pattern_of(path)
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return None
        except IndexError:
            pattern = pattern_of(path)
        page = BringingPage(self._session, pattern, self._window)
        page.open()
        return page

    def export(self) -> None:
        """Ask for a file and write the shots with their plan."""
        start = self.near / f"{_file_name(self._session.reel.name)}.otio"
        path = ask_target(self._window, "Export shots", start, {".otio": "OpenTimelineIO", ".csv": "CSV table"})
        if path is not None:
            self.export_to(path)

    def export_to(self, path: Path) -> None:
        """Write the shots with their plan; the ending says as what."""
        session = self._session
        reel, outlook = session.reel, session.outlook
        seconds = {s.id: t for s in reel.shots if (t := outlook.seconds_of(s)) is not None}
        write = write_table if path.suffix.lower() == ".csv" else write_timeline
        job = session.jobs.start(lambda job: write(path, reel, seconds))
        job.done.connect(lambda _: session.said.emit(f"{len(reel.shots)} shots written to {path.name}."))
        job.failed.connect(session.said)


def _file_name(name: str) -> str:
    """A name of a reel as one of a file."""
    return re.sub(r"[^\w.-]+", "-", name).strip("-.").lower()[:60] or "reel"
