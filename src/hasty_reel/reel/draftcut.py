"""Draft cuts: reductions for quick looks that lie over a recipe.

They belong to the artist, not to a reel: they are kept in a file of their own, go from
reel to reel, and the reel document has no place for them. `drafted` is the only way a cut
meets a recipe; what comes out is a recipe for proofs, which the plan, the final run, the
exports and the reel file never see.
"""

from __future__ import annotations

import msgspec

from hasty_reel.settings.own import OwnValue
from hasty_reel.settings.recipe import Recipe, departing


class DraftCut(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """A named reduction; each line says 'at most this', None leaves the recipe as it is.

    size : of a proof, in percent of the delivered width
    samples : per pixel
    bounces, shutter_steps, fog_step : as in a recipe; the fog step is 'at least this'
    guides : False renders no guides beside the picture
    own : values of the artist's own settings that count instead, where a reel has them
    seeds : 1 renders one seed, for a look without measured noise
    """

    name: str
    size: float | None = None
    samples: int | None = None
    bounces: int | None = None
    shutter_steps: int | None = None
    fog_step: float | None = None
    guides: bool = True
    seeds: int = 2
    own: tuple[OwnValue, ...] = ()


def drafted(recipe: Recipe, cut: DraftCut) -> Recipe:
    """Return the recipe for a proof under a cut.

    Parameters
    ----------
    recipe : the recipe
    cut : the draft cut
    """
    changes: dict = {"name": f"{recipe.name} under draft cut '{cut.name}'"}
    if cut.bounces is not None:
        changes["bounces"] = min(recipe.bounces, cut.bounces)
    if cut.shutter_steps is not None:
        # random shutter times (0) count as the most steps
        changes["shutter_steps"] = min(recipe.shutter_steps or cut.shutter_steps, cut.shutter_steps)
    if cut.fog_step is not None:
        changes["fog_step"] = max(recipe.fog_step, cut.fog_step)
    here = {s.name: s for s in recipe.own_settings}
    fitting = {here[v.name].field: here[v.name].setting.nearest(v.value) for v in cut.own if v.name in here}
    return departing(msgspec.structs.replace(recipe, **changes), fitting)
