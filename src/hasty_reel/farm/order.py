"""What to render as a proof: frames with a recipe, in which size, with which limits."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from hasty_reel.errors import WrongInput
from hasty_reel.reel.draftcut import DraftCut, drafted
from hasty_reel.reel.shot import Shot
from hasty_reel.scaledsize import scaled_size
from hasty_reel.settings.recipe import Recipe


@dataclass(frozen=True)
class ProofOrder:
    """What to render.

    scale : in percent of the delivered width
    seeds : 2 where noise is to be measured, 1 for times alone
    guides : render guides with frames in a row, so that motion is known and denoising can be tried
    draft : name of the draft cut that made it; '' for none
    stop_noise : stop where the noise of a pixel is below this, and cap : seconds a picture may take; both with
        `samples` as the most and `floor` as the fewest samples
    parent : id of the proof it varies; '' for none
    sweep : name of the sweep it belongs to, '' for none
    scan : it tells how the cost changes from frame to frame, and nothing else
    small : its pictures are kept small, once their noise was measured
    crop : left, top, width and height of the part of each frame that is rendered, in pixels at its scale; None for all
    """

    shot: Shot
    recipe: Recipe
    frames: tuple[int | float, ...]
    samples: int = 16
    scale: float = 25.0
    seeds: int = 2
    guides: bool = True
    draft: str = ""
    floor: int = 4
    stop_noise: float | None = None
    cap: float | None = None
    parent: str = ""
    sweep: str = ""
    scan: bool = False
    small: bool = False
    crop: tuple[int, int, int, int] | None = None

    def pixels(self, size: tuple[int, int]) -> int:
        """Return the pixels of each of its pictures.

        Parameters
        ----------
        size : pixels of the delivered picture, across and down
        """
        width, height = scaled_size(size, self.scale) if self.crop is None else self.crop[2:]
        return width * height

    @property
    def tiles(self) -> int:
        """Tiles across and down: none is larger than those of the finals, and what fits in one is rendered whole."""
        if self.crop is not None:
            return 1
        return max(1, math.ceil(self.recipe.tiles * self.scale / self.recipe.render_scale - 1e-9))

    def under(self, cut: DraftCut) -> ProofOrder:
        """Return this order with a draft cut over it; the only place where a cut meets what is rendered.

        Parameters
        ----------
        cut : the draft cut

        Returns
        -------
        ProofOrder
            The order, its frames and settings checked.
        """
        return replace(
            self,
            recipe=drafted(self.recipe, cut),
            samples=self.samples if cut.samples is None else min(self.samples, cut.samples),
            scale=self.scale if cut.size is None else min(self.scale, cut.size),
            seeds=min(self.seeds, cut.seeds),
            guides=self.guides and cut.guides,
            crop=self.crop if cut.size is None or cut.size >= self.scale else None,
            draft=cut.name,
        )

    def checked(self) -> ProofOrder:
        """This order, if it can be carried out.

        Raises
        ------
        WrongInput
            Names what is out of bounds.
        """
        begin, end = self.shot.begin, self.shot.past - 1
        outside = [f for f in self.frames if not begin <= f <= end]
        if not self.frames:
            raise WrongInput(f"Proof of {self.shot.id}: no frames; expected some of {begin}-{end}.")
        if outside:
            raise WrongInput(f"Proof of {self.shot.id}: frame {outside[0]} is not in the shot; expected {begin} to {end}.")
        if not 1 <= self.samples <= 65536:
            raise WrongInput(f"Proof of {self.shot.id}: {self.samples} samples; expected 1 to 65536.")
        if not 1 <= self.floor <= 65536:
            raise WrongInput(f"Proof of {self.shot.id}: floor {self.floor}; expected 1 to 65536.")
        for words, value in (("noise to stop at", self.stop_noise), ("time cap", self.cap)):
            if value is not None and not 0 < value < 1e6:
                raise WrongInput(f"Proof of {self.shot.id}: {words} {value:g}; expected a number above 0, or none.")
        if not 1 <= self.scale <= 200:
            raise WrongInput(f"Proof of {self.shot.id}: scale {self.scale:g} %; expected 1 to 200 %.")
        return self
