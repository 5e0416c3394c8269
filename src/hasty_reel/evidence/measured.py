"""What was measured on the pictures of a proof, kept beside them in `measured.json`: a proof is measured once in its life.

The file holds nothing that cannot be measured anew, so it may be deleted, and one that
cannot be read or written is done without. Figures count as long as their pictures are the
same: by size and time of the files, else by their content.
"""

from __future__ import annotations

import contextlib
import hashlib
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.proof import LARGEST_BYTES
from hasty_reel.regularfile import read_regular
from hasty_reel.wholefile import write_whole

MEASURED = "measured.json"
FORMAT = 2
"""Goes up when measures change their meaning: what was kept before is measured anew. One that is added has a default instead:
pictures that are kept small cannot be measured again."""


VERSION = 3
"""Of how noise is measured. Figures of an older one are measured anew where their pictures are whole; small ones keep them."""


class PictureNoise(msgspec.Struct, frozen=True):
    """Noise of one frame, measured on its two pictures; see `ProofFrame` for the figures. No shares, no sight: they were not measured."""

    variance: float
    worst_variance: float
    lightness_noise: tuple[float, ...]
    contrast_noise: tuple[float, ...]
    spark_noise: tuple[float, ...]
    noise_linear: float
    noise_L: float
    variance_shares: tuple[float, ...] = ()
    spark_share: float = 0.0
    sight: tuple[float, ...] = ()
    version: int = 1

    @property
    def _tables(self) -> tuple[float, ...]:
        return (*self.lightness_noise, *self.contrast_noise, *self.spark_noise, *self.variance_shares, *self.sight, self.spark_share)

    @property
    def finite(self) -> bool:
        """Whether all of it are numbers."""
        return all(
            map(math.isfinite, (self.variance, self.worst_variance, *self._tables, self.noise_linear, self.noise_L, self.spark_share))
        )


class _Row(msgspec.Struct, frozen=True):
    """Figures and what they were measured on: names, bytes and times of the files, their content, samples a pixel."""

    files: tuple[str, ...]
    bytes: tuple[int, ...]
    times: tuple[int, ...]
    content: str
    samples: float
    noise: PictureNoise


class _File(msgspec.Struct, frozen=True):
    measured_format: int
    rows: tuple[_Row, ...] = ()


@dataclass
class ProofMeasures:
    """The figures kept beside one proof; `save` writes them when some are new."""

    folder: Path
    new: bool = False

    @cached_property
    def rows(self) -> dict[tuple[str, ...], _Row]:
        """What is kept, read when it is first asked for; nothing where the file is missing, broken or of another format."""
        try:
            found = msgspec.json.decode(read_regular(self.folder / MEASURED, LARGEST_BYTES, "measures", WrongInput), type=_File)
        except (WrongInput, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            return {}
        return {r.files: r for r in found.rows} if found.measured_format == FORMAT else {}

    def get(self, paths: Sequence[Path], samples: float) -> PictureNoise | None:
        """Return the figures of these pictures, if they are still the same.

        Parameters
        ----------
        paths : of the pictures, one for each seed
        samples : a pixel got
        """
        row = self.rows.get(tuple(p.name for p in paths))
        if row is None or row.samples != samples:
            return None
        sizes, times = _stamps(paths)
        if row.bytes == sizes and (row.times == times or row.content == _content(paths)):
            return row.noise
        return None

    def put(self, paths: Sequence[Path], samples: float, noise: PictureNoise) -> None:
        """Keep figures; what is no number is not kept.

        Parameters
        ----------
        paths : of the pictures, one for each seed
        samples : a pixel got
        noise : the figures
        """
        if noise.finite:
            names = tuple(p.name for p in paths)
            self.rows[names] = _Row(names, *_stamps(paths), _content(paths), samples, noise)
            self.new = True

    def save(self) -> None:
        """Write them beside the proof, where that can be done."""
        if self.new:
            self.new = False
            raw = msgspec.json.format(msgspec.json.encode(_File(FORMAT, tuple(self.rows[k] for k in sorted(self.rows)))), indent=1)
            with contextlib.suppress(OSError):
                write_whole(self.folder / MEASURED, raw + b"\n")


def _stamps(paths: Sequence[Path]) -> tuple[tuple[int, ...], tuple[int, ...]]:
    stats = [p.stat() for p in paths]
    return tuple(s.st_size for s in stats), tuple(s.st_mtime_ns for s in stats)


def _content(paths: Sequence[Path]) -> str:
    digest = hashlib.blake2b(digest_size=16)
    for path in paths:
        digest.update(path.read_bytes())
    return digest.hexdigest()
