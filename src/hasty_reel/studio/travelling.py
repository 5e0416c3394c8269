"""Recipes that go from reel to reel: saved to files, kept for the person, taken into the reel."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from hasty_reel.errors import HastyReelError
from hasty_reel.own.ownrecipes import KEPT_RECIPES
from hasty_reel.programs.ownsteps import lacking_steps
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits import with_brought_recipe
from hasty_reel.reel.recipefile import read_recipe, save_recipe
from hasty_reel.settings.recipe import Recipe

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


class RecipeTravel:
    """What is done with recipes beyond one reel; what came of it is said.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        self._session = session

    @property
    def kept(self) -> list[str]:
        """Names of the recipes that the person keeps."""
        try:
            return [recipe.name for recipe in KEPT_RECIPES.read().items]
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return []

    def keep(self, name: str) -> None:
        """Keep a recipe of the reel for other reels, in place of one of its name.

        Parameters
        ----------
        name : of the recipe
        """
        reel = self._session.reel
        self._try(lambda: KEPT_RECIPES.save(KEPT_RECIPES.read().added(reel.declared(reel.recipe(name)))), f"Recipe '{name}' is kept.")

    def take(self, name: str) -> None:
        """Take a recipe that is kept into the reel.

        Parameters
        ----------
        name : of the recipe
        """
        try:
            self._bring(next(recipe for recipe in KEPT_RECIPES.read().items if recipe.name == name))
        except HastyReelError as error:
            self._session.said.emit(str(error))

    def save(self, name: str, path: Path) -> None:
        """Save a recipe of the reel to a file.

        Parameters
        ----------
        name : of the recipe
        path : of the file
        """
        reel = self._session.reel
        self._try(lambda: save_recipe(path, reel.declared(reel.recipe(name))), f"Recipe '{name}' is saved: {path.name}.")

    def load(self, path: Path) -> None:
        """Take a recipe from a file into the reel.

        Parameters
        ----------
        path : of the file
        """
        try:
            self._bring(read_recipe(path))
        except HastyReelError as error:
            self._session.said.emit(str(error))

    def _bring(self, recipe: Recipe) -> None:
        said = lacking_steps(recipe.finish_order)

        def _change(reel: Reel) -> Reel:
            new, words = with_brought_recipe(reel, recipe)
            said[len(said) :] = words
            return new

        self._session.do(f"Bring in recipe {recipe.name}", _change)
        self._session.said.emit(" ".join([f"Recipe '{self._session.reel.recipes[-1].name}' is in the reel.", *said]))

    def _try(self, act: Callable[[], object], words: str) -> None:
        try:
            act()
        except HastyReelError as error:
            self._session.said.emit(str(error))
        else:
            self._session.said.emit(words)
