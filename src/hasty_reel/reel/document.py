"""The reel: one frozen document; every edit makes a new one."""

from __future__ import annotations

from datetime import datetime
from fractions import Fraction
from functools import cached_property

import msgspec

from hasty_reel.errors import ReelError, WrongInput
from hasty_reel.reel.calm import USUAL_CALM, Calm, Viewing
from hasty_reel.reel.machine import Machine
from hasty_reel.reel.rate import read_timecode
from hasty_reel.reel.resolved import ResolvedRecipe
from hasty_reel.reel.shot import Shot
from hasty_reel.reel.size import Panorama
from hasty_reel.settings.own import OwnSetting
from hasty_reel.settings.recipe import SETTING, Recipe, departing
from hasty_reel.settings.setting import Setting

FORMAT = 2


class Reel(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True, dict=True):
    """The whole job.

    rate : frames per second as numerator and denominator, (24000, 1001) for 23.976
    timecode_start : timecode of the first frame of the film
    drop_frame : count drop-frame where the rate has it
    width, height : delivered size in pixels
    pixel_aspect : width / height of one pixel
    camera_aspect : width / height of what the camera sees, kept when a side is set; None: sides are free
    panorama : the delivered picture is a sphere of which only the forward part is rendered; None: a flat picture
    calm : how many viewers in a hundred may see unrest; viewing : where it is seen
    due : when everything must be ready, ISO 8601 with zone
    proofs : folder of the proofs, beside the reel file
    settings : declarations of the artist's own settings, in the order of the ledger
    """

    reel_format: int = FORMAT
    name: str
    rate: tuple[int, int] = (24, 1)
    timecode_start: str = "00:00:00:00"
    drop_frame: bool = True
    width: int = 1920
    height: int = 1080
    pixel_aspect: tuple[int, int] = (1, 1)
    camera_aspect: tuple[int, int] | None = None
    panorama: Panorama | None = None
    calm: Calm = USUAL_CALM
    viewing: Viewing = "laptop"
    due: str
    proofs: str = "proofs"
    shots: tuple[Shot, ...]
    recipes: tuple[Recipe, ...]
    machines: tuple[Machine, ...]
    settings: tuple[OwnSetting, ...] = ()

    @cached_property
    def fps(self) -> Fraction:
        """Frames per second, exactly."""
        return Fraction(*self.rate)

    @property
    def due_time(self) -> datetime:
        """The due time with its zone."""
        return datetime.fromisoformat(self.due)

    @cached_property
    def tasks(self) -> tuple[Shot, ...]:
        """What is to be rendered: the enabled shots, each as itself or as its layers."""
        return tuple(t for s in self.shots if s.enabled for t in s.as_layers())

    @cached_property
    def queue(self) -> tuple[Shot, ...]:
        """The same in the order in which it is rendered: by priority, then as in the film; of a shot the plates that are held first."""
        order = {s.id: k for k, s in enumerate(self.shots)}
        return tuple(sorted(self.tasks, key=lambda t: (-t.priority, order[t.id.partition(".")[0]], len(t.frames) > 1)))

    @cached_property
    def _by_id(self) -> dict[str, Shot]:
        found = {s.id: s for s in self.shots}
        found.update((t.id, t) for s in self.shots if s.layers for t in s.as_layers())
        return found

    @cached_property
    def places(self) -> dict[str, int]:
        """The frame of the film, counted from 0, at which each enabled shot's cut begins."""
        out, place = {}, 0
        for shot in self.shots:
            if shot.enabled:
                out[shot.id] = place
                place += shot.length
        return out

    @cached_property
    def length(self) -> int:
        """Frames of the film."""
        return sum(s.length for s in self.shots if s.enabled)

    @cached_property
    def start_frame(self) -> int:
        """Frames the film's timecode begins with."""
        try:
            return read_timecode(self.timecode_start, self.fps, self.drop_frame)
        except WrongInput:  # a rate that has no timecode
            return 0

    def film_place(self, shot: Shot, frame: int) -> int | None:
        """Return the frame of the film, counted from 0, that a frame of a shot is; None where the shot does not play.

        Parameters
        ----------
        shot : the shot or layer
        frame : as the shot numbers it
        """
        base = self.places.get(shot.id.partition(".")[0])
        return None if base is None else base + frame - shot.first

    def has_shot(self, shot_id: str) -> bool:
        """Whether there is a shot, or a layer as 'shot.layer', of that id.

        Parameters
        ----------
        shot_id : of the shot, or of the layer as SHOT.LAYER
        """
        return shot_id in self._by_id

    def shot(self, shot_id: str) -> Shot:
        """Return the shot, or the layer as 'shot.layer', of that id.

        Parameters
        ----------
        shot_id : of the shot, or of the layer as SHOT.LAYER

        Raises
        ------
        ReelError
            When there is none; lists those there are.
        """
        found = self._by_id.get(shot_id)
        if found is None:
            known = ", ".join(list(self._by_id)[:20]) + (" …" if len(self._by_id) > 20 else "")
            raise ReelError(f"Reel '{self.name}': no shot '{shot_id}'; expected one of {known}.")
        return found

    def recipe(self, name: str) -> Recipe:
        """Return the recipe of that name.

        Parameters
        ----------
        name : of the recipe

        Raises
        ------
        ReelError
            When there is none; lists those there are.
        """
        for recipe in self.recipes:
            if recipe.name == name:
                return recipe
        known = ", ".join(f"'{r.name}'" for r in self.recipes)
        raise ReelError(f"Reel '{self.name}': no recipe '{name}'; expected one of {known}.")

    def recipe_of(self, shot: Shot) -> Recipe:
        """Return the recipe of a shot with its departures.

        Parameters
        ----------
        shot : the shot or layer
        """
        return self.declared(departing(self.recipe(shot.recipe), shot.departures))

    def resolved(self, shot: Shot, recipe: Recipe | None = None) -> ResolvedRecipe:
        """Return what a recipe comes to in a shot.

        Parameters
        ----------
        shot : the shot or layer
        recipe : with departures, as if it were the shot's; None: its own
        """
        return ResolvedRecipe.of(self.recipe_of(shot) if recipe is None else recipe, shot, self.picture_size)

    def declared(self, recipe: Recipe) -> Recipe:
        """Return a recipe with the declarations of the own settings of this reel, and a value of each of them.

        Parameters
        ----------
        recipe : of this reel, or that comes to it
        """
        return recipe.declared(self.settings)

    @cached_property
    def _declarations(self) -> dict[str, Setting]:
        return {**SETTING, **{s.field: s.setting for s in self.settings}}

    def setting(self, field: str) -> Setting | None:
        """Return the declaration of a setting, ours or the artist's own; None where there is none of that name.

        Parameters
        ----------
        field : name of the setting
        """
        return self._declarations.get(field)

    @property
    def setting_names(self) -> str:
        """Names of all settings, in words for a message."""
        return ", ".join(self._declarations)

    @property
    def picture_size(self) -> tuple[int, int]:
        """Size in pixels of what is rendered at 100 %: the delivered size, or the forward part of a sphere."""
        if self.panorama is None:
            return self.width, self.height
        width = round(self.width * self.panorama.width / 360.0)
        return max(1, width), max(1, round(self.height * self.panorama.height / 180.0))

    @property
    def frame_speed(self) -> float:
        """Frames rendered, all machines at work, in the time one takes on a machine of speed 1."""
        return sum(m.frame_speed for m in self.machines)
