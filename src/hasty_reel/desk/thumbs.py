"""Small pictures of proofs, loaded beside the window's thread when somebody first asks for them."""

from __future__ import annotations

from collections import OrderedDict
from pathlib import Path

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QImage

from hasty_reel.desk.jobs import Job
from hasty_reel.desk.picture import as_image
from hasty_reel.desk.session import Session
from hasty_reel.errors import HastyReelError
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.frame import read_picture

WIDTH, HEIGHT = 192, 108
KEPT = 3000


class Thumbnails(QObject):
    """Asked for by path; `loaded` tells when one has come."""

    loaded = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._images: OrderedDict[str, QImage | None] = OrderedDict()
        self._wanted: list[str] = []
        self._job: Job | None = None

    def image(self, path: str) -> QImage | None:
        """The small picture, None while it is not there (or cannot be read)."""
        if path in self._images:
            self._images.move_to_end(path)
            return self._images[path]
        if path not in self._wanted:
            self._wanted.append(path)
            if self._job is None:
                QTimer.singleShot(0, self, self._begin)
        return None

    def _begin(self) -> None:
        if self._job is not None or not self._wanted:
            return
        # what was asked for last is on the screen now
        batch, self._wanted = self._wanted[::-1][:24], self._wanted[:-24]
        self._job = job = self._session.jobs.start(lambda job: _load(job, batch))
        job.came.connect(self._came)
        job.ended.connect(self._ended)

    def _came(self, thing: tuple[str, QImage | None]) -> None:
        path, image = thing
        self._images[path] = image
        while len(self._images) > KEPT:
            self._images.popitem(last=False)
        self.loaded.emit(path)

    def _ended(self) -> None:
        self._job = None
        self._begin()


def _load(job: Job, paths: list[str]) -> None:
    for path in paths:
        job.cancel.check()
        try:
            image = as_image(codes8(read_picture(Path(path)).rgb))
        except HastyReelError:  # the evidence tells of broken pictures; here is just no thumbnail
            job.send((path, None))
            continue
        keep, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        job.send((path, image.scaled(WIDTH, HEIGHT, keep, smooth)))
