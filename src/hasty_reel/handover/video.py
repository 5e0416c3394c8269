"""Films: H.264, H.265 and AV1 in MP4, ProRes in MOV, FFV1 in MKV.

The stream is tagged with Rec. 709 primaries and matrix and the transfer curve of its colour (ITU-T H.273 code points).
"""

from __future__ import annotations

import contextlib
import io
import os
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace

from hasty_reel.errors import WrongInput, reason
from hasty_reel.handover.films import H264, FilmFormat, FilmOptions
from hasty_reel.handover.sound import Sound
from hasty_reel.handover.threadpriority import no_real_time
from hasty_reel.pictures.colourspaces import BT709
from hasty_reel.wholefile import clear_left_over, whole_file

LIMITED = 1


@contextlib.contextmanager
def video_file(path: Path, fps: Fraction, form: FilmFormat = H264, options: FilmOptions | None = None) -> Iterator[VideoWriter]:
    """Give a film to add frames to; it gets its name only when every frame of it can be read back.

    Parameters
    ----------
    path : the MP4 file; its folder is made where it is missing
    fps : frames per second, exactly
    form : of the film
    options : how it is written; None for the usual

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
            writer = VideoWriter(part, fps, form, options or FilmOptions())
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
    """Frames in, a film out.

    Parameters
    ----------
    path : the file that is written
    fps : frames per second
    form : of the film
    options : how it is written
    """

    def __init__(self, path: Path, fps: Fraction, form: FilmFormat, options: FilmOptions) -> None:
        self._fps, self._form, self._options = fps, form, options
        self._stream: av.VideoStream | None = None
        self.count = 0
        # our own file: the library keeps one that it opened itself open for ever where the disk is full
        self._file = WholeWrites(path)
        flags = {"movflags": "+faststart"} if form.container in ("mp4", "mov") else {}
        self._container = av.open(self._file, "w", format=form.container, options=flags)
        self._sound: Sound | None = None

    def add(self, codes: np.ndarray) -> None:
        """Add a frame.

        Parameters
        ----------
        codes : (h, w, 3) uint8 display codes, or uint16 where the film keeps more; odd sizes gain a repeated row or column
        """
        pixels = self._options.pixels or self._form.pixels[0]
        h, w = codes.shape[:2]
        if pixels.startswith("yuv"):
            codes = np.pad(codes, ((0, h % 2), (0, w % 2), (0, 0)), mode="edge")
        codes = np.ascontiguousarray(codes)
        if self._stream is None:
            self._begin(codes.shape[1], codes.shape[0], pixels)
        assert self._stream is not None
        frame = av.VideoFrame.from_ndarray(codes, format="rgb24" if codes.dtype == np.uint8 else "rgb48le")
        if pixels.startswith("yuv"):
            frame = frame.reformat(
                format=pixels, src_colorspace=Colorspace.ITU709, dst_colorspace=Colorspace.ITU709,
                src_color_range=ColorRange.JPEG, dst_color_range=ColorRange.MPEG, threads=1,
            )  # fmt: skip
            frame.color_primaries, frame.color_trc = BT709, self._options.transfer
        else:
            frame = frame.reformat(format=pixels, threads=1)
        frame.pts, frame.time_base = self.count, 1 / self._fps
        self.count += 1
        for packet in self._stream.encode(frame):
            self._container.mux(packet)
        if self._sound is not None:
            self._sound.up_to(float(self.count / self._fps))

    def _begin(self, width: int, height: int, pixels: str) -> None:
        form, chosen = self._form, self._options
        os.environ.setdefault("SVT_LOG", "1")  # that coder tells its settings on standard error otherwise
        options = dict(form.more)
        if form.option:
            options[form.option] = str(form.quality[2] if chosen.quality is None else chosen.quality)
        if form.codec != "prores_ks":  # of a lossless film every frame stands by itself
            options["g"] = "1" if form.lossless else str(chosen.gop)
        stream: Any = self._container.add_stream(form.codec, rate=self._fps, options=options)
        self._stream = stream
        stream.width, stream.height, stream.pix_fmt = width, height, pixels
        context = stream.codec_context
        if pixels.startswith("yuv"):
            context.color_primaries, context.color_trc = BT709, chosen.transfer
            context.colorspace, context.color_range = BT709, LIMITED
        with no_real_time():
            context.open()
        if chosen.sound is not None:
            self._sound = Sound(chosen.sound, self._container)

    def finish(self) -> None:
        """Write what the coder still holds, and close the file."""
        if self._stream is not None:
            for packet in self._stream.encode(None):
                self._container.mux(packet)
            if self._sound is not None:
                self._sound.end(float(self.count / self._fps))
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
