"""What a recipe comes to in one shot: resolved once from recipe, departures, shot and reel, and handed on.

Plan, renderers and finishing take this; none of them asks again how large a frame is rendered, or whether there are
neighbours to denoise over.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from hasty_reel.reel.shot import Shot
from hasty_reel.scaledsize import scaled_size
from hasty_reel.settings.finishorder import chain_words
from hasty_reel.settings.recipe import Recipe


@dataclass(frozen=True)
class ResolvedRecipe:
    """A recipe in a shot.

    recipe : with departures, and the declarations of its own settings
    width, height : pixels of a frame as it is rendered; delivered : width and height as it is delivered
    frames : that are rendered of the shot; in_row : whether every frame is, so that there are neighbours
    loop : first and last frame where the shot goes on with its first frame after its last one; None where it ends
    """

    recipe: Recipe
    width: int
    height: int
    delivered: tuple[int, int]
    frames: int
    in_row: bool
    loop: tuple[int, int] | None = None

    @classmethod
    def of(cls, recipe: Recipe, shot: Shot, delivered: tuple[int, int]) -> ResolvedRecipe:
        """Resolve a recipe.

        Parameters
        ----------
        recipe : with departures
        shot : the shot or layer
        delivered : width and height in pixels of what is rendered at 100 %
        """
        return cls(recipe, *scaled_size(delivered, recipe.render_scale), delivered, len(shot.frames), shot.step == 1, shot.loop)

    @property
    def pixels(self) -> int:
        """Rendered pixels of a frame."""
        return self.width * self.height

    @property
    def scaled(self) -> bool:
        """Whether frames are rendered at another size than they are delivered at."""
        return self.recipe.render_scale != 100.0

    @property
    def resize_gain(self) -> float:
        """Standard deviation of seen noise after shrinking / before.

        What an enlarging filter blurs is not noise removed, since the picture is blurred as much.
        """
        return 1.0 / max(1.0, self.recipe.render_scale / 100.0)

    @property
    def window(self) -> int:
        """Frames that are denoised over, odd; 1 where there are no neighbours, as in a held plate or with a step."""
        return self.recipe.denoise_window if self.in_row and self.frames > 1 else 1

    @property
    def strength(self) -> float:
        """Share of the denoised picture in the finished one, 0 to 1."""
        return self.recipe.denoise_strength / 100.0

    @property
    def thorough(self) -> bool:
        """Whether denoising takes more care."""
        return bool(self.recipe.denoise_thorough)

    @property
    def despike(self) -> bool:
        """Whether sparks are taken out, which needs frames beside."""
        return bool(self.recipe.despike) and self.frames > 1

    @cached_property
    def chain(self) -> str:
        """The finishing chain in words, where it is another than the usual; '' where it is the usual one."""
        return chain_words(self.recipe, self.window)
