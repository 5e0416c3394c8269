"""What is the artist's own and not the reel's: renderer links, draft cuts, whose eyes count. Kept for the person, not in the file."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import QObject, QTimer, Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.farm.links import SHIPPED as SHIPPED_LINKS
from hasty_reel.farm.links import Links, links_path, read_links, save_links
from hasty_reel.measure.eyesight import Watchers, read_watchers, save_watchers, watchers_path
from hasty_reel.measure.seen import Eyes
from hasty_reel.reel.draftcut import SHIPPED as SHIPPED_CUTS
from hasty_reel.reel.draftcut import DraftCuts, cuts_path, read_cuts, save_cuts


class OwnSettings(QObject):
    """The artist's own settings, read and kept; what is wrong with a file is `said`, and what ships counts."""

    renderer_changed = Signal()
    draft_changed = Signal()
    eyes_changed = Signal()
    said = Signal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.draft_on = False
        self.cuts = self._read_cuts()
        self.links = self._read_links()
        self.watchers = self._read_watchers()

    # -- renderer links

    def _read_links(self) -> Links:
        try:
            return read_links(links_path())
        except HastyReelError as error:
            QTimer.singleShot(0, self, lambda words=str(error): self.said.emit(words))
            return SHIPPED_LINKS

    def choose_link(self, name: str) -> None:
        """Render with another renderer from now on."""
        self.set_links(msgspec.structs.replace(self.links, chosen=name))

    def set_links(self, links: Links) -> str:
        """Keep other renderer links; what is wrong with them is returned, '' when nothing is."""
        try:
            save_links(links_path(), links)
        except HastyReelError as error:
            return str(error)
        self.links = links
        self.renderer_changed.emit()
        return ""

    # -- eyes

    def _read_watchers(self) -> Watchers:
        try:
            return read_watchers(watchers_path())
        except HastyReelError as error:
            QTimer.singleShot(0, self, lambda words=str(error): self.said.emit(words))
            return Watchers()

    @property
    def eyes(self) -> Eyes:
        """Whose eyes count."""
        return self.watchers.eyes

    def set_watchers(self, watchers: Watchers) -> bool:
        """Let other eyes count from now on; a fault is said, and False returned."""
        try:
            save_watchers(watchers_path(), watchers)
        except HastyReelError as error:
            self.said.emit(str(error))
            return False
        self.watchers = watchers
        self.eyes_changed.emit()
        return True

    # -- draft cuts

    def _read_cuts(self) -> DraftCuts:
        try:
            return read_cuts(cuts_path())
        except HastyReelError as error:
            QTimer.singleShot(0, self, lambda words=str(error): self.said.emit(words))
            return SHIPPED_CUTS

    def switch_draft(self, on: bool) -> None:
        """Lay the chosen draft cut over what is rendered as a proof, or take it off."""
        if on != self.draft_on:
            self.draft_on = on
            self.draft_changed.emit()

    def set_cuts(self, cuts: DraftCuts) -> bool:
        """Keep other draft cuts; a fault is said, and False returned."""
        try:
            save_cuts(cuts_path(), cuts)
        except HastyReelError as error:
            self.said.emit(str(error))
            self.draft_changed.emit()
            return False
        self.cuts = cuts
        self.draft_changed.emit()
        return True
