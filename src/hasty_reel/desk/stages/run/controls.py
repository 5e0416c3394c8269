"""How a run is begun, paused, gone on with and ended; and the new plan that is offered where it slips."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, Switch, text_field
from hasty_reel.desk.follow import follow
from hasty_reel.desk.rows import field_row
from hasty_reel.studio.run.final import FinalFrames
from hasty_reel.studio.run.shotqueue import ShotQueue
from hasty_reel.studio.session import Session


class RunControls(QWidget):
    """A row of what is chosen before, and of what can be asked while it works."""

    def __init__(self, session: Session, final: FinalFrames, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.final, work = final, final.work
        self.queue = queue = ShotQueue(session, final)
        self.workers = text_field(self, 44, "Frames at once on this machine", work.type_workers)
        self.workers.setToolTip("Frames rendered at once on this machine. Brief measures what several do to each other.")
        self.trouble = Switch("Trouble first", work.set_trouble_first, self)
        self.trouble.setToolTip("The first, last, slowest and worst frames before the rest, so that trouble shows early.")
        self.automatic = Switch("New plan by itself", work.set_automatic, self)
        self.automatic.setToolTip("Where the run slips, frames not rendered yet get fewer samples without asking, joined without a step.")
        self.rehearse = PlainButton("Rehearse", final.rehearse, parent=self)
        self.rehearse.setToolTip(
            "Play the night with simulated machines in under a minute: they are slower or faster than planned,\n"
            "and now and then they fail. Nothing of it is kept."
        )
        self.everything = PlainButton("All shots", queue.begin, parent=self)
        self.everything.setToolTip("Render what is missing of all shots, one after another by their priority (Budget, All shots).")
        self.follow = PlainButton("Render this shot next", queue.add_this, parent=self)
        self.pause = PlainButton("Pause", self._pause, parent=self)
        self.pause.setToolTip("Begin no new frame; those under way end as they do.")
        self.end = PlainButton("End after these", work.end_soon, parent=self)
        self.end.setToolTip("End after the frames under way; the rest can be gone on with.")
        chosen = ("At once", self.workers, 12, self.trouble, 12, self.automatic)
        row = field_row(*chosen, None, self.follow, self.rehearse, self.everything, self.pause, self.end)
        row.setContentsMargins(16, 0, 16, 6)
        self.offer_words = QLabel("")
        self.offer_words.setFont(theme.words(13, 600))
        self.offer_words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.take = PlainButton("Use the new plan", work.take_offer, main=True, parent=self)
        self.take.setToolTip("Render the frames that are left with these samples.")
        self.offer = QWidget(self)
        offer = QHBoxLayout(self.offer)
        offer.setContentsMargins(16, 0, 16, 6)
        offer.addWidget(self.offer_words, 1)
        offer.addWidget(self.take)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(row)
        column.addWidget(self.offer)
        follow(self, final.changed, self.refresh)
        self.refresh()

    def _pause(self) -> None:
        work = self.final.work
        work.go_on() if work.paused or work.ending else work.pause()

    def refresh(self) -> None:
        """Show what is chosen, and what can be asked."""
        work, busy = self.final.work, self.final.busy
        self.workers.show_value(str(work.workers))
        self.workers.setEnabled(not busy)
        for switch, on in ((self.trouble, work.trouble_first), (self.automatic, work.automatic)):
            switch.setChecked(on)
            switch.setEnabled(not busy)
        self.follow.setVisible(self.queue.may_follow)
        self.everything.setVisible(not busy and self.queue.several)
        self.everything.setEnabled(not self.final.held_back)
        self.rehearse.setVisible(not busy)
        self.rehearse.setEnabled(self.final.run is not None)
        self.pause.setVisible(busy)
        self.pause.setText("Go on" if work.paused or work.ending else "Pause")
        self.end.setVisible(busy and not work.ending)
        offer = work.offer
        self.offer.setVisible(offer is not None)
        if offer is not None:
            words = f"It slips. {offer.words}"
            self.offer_words.setText(words)
            self.offer_words.setToolTip(words)
            self.take.setVisible(offer.frames > 0)
