"""Finished looks of a proof run, kept on the disk: a sample count that was looked at once is there at once the next time."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
import platformdirs

from hasty_reel.evidence.proof import FILTER
from hasty_reel.farm.atsamples import ProofRun
from hasty_reel.finish.chain import Chain
from hasty_reel.pictures.sequence import FramePattern

MOST_BYTES = 256 << 20
"""Of all looks that are kept; beyond it those go that were used longest ago."""


@dataclass(frozen=True)
class KeptLooks:
    """The finished frames of a run at one sample count, as display codes.

    folder : where they are kept
    """

    folder: Path

    @classmethod
    def of(cls, run: ProofRun, chain: Chain, samples: float) -> KeptLooks:
        """Return the looks of a run, by a hash of all that makes them.

        Parameters
        ----------
        run : the run
        chain : of finishing
        samples : per pixel
        """
        files = [run.folder / p.file for k in run.frames for p in run.proof.by_frame()[k][:2]]
        pictures = [(path.name, path.stat().st_mtime_ns, path.stat().st_size) for path in files if path.exists()]
        told = repr((str(run.folder.resolve()), pictures, run.frames, chain, float(samples), FILTER))
        return cls(Path(platformdirs.user_cache_dir("hasty-reel")) / "looks" / hashlib.sha256(told.encode()).hexdigest()[:32])

    def get(self, frame: int) -> np.ndarray | None:
        """Return a frame, (h, w, 3) uint8; None where it was not made yet.

        Parameters
        ----------
        frame : as the proof numbers it
        """
        path = self._path(frame)
        if not path.exists():
            return None
        codes = cv2.imread(str(path), cv2.IMREAD_COLOR)
        return None if codes is None else np.ascontiguousarray(codes[..., ::-1])

    def keep(self, frame: int, codes: np.ndarray) -> None:
        """Keep a frame; where the disk takes none it is made again the next time.

        Parameters
        ----------
        frame : as the proof numbers it
        codes : (h, w, 3) uint8
        """
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            part = self._path(frame).with_suffix(".part.png")
            if cv2.imwrite(str(part), np.ascontiguousarray(codes[..., ::-1])):
                part.replace(self._path(frame))
            self._make_room()
        except OSError:
            return

    def light_pattern(self, samples: float, finished: bool) -> FramePattern:
        """Return the pattern of frames of scene-linear light of these looks, as they are named to the person.

        Parameters
        ----------
        samples : per pixel
        finished : with the finishing chain
        """
        self.folder.mkdir(parents=True, exist_ok=True)
        return FramePattern(self.folder, f"{samples:.0f} samples, {'finished' if finished else 'as rendered'}.", 4, ".exr")

    def _path(self, frame: int) -> Path:
        return self.folder / f"{frame}.png"

    def _make_room(self) -> None:
        """Forget the looks that were used longest ago, until what is left is within the bound."""
        found = [(path.stat(), path) for path in self.folder.parent.glob("*/*")]
        found.sort(key=lambda item: item[0].st_mtime)
        whole = sum(stat.st_size for stat, _ in found)
        for stat, path in found:
            if whole <= MOST_BYTES or path.parent == self.folder:
                break
            path.unlink(missing_ok=True)
            whole -= stat.st_size
