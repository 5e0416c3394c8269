"""H.264 in an MP4 file.

The display codes are those of the sRGB view; the stream is tagged with Rec. 709
primaries and matrix and the sRGB transfer curve (ITU-T H.273 code points).
"""

from __future__ import annotations

import contextlib
import io
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace

from hasty_reel.errors import WrongInput, reason
from hasty_reel.wholefile import clear_left_over, whole_file

BT709, SRGB_CURVE, LIMITED = 1, 13, 1


@contextlib.contextmanager
def video_file(path: Path, fps: Fraction, quality: int) -> Iterator[VideoWriter]:
    """Give a film to add frames to; it gets its name only when every frame of it can be read back.

    Parameters
    ----------
    path : the MP4 file; its folder is made where it is missing
    fps : frames per second, exactly
    quality : of the coder, 0 (best) to 51

    Yields
    ------
    The writer.

    Raises
    ------
    WrongInput
        When the file cannot be written or the disk is full; no file is left then.
    """
    try:
        clear_left_over(path)
        with whole_file(path, make=True) as part:
            writer = VideoWriter(part, fps, quality)
            try:
                yield writer
            except BaseException:
                writer.abandon()
                raise
            try:
                writer.finish()
            except BaseException:
                writer.abandon()
                raise
            found = frames_in(part)
            if found != writer.count:
                raise WrongInput(f"{path}: holds {found} of {writer.count} frames; the disk may be full.")
    except (OSError, av.error.FFmpegError) as error:
        raise WrongInput(f"{path}: cannot be written ({reason(error)}).") from error


class WholeWrites(io.FileIO):
    """A file each of whose writes is whole or an error.

    Parameters
    ----------
    path : of the file
    """

    def __init__(self, path: Path) -> None:
        super().__init__(path, "w+")

    def write(self, data: Any) -> int:
        """Write all of some bytes.

        Parameters
        ----------
        data : what is written
        """
        view = memoryview(data).cast("B")
        done = 0
        while done < len(view):
            taken = super().write(view[done:])
            if not taken:
                raise OSError(f"the disk took {done} of {len(view)} bytes")
            done += taken
        return done


class VideoWriter:
    """Frames in, an MP4 out.

    Parameters
    ----------
    path : the file that is written
    fps : frames per second
    quality : of the coder, 0 (best) to 51
    """

    def __init__(self, path: Path, fps: Fraction, quality: int) -> None:
        self._fps, self._quality = fps, quality
        self._stream: av.VideoStream | None = None
        self.count = 0
        # our own file: the library keeps one that it opened itself open for ever where the disk is full
        self._file = WholeWrites(path)
        self._container = av.open(self._file, "w", format="mp4", options={"movflags": "+faststart"})

    def add(self, codes: np.ndarray) -> None:
        """Add a frame.

        Parameters
        ----------
        codes : (h, w, 3) uint8 display codes; odd sizes gain a repeated row or column
        """
        h, w = codes.shape[:2]
        codes = np.ascontiguousarray(np.pad(codes, ((0, h % 2), (0, w % 2), (0, 0)), mode="edge"))
        if self._stream is None:
            options = {"crf": str(self._quality), "preset": "medium", "g": "12"}
            self._stream = self._container.add_stream("libx264", rate=self._fps, options=options)
            self._stream.width, self._stream.height = codes.shape[1], codes.shape[0]
            self._stream.pix_fmt = "yuv420p"
            context = self._stream.codec_context
            context.color_primaries, context.color_trc = BT709, SRGB_CURVE
            context.colorspace, context.color_range = BT709, LIMITED
        frame = av.VideoFrame.from_ndarray(codes, format="rgb24").reformat(
            format="yuv420p", src_colorspace=Colorspace.ITU709, dst_colorspace=Colorspace.ITU709,
            src_color_range=ColorRange.JPEG, dst_color_range=ColorRange.MPEG, threads=1,
        )  # fmt: skip
        frame.pts, frame.time_base = self.count, 1 / self._fps
        self.count += 1
        for packet in self._stream.encode(frame):
            self._container.mux(packet)

    def finish(self) -> None:
        """Write what the coder still holds, and close the file."""
        if self._stream is not None:
            for packet in self._stream.encode(None):
                self._container.mux(packet)
        try:
            self._container.close()
        finally:
            self._file.close()

    def abandon(self) -> None:
        """Close the file as it is; it is not used."""
        try:
            with contextlib.suppress(OSError, av.error.FFmpegError):
                self._container.close()
        finally:
            self._file.close()


def frames_in(path: Path) -> int:
    """Count the frames of a film whose bytes are all there.

    Parameters
    ----------
    path : the film

    Returns
    -------
    int
        Frames of its first video stream, read packet by packet, not decoded.
    """
    with av.open(str(path)) as container:
        return sum(1 for packet in container.demux(video=0) if packet.size)
