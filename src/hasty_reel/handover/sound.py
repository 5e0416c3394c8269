"""The sound of a film, from a file beside the pictures."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import av

from hasty_reel.errors import WrongInput, reason


class Sound:
    """The first sound of a file, encoded beside the pictures as far as they go; longer sound is cut, shorter ends before.

    Parameters
    ----------
    path : the sound file
    container : the film

    Raises
    ------
    WrongInput
        When the file holds no sound that can be read.
    """

    def __init__(self, path: Path, container: Any) -> None:
        try:
            self._source = av.open(str(path))
            self._frames = iter(self._source.decode(audio=0))
            rate = self._source.streams.audio[0].rate or 48000
        except (OSError, IndexError, av.error.FFmpegError) as error:
            raise WrongInput(f"{path}: no sound can be read there ({reason(error)}).") from error
        lossless = container.format.name.startswith("matroska")
        self._container, self._rate = container, rate
        self._stream = container.add_stream("flac" if lossless else "aac", rate=rate)
        self._stream.layout = self._source.streams.audio[0].layout.name or "stereo"
        self._resampler = av.AudioResampler(format=self._stream.format.name, layout=self._stream.layout.name, rate=rate)
        self._at = 0

    def up_to(self, seconds: float) -> None:
        """Write the sound up to a time.

        Parameters
        ----------
        seconds : since the film begins
        """
        while self._at < seconds * self._rate:
            frame = next(self._frames, None)
            if frame is None:
                return
            for piece in self._resampler.resample(frame):
                piece.pts = self._at
                self._at += piece.samples
                for packet in self._stream.encode(piece):
                    self._container.mux(packet)

    def end(self, seconds: float) -> None:
        """Write what is still held, and let the file go.

        Parameters
        ----------
        seconds : that the film takes
        """
        self.up_to(seconds)
        for packet in self._stream.encode(None):
            self._container.mux(packet)
        self._source.close()
