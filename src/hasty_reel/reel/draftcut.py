"""Draft cuts: reductions for quick looks that lie over a recipe.

They belong to the artist, not to a reel: they are kept in a file of their own, go from
reel to reel, and the reel document has no place for them. `drafted` is the only way a cut
meets a recipe; what comes out is a recipe for proofs, which the plan, the final run, the
exports and the reel file never see.
"""

from __future__ import annotations

from pathlib import Path

import msgspec
import platformdirs

from hasty_reel.errors import ReelError
from hasty_reel.kept import read_kept, save_kept
from hasty_reel.reel.recipe import LINE, Recipe

MOST_CUTS = 100


class DraftCut(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """A named reduction; each line says 'at most this', None leaves the recipe as it is.

    size : of a proof, in percent of the delivered width
    samples : per pixel
    bounces, shutter_steps, fog_step : as in a recipe; the fog step is 'at least this'
    guides : False renders no guides beside the picture
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


class DraftCuts(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """All draft cuts and the one that is chosen."""

    cuts: tuple[DraftCut, ...]
    chosen: str

    @property
    def current(self) -> DraftCut:
        """The chosen cut."""
        return next((c for c in self.cuts if c.name == self.chosen), self.cuts[0])


SHIPPED = DraftCuts(
    cuts=(
        DraftCut(name="First look", size=10.0, samples=4, bounces=1, shutter_steps=1, fog_step=400.0, guides=False, seeds=1),
        DraftCut(name="Light check", size=15.0, samples=8, shutter_steps=1, fog_step=200.0),
    ),
    chosen="First look",
)


def drafted(recipe: Recipe, cut: DraftCut) -> Recipe:
    """The recipe for a proof under a cut."""
    changes: dict = {"name": f"{recipe.name} under draft cut '{cut.name}'"}
    if cut.bounces is not None:
        changes["bounces"] = min(recipe.bounces, cut.bounces)
    if cut.shutter_steps is not None:
        # random shutter times (0) count as the most steps
        changes["shutter_steps"] = min(recipe.shutter_steps or cut.shutter_steps, cut.shutter_steps)
    if cut.fog_step is not None:
        changes["fog_step"] = max(recipe.fog_step, cut.fog_step)
    return msgspec.structs.replace(recipe, **changes)


def checked_cuts(cuts: DraftCuts) -> DraftCuts:
    """The cuts, if they make sense.

    Raises
    ------
    ReelError
        Names the cut, the line and what was expected.
    """
    if not 1 <= len(cuts.cuts) <= MOST_CUTS:
        raise ReelError(f"Draft cuts: {len(cuts.cuts)}; expected 1 to {MOST_CUTS}.")
    names = [c.name for c in cuts.cuts]
    if len(set(names)) != len(names):
        raise ReelError("Draft cuts: two of one name; expected different names.")
    for cut in cuts.cuts:
        where = f"Draft cut '{cut.name[:60]}'"
        if not cut.name.strip() or len(cut.name) > 200 or not cut.name.isprintable():
            raise ReelError(f"{where}: expected a name of up to 200 characters.")
        for value, low, high, words in (
            (cut.size, 1, 200, "size"),
            (cut.samples, 1, 65536, "samples"),
            (cut.bounces, LINE["bounces"].low, LINE["bounces"].high, "bounces"),
            (cut.shutter_steps, 1, LINE["shutter_steps"].high, "shutter steps"),
            (cut.fog_step, LINE["fog_step"].low, LINE["fog_step"].high, "fog step"),
            (cut.seeds, 1, 2, "seeds"),
        ):
            if value is not None and not low <= value <= high:
                raise ReelError(f"{where}: {words} {value:g}; expected {low:g} to {high:g}, or none.")
    return cuts


def cuts_path() -> Path:
    """Where the artist's draft cuts are kept."""
    return Path(platformdirs.user_config_dir("hasty-reel")) / "draft-cuts.json"


def read_cuts(path: Path) -> DraftCuts:
    """The kept draft cuts; those that ship while none are kept.

    Raises
    ------
    ReelError
        Names the file, the field and what was expected.
    """
    return read_kept(path, DraftCuts, checked_cuts, SHIPPED, "draft cuts", ReelError)


def save_cuts(path: Path, cuts: DraftCuts) -> None:
    """Keep the draft cuts.

    Raises
    ------
    ReelError
        When the file cannot be written.
    """
    save_kept(path, checked_cuts(cuts), ReelError)
