"""The film in the window: frames of the delivered MP4 at their true rate."""

from __future__ import annotations

import queue
import threading
import time
from pathlib import Path

import av
from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtGui import QImage

from hasty_reel.desk.picture import as_image

AHEAD = 16


class FilmPlayer(QObject):
    """Decodes beside the window's thread, a few frames ahead, and loops until stopped.

    showed(QImage, int) : a frame and its number in the film; rate(float) : frames a second reached
    """

    showed = Signal(QImage, int)
    failed = Signal(str)
    rate = Signal(float)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.timeout.connect(self._next)
        self._queue: queue.Queue[tuple[QImage, int]] = queue.Queue(AHEAD)
        self._leave = threading.Event()
        self._thread: threading.Thread | None = None
        self._began, self._shown = 0.0, 0

    @property
    def playing(self) -> bool:
        """Whether it plays."""
        return self._timer.isActive()

    def play(self, path: Path) -> None:
        """Play a film from its first frame."""
        self.stop()
        try:
            with av.open(str(path)) as container:
                fps = float(container.streams.video[0].average_rate or 24)
        except (OSError, av.error.FFmpegError, IndexError) as error:
            self.failed.emit(f"{path}: cannot be played ({error}).")
            return
        self._leave = threading.Event()
        self._queue = queue.Queue(AHEAD)
        self._thread = threading.Thread(target=self._decode, args=(path, self._queue, self._leave), daemon=True)
        self._thread.start()
        self._began, self._shown = time.monotonic(), 0
        self._timer.start(max(1, round(1000 / fps)))

    def stop(self) -> None:
        """Stop; the thread leaves by itself."""
        self._timer.stop()
        self._leave.set()

    @staticmethod
    def _decode(path: Path, frames: queue.Queue, leave: threading.Event) -> None:
        while not leave.is_set():
            with av.open(str(path)) as container:
                for number, frame in enumerate(container.decode(video=0)):
                    image = as_image(frame.reformat(format="rgb24", threads=1).to_ndarray())
                    while not leave.is_set():
                        try:
                            frames.put((image, number), timeout=0.1)
                            break
                        except queue.Full:
                            continue
                    if leave.is_set():
                        return

    def _next(self) -> None:
        try:
            image, number = self._queue.get_nowait()
        except queue.Empty:
            return
        self._shown += 1
        self.showed.emit(image, number)
        if self._shown % 12 == 0:
            now = time.monotonic()
            self.rate.emit(12 / (now - self._began))
            self._began = now
