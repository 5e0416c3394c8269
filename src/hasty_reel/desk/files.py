"""Files of the window: reels opened, saved and gone back to; shots brought in and exported."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QMenu, QWidget

from hasty_reel.desk.asking import ask_target
from hasty_reel.own.recentreels import recent_path, recent_reels
from hasty_reel.pictures.foreign import ENDINGS as PICTURES
from hasty_reel.reel.saves import earlier_saves
from hasty_reel.studio.reelfiles import (
    begin_untitled,
    bring_in_shots,
    export_shots,
    file_name,
    go_back,
    kind_of_file,
    sequence_of,
    unknown_words,
)
from hasty_reel.studio.session import Session

if TYPE_CHECKING:
    from hasty_reel.desk.stages.proofs.bringing import BringingPage

REEL_KINDS = {".reel": "Reels"}
SHOTS = "Shots (*.otio *.csv)"
MOST_IN_MENU = 40
"""Shots in the menu: with more, those around the one that is looked at."""


class Files:
    """What the menu of the reel does with files; `open_reel` opens another reel in place of this one."""

    def __init__(self, session: Session, window: QWidget, open_reel: Callable[[Path], object]) -> None:
        self._session, self._window, self._open_reel = session, window, open_reel

    # -- menus

    def fill_shots(self, menu: QMenu) -> None:
        """Shots, each with its layers, to be looked at."""
        session = self._session
        shots, playhead = session.reel.shots, session.playhead
        here = next((k for k, s in enumerate(shots) if s.id == playhead.whole_id), 0)
        first = min(max(0, here - MOST_IN_MENU // 2), max(0, len(shots) - MOST_IN_MENU))
        for shot in shots[first : first + MOST_IN_MENU]:
            for part in (shot, *(shot.as_layers() if shot.layers else ())):
                indent = "" if part is shot else "      "
                entry = menu.addAction(f"{indent}{part.id}  {part.name}, {len(part.frames)} frames")
                entry.setCheckable(True)
                entry.setChecked(part.id == playhead.shot_id)
                entry.triggered.connect(lambda _=False, s=part.id: playhead.show_shot(s))

    def fill_recent(self, menu: QMenu) -> None:
        """Reels opened lately."""
        found = [p for p in recent_reels(recent_path()) if p != self._session.path.resolve()]
        for path in found:
            menu.addAction(f"{path.stem}   {path.parent}").triggered.connect(lambda _=False, p=path: self._open_reel(p))
        menu.setEnabled(bool(found))

    def fill_saves(self, menu: QMenu) -> None:
        """The last five saves of this reel; going back to one is an edit."""
        found = earlier_saves(self._session.path)
        for path in found:
            when = datetime.strptime(path.name[:19], "%Y-%m-%dT%H-%M-%S")
            menu.addAction(f"{when:%a %d %b %H:%M:%S}").triggered.connect(lambda _=False, p=path: go_back(self._session, p))
        menu.setEnabled(bool(found))

    # -- reels

    def new(self) -> None:
        """Begin a reel that has no name yet; where it is kept is asked when it is saved."""
        path = begin_untitled(self._session)
        if path is not None:
            self._open_reel(path)

    def open(self) -> None:
        """Ask for a reel and open it."""
        self._ask("Open a reel", f"{REEL_KINDS['.reel']} (*.reel)", self._open_reel)

    def _ask(self, title: str, kinds: str, act: Callable[[Path], object]) -> None:
        name, _ = QFileDialog.getOpenFileName(self._window, title, str(self.near), kinds)
        if name:
            act(Path(name))

    def save(self) -> bool:
        """Save the reel; one without a name is asked for it."""
        return self.save_as() if self._session.untitled else self._session.save()

    def save_as(self) -> bool:
        """Ask for another name and save there."""
        session = self._session
        start = self.near / f"{file_name(session.reel.name)}.reel" if session.untitled else session.path
        path = ask_target(self._window, "Save the reel as", start, REEL_KINDS, mine=session.path)
        return path is not None and session.save(path)

    @property
    def near(self) -> Path:
        """The folder where a dialog begins: that of the reel, or the person's own."""
        return Path.home() if self._session.untitled else self._session.path.parent

    # -- shots and frames

    def bring_in(self) -> None:
        """Ask for a file with shots and add them."""
        self._ask("Bring in shots", SHOTS, self.take)

    def take(self, path: Path) -> None:
        """Open a reel, bring frames in as a proof, or add the shots of another file."""
        acts: dict[str, Callable[[Path], object]] = {
            "reel": self._open_reel,
            "picture": self.bring_frames,
            "shots": partial(bring_in_shots, self._session),
        }
        act = acts.get(kind_of_file(path))
        if act is None:
            self._session.said.emit(unknown_words(path))
        else:
            act(path)

    def ask_frames(self) -> None:
        """Ask for one picture of a sequence and bring the sequence in."""
        self._ask("One picture of the sequence", f"Pictures ({' '.join('*' + e for e in PICTURES)})", self.bring_frames)

    def bring_frames(self, path: Path) -> BringingPage | None:
        """Open the page that brings the sequence of a picture in as a proof."""
        from hasty_reel.desk.stages.proofs.bringing import BringingPage

        pattern = sequence_of(self._session, path)
        if pattern is None:
            return None
        page = BringingPage(self._session, pattern, self._window)
        page.open()
        return page

    def export(self) -> None:
        """Ask for a file and write the shots with their plan."""
        start = self.near / f"{file_name(self._session.reel.name)}.otio"
        path = ask_target(self._window, "Export shots", start, {".otio": "OpenTimelineIO", ".csv": "CSV table"})
        if path is not None:
            export_shots(self._session, path)
