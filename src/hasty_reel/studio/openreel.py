"""The open reel as a file: its history of edits, what is saved of it, and who may write it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

import msgspec
from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.own.recentreels import recent_path, remember
from hasty_reel.reel.document import Reel
from hasty_reel.reel.file import read_reel
from hasty_reel.reel.history import History
from hasty_reel.reel.saves import autosave, forget_autosave, save_keeping, unsaved
from hasty_reel.reel.untitled import bring_proofs, drop_untitled, is_untitled, named_after, take_back_proofs
from hasty_reel.reel.writer import ReelWriter, content_of
from hasty_reel.studio.background import Background
from hasty_reel.studio.eventloop import EventLoop, Timer

AUTOSAVE_SECONDS = 1.5
"""Of rest after an edit."""


class OpenReel:
    """A reel that is edited and saved.

    reel_changed : it says something else now; trial_changed : edits are only tried now, or no longer
    path_changed : it lies elsewhere now
    changed_on_disk : it cannot be saved unasked, since its file holds something else than was read
    taken_elsewhere : it cannot be saved here, since another window holds the right to
    said(str) : something to be read

    Parameters
    ----------
    path : its file
    loop : in whose thread the models live

    Raises
    ------
    HastyReelError
        When it cannot be opened.
    """

    reel_changed = Signal()
    path_changed = Signal()
    trial_changed = Signal()
    changed_on_disk = Signal()
    taken_elsewhere = Signal()
    said = Signal(str)

    def __init__(self, path: Path, loop: EventLoop) -> None:
        self.background = Background(loop)
        self.path = path
        self.writer = ReelWriter(path)
        self._on_disk = content_of(path)
        self.history = History(read_reel(path))
        self.saved = self.history.reel
        # what lies beside a reel that is open elsewhere is that window's, and not left behind
        self.left_unsaved = unsaved(path, self.saved) if self.writer.take() else None
        self._dropped = False
        if not self.untitled:
            remember(recent_path(), path)
        self._autosave = Timer(loop, AUTOSAVE_SECONDS, self._keep_unsaved)

    @property
    def reel(self) -> Reel:
        """The reel as it stands."""
        return self.history.reel

    @property
    def kept(self) -> Reel:
        """The reel without what is only tried: what is saved."""
        return self.history.kept

    @property
    def proofs_root(self) -> Path:
        """Folder of the proofs, beside the reel."""
        return self.path.parent / self.reel.proofs

    @property
    def untitled(self) -> bool:
        """Whether the reel has no name yet: where it is kept is asked when it is saved."""
        return is_untitled(self.path)

    @property
    def read_only(self) -> bool:
        """Whether another window holds the right to write the reel's file."""
        return not self.writer.held

    @property
    def changed(self) -> bool:
        """Whether there is something to save."""
        return self.kept != self.saved or (self.untitled and self.proofs_root.is_dir())

    # -- edits

    def edit(self, name: str, reel: Reel) -> None:
        """Make an edit; it can be undone under its name.

        Parameters
        ----------
        name : of the edit, for undo
        reel : the reel as it is then
        """
        if self.history.edit(name, reel):
            self._after_edit()

    def do(self, name: str, change: Callable[[Reel], Reel]) -> bool:
        """Make an edit that may be refused; then it is said why and nothing changes.

        Parameters
        ----------
        name : of the edit, for undo
        change : makes the new reel of the one there is

        Returns
        -------
        bool
            Whether the edit was made.
        """
        try:
            self.edit(name, change(self.reel))
        except HastyReelError as error:
            self.said.emit(str(error))
            self.reel_changed.emit()
            return False
        return True

    def undo(self) -> None:
        """Take the last edit back."""
        self.history.undo()
        self._after_edit()

    def redo(self) -> None:
        """Make the last edit taken back again."""
        self.history.redo()
        self._after_edit()

    def begin_trial(self) -> None:
        """Only try the edits that follow: they are not saved until they are kept."""
        self.history.begin_trial()
        self.trial_changed.emit()

    def keep_trial(self) -> None:
        """Keep what was tried, as one edit."""
        self.history.keep_trial("Keep what was tried")
        self.trial_changed.emit()
        self._after_edit()

    def drop_trial(self) -> None:
        """Let go of what was tried; everything is as it was before."""
        self.history.drop_trial()
        self.trial_changed.emit()
        self._after_edit()

    def _after_edit(self) -> None:
        self.reel_changed.emit()
        self._autosave.start()

    # -- the file

    def save(self, path: Path | None = None, anyway: bool = False) -> bool:
        """Save the reel.

        Parameters
        ----------
        path : another place than where it came from; None: the same
        anyway : also where the file was changed by somebody else since it was read

        Returns
        -------
        bool
            Whether it is saved; where not, it is said why.
        """
        target = path or self.path
        if target == self.path:
            if not self.writer.take():
                self.taken_elsewhere.emit()
                return False
            now = content_of(target)
            if not anyway and now is not None and now != self._on_disk:
                self.changed_on_disk.emit()
                return False
            return self._write(target, self.kept, self.writer)
        writer = ReelWriter(target)
        if not writer.take():
            self.said.emit(f"{target} is open in {writer.holder}; expected another name.")
            return False
        brought = self.untitled and self.proofs_root.is_dir()
        try:
            reel = named_after(bring_proofs(self.path, target, self.kept), target) if self.untitled else self.kept
        except HastyReelError as error:
            writer.release()
            self.said.emit(str(error))
            return False
        if self._write(target, reel, writer):
            return True
        if brought:
            take_back_proofs(target, reel)
        return False

    def _write(self, target: Path, reel: Reel, writer: ReelWriter) -> bool:
        """Write the reel to a file whose right to write is `writer`'s, and go on from there."""
        try:
            save_keeping(target, reel, datetime.now())
        except HastyReelError as error:
            if writer is not self.writer:
                writer.release()
            self.said.emit(str(error))
            return False
        self._autosave.stop()
        before, named = self.path, self.untitled
        if target != before:
            if named:
                self.history.everywhere(lambda r: named_after(msgspec.structs.replace(r, proofs=reel.proofs), target))
            elif target.parent != before.parent:
                self.said.emit(f"Saved as {target.name}. Its proofs stay in {self.proofs_root}.")
            if self.writer.held:
                forget_autosave(before)
            self.writer.release()
            self.writer = writer
        self.path = target
        self.saved = self.kept
        self._on_disk = content_of(target)
        remember(recent_path(), target)
        if target != before:
            drop_untitled(before)
            self.path_changed.emit()
        self.reel_changed.emit()
        return True

    def reload(self) -> None:
        """Take up what the file holds now, as an edit that can be undone."""
        try:
            content, reel = content_of(self.path), read_reel(self.path)
        except HastyReelError as error:
            self.said.emit(str(error))
            return
        self.history.drop_trial()
        self.trial_changed.emit()
        self.edit("Reload from disk", reel)
        self.saved, self._on_disk = reel, content
        self.reel_changed.emit()

    def keep_both(self) -> bool:
        """Save this reel beside its file, under the next free name."""
        number = 2
        while (beside := self.path.with_name(f"{self.path.stem}-{number}{self.path.suffix}")).exists():
            number += 1
        if self.save(beside):
            self.said.emit(f"Saved as {beside.name}; the other one stays as it is.")
            return True
        return False

    def try_again(self) -> None:
        """Ask for the right to write again; the other window may be closed by now."""
        if self.writer.take():
            self.said.emit("The reel is yours to save again.")
            self.reel_changed.emit()
        else:
            self.taken_elsewhere.emit()

    def close(self) -> None:
        """Let the reel go: others may write it now, and one without a name that nothing was done with is thrown away."""
        self._autosave.stop()
        mine = not self.read_only
        self.writer.release()
        # neither another window's reel, nor what a crash left and nobody has decided on yet
        if mine and self.untitled and (self._dropped or (not self.changed and self.left_unsaved is None)):
            drop_untitled(self.path)

    def take_up(self) -> None:
        """Go on with what an earlier session left unsaved; it can be undone."""
        if self.left_unsaved is not None:
            self.edit("Take up unsaved changes", self.left_unsaved)
            self.left_unsaved = None

    def let_go(self) -> None:
        """Forget what is not saved: it was asked about, or is worth nothing."""
        self._autosave.stop()
        self.left_unsaved = None
        if not self.read_only:
            forget_autosave(self.path)
        self._dropped = self.untitled

    def _keep_unsaved(self) -> None:
        path, reel = self.path, self.kept
        if self.read_only:  # what lies beside the file is the other window's
            return
        if reel == self.saved:
            forget_autosave(path)
            return
        self.left_unsaved = None  # from now on the autosave holds what is edited here
        task = self.background.start(lambda task: autosave(path, reel))
        task.failed.connect(self.said)
        task.done.connect(lambda _: forget_autosave(path) if self.kept == self.saved or self.path != path else None)
