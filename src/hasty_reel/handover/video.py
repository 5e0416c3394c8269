"""H.264 in an MP4 file.

The display codes are those of the sRGB view; the stream is tagged with Rec. 709
primaries and matrix and the sRGB transfer curve (ITU-T H.273 code points).
"""

from __future__ import annotations

import os
from fractions import Fraction
from pathlib import Path
from types import TracebackType

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace

from hasty_reel.errors import WrongInput

BT709, SRGB_CURVE, LIMITED = 1, 13, 1


class VideoWriter:
    """Frames in, an MP4 out; the file gets its name only when it is complete."""

    def __init__(self, path: Path, fps: Fraction, quality: int) -> None:
        self._path, self._part = path, path.with_name(f".{path.name}.{os.getpid()}.part")
        self._fps, self._quality = fps, quality
        self._stream: av.VideoStream | None = None
        self._count = 0
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            self._container = av.open(str(self._part), "w", format="mp4", options={"movflags": "+faststart"})
        except (OSError, av.error.FFmpegError) as error:
            raise WrongInput(f"{path}: cannot be written ({getattr(error, 'strerror', None) or error}).") from error

    def add(self, codes: np.ndarray) -> None:
        """Add a frame of display codes (h, w, 3) uint8; odd sizes gain a repeated row or column."""
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
        frame.pts, frame.time_base = self._count, 1 / self._fps
        self._count += 1
        for packet in self._stream.encode(frame):
            self._container.mux(packet)

    def __enter__(self) -> VideoWriter:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        try:
            if self._stream is not None and kind is None:
                for packet in self._stream.encode(None):
                    self._container.mux(packet)
            self._container.close()
            if kind is None:
                os.replace(self._part, self._path)
        finally:
            self._part.unlink(missing_ok=True)
