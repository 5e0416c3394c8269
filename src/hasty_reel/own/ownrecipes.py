"""The recipes and own settings that a person keeps, to be taken into any reel."""

from __future__ import annotations

from hasty_reel.errors import ReelError
from hasty_reel.own.chosenlist import ChosenList, KeptList
from hasty_reel.reel.recipefile import checked_travelling
from hasty_reel.settings.own import OwnSetting, checked_own_setting
from hasty_reel.settings.recipe import Recipe

KEPT_RECIPES: KeptList[Recipe] = KeptList(
    "recipes.json", "recipes", Recipe, "recipes", ChosenList((), optional=True), checked_travelling, ReelError
)
"""The artist's usual recipes, each with the declarations of its own settings."""
KEPT_SETTINGS: KeptList[OwnSetting] = KeptList(
    "own-settings.json", "settings", OwnSetting, "own settings", ChosenList((), optional=True), checked_own_setting, ReelError
)
"""Own settings that are offered in every reel."""
