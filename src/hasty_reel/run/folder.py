"""The frames of a run on disk, and the state each is in.

OUT/sh010/sh010.1001.exr           the finished frame, at its delivered size
OUT/sh010/rendered/sh010.1001.exr  as rendered, with its guides (where there is anything to finish)
OUT/sh010/light-caches             files of light caches that all workers share, until all frames are finished
"""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from hasty_reel.errors import PictureError
from hasty_reel.finish.chain import Chain
from hasty_reel.pictures.frame import read_header
from hasty_reel.pictures.sequence import FramePattern
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.programs.ownsteps import own_step
from hasty_reel.run.framestate import FINISHED, OTHER, RENDERED, WAITING, FrameState
from hasty_reel.settings.finishorder import own_names

LIGHT_CACHES = "light-caches"
"""Folder of a shot with the light caches that a linked renderer writes to files."""


@dataclass(frozen=True)
class RunFolder:
    """Where the frames of one shot go."""

    root: Path
    shot: str
    finishes: bool

    @property
    def final(self) -> FramePattern:
        """The finished frames."""
        return FramePattern(self.root / self.shot, f"{self.shot}.", 4, ".exr")

    @property
    def rendered(self) -> FramePattern:
        """The frames as rendered; the same files where nothing is to be finished."""
        if not self.finishes:
            return self.final
        return FramePattern(self.root / self.shot / "rendered", f"{self.shot}.", 4, ".exr")


def chain_of(plan: ShotPlan, delivered: tuple[int, int]) -> Chain:
    """Return the finishing chain a plan asks for.

    Parameters
    ----------
    plan : of the shot
    delivered : width and height in pixels

    Raises
    ------
    WrongInput
        When a step of the artist's own is not kept on this machine.
    """
    own = [own_step(name) for name in own_names(plan.recipe.finish_order)]
    size = delivered if own or (plan.width, plan.height) != delivered else None
    return Chain.of(plan.resolved, size, own)


def finishes(chain: Chain) -> bool:
    """Whether the chain does anything.

    Parameters
    ----------
    chain : how frames are finished
    """
    return bool(chain.steps)


def final_hash(picture_hash: str, chain: Chain) -> str:
    """Return the hash of a finished frame: how it was rendered and how it was finished.

    Parameters
    ----------
    picture_hash : of the recipe and everything else that changes a rendered picture
    chain : how frames are finished
    """
    return f"{picture_hash}/{chain.words or 'as rendered'}"


def states(folder: RunFolder, frames: list[int], picture_hash: str, chain: Chain, offset: int = 0) -> dict[int, FrameState]:
    """Return the state of each frame from what is on disk.

    A file that is cut short counts as absent; one made with other settings, or that shows another frame of the scene, is told apart.

    Parameters
    ----------
    folder : of the run
    frames : numbers of its frames
    picture_hash : of the recipe and everything else that changes a rendered picture
    chain : how frames are finished
    offset : how much higher the frames are numbered than those of the scene
    """
    out = {}
    there_final, there_rendered = set(folder.final.frames()), set(folder.rendered.frames())
    for frame in frames:
        state = WAITING
        if frame in there_rendered:
            state = _state(folder.rendered.path(frame), picture_hash, RENDERED, "hr:recipe", frame - offset)
        if folder.finishes and frame in there_final:
            final = _state(folder.final.path(frame), final_hash(picture_hash, chain), FINISHED, "hr:final", frame - offset)
            state = final if final != WAITING else state
        elif not folder.finishes and state == RENDERED:
            state = FINISHED
        out[frame] = state
    return out


def _state(path: Path, wanted: str, good: FrameState, attribute: str, shows: int) -> FrameState:
    try:
        header = read_header(path, whole=True)
    except PictureError:
        return WAITING
    same = header.attributes.get(attribute) == wanted and header.attributes.get("hr:frame") == f"{shows}"
    return good if same else OTHER
