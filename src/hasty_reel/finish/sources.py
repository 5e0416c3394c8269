"""What a finished frame was made of: a digest of the pictures that were looked at, kept in its head, so that a changed one is noticed."""

from __future__ import annotations

import hashlib
import threading
from collections.abc import Callable, Sequence
from pathlib import Path

SOURCE = "hr:source"
"""Attribute of a finished picture: digest of the pictures it was made of."""
PIECE = 1 << 20


class SourceDigests:
    """Digests of the pictures of a sequence, each read once.

    Parameters
    ----------
    source : gives the path of a frame
    """

    def __init__(self, source: Callable[[int], Path]) -> None:
        self._source = source
        self._known: dict[int, bytes] = {}
        self._lock = threading.Lock()

    def of(self, frames: Sequence[int]) -> str:
        """Return one digest of the bytes of some frames; '' where one of them cannot be read.

        Parameters
        ----------
        frames : their numbers, in order
        """
        whole = hashlib.blake2b(digest_size=16)
        try:
            for frame in frames:
                whole.update(b"%d:" % frame + self._digest(frame))
        except OSError:
            return ""
        return whole.hexdigest()

    def _digest(self, frame: int) -> bytes:
        with self._lock:
            known = self._known.get(frame)
        if known is None:
            found = hashlib.blake2b(digest_size=16)
            with open(self._source(frame), "rb") as stream:
                while piece := stream.read(PIECE):
                    found.update(piece)
            known = found.digest()
            with self._lock:
                self._known[frame] = known
        return known
