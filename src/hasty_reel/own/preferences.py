"""How a person wants the window on this machine, kept in one small file of settings (docs/files.md tells its fields)."""

from __future__ import annotations

from pathlib import Path

import msgspec
import platformdirs

from hasty_reel.errors import WrongInput
from hasty_reel.own.jsonfile import read_json, save_json

TEXT_SIZES = (100, 110, 125, 150)
"""Percent of the usual size, of letters and all that they stand in."""
SURROUNDS = {"dark": "dark", "grey": "middle grey"}
"""What lies around pictures, by the value in the file; in words."""


class Preferences(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What is kept.

    text_size : percent, one of `TEXT_SIZES`
    surround : of pictures, one of `SURROUNDS`
    """

    text_size: int = 100
    surround: str = "dark"


def preferences_path() -> Path:
    """Return where they are kept."""
    return Path(platformdirs.user_config_dir("hasty-reel")) / "preferences.json"


def checked_preferences(held: Preferences) -> Preferences:
    """Return preferences that make sense.

    Parameters
    ----------
    held : as they stand in a file

    Raises
    ------
    WrongInput
        Names the field and what was expected.
    """
    if held.text_size not in TEXT_SIZES:
        raise WrongInput(f"text_size: {held.text_size}; expected one of {', '.join(map(str, TEXT_SIZES))}.")
    if held.surround not in SURROUNDS:
        raise WrongInput(f"surround: '{held.surround[:40]}'; expected one of {', '.join(SURROUNDS)}.")
    return held


def preferences() -> Preferences:
    """Return what is kept, or what ships.

    Raises
    ------
    WrongInput
        When what is kept makes no sense.
    """
    return read_json(preferences_path(), Preferences, checked_preferences, Preferences(), "how the window is wanted", WrongInput)


def keep_preferences(**changed: object) -> Preferences:
    """Change some of what is kept, and return all of it.

    Parameters
    ----------
    **changed : fields of `Preferences` with their new values

    Raises
    ------
    WrongInput
        When a value makes no sense, or it cannot be saved.
    """
    made = checked_preferences(msgspec.structs.replace(preferences(), **changed))
    save_json(preferences_path(), made, WrongInput)
    return made
