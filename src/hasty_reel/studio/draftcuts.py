"""Edits of the draft cuts: values as they are typed, copies, removal."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.reel.draftcut import DraftCut
from hasty_reel.settings.own import OWN, OwnValue, is_own
from hasty_reel.settings.setting import Setting
from hasty_reel.typednumbers import read_number

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

FRACTIONS = ("size", "fog_step")
"""Lines that need not be whole."""


def cut_value_text(cut: DraftCut, name: str, setting: Setting | None = None) -> str:
    """Return a line of a draft cut as it is written.

    Parameters
    ----------
    cut : the cut
    name : of its field
    setting : declaration of the own setting that the line is of; None where it is none

    Returns
    -------
    str
        Words; 'none' where the recipe is left as it is.
    """
    if setting is not None:
        held = next((v.value for v in cut.own if v.name == setting.field.removeprefix(OWN)), None)
        return "none" if held is None else setting.text(held)
    value = getattr(cut, name)
    return "none" if value is None else f"{value:g}" if isinstance(value, float) else str(value)


class DraftCutsModel:
    """Edits of the chosen cut; what makes no sense is said, and nothing changes.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        self._session = session

    def choose(self, name: str) -> None:
        """Choose another cut.

        Parameters
        ----------
        name : of the cut
        """
        own = self._session.own
        own.set_cuts(own.cuts.choosing(name))

    def change(self, **changes: Any) -> None:
        """Change lines of the chosen cut.

        Parameters
        ----------
        **changes : by field
        """
        own = self._session.own
        own.set_cuts(own.cuts.changed(own.cuts.current, msgspec.structs.replace(own.cuts.current, **changes)))

    def type_value(self, name: str, text: str) -> None:
        """Set a line of the chosen cut as it is typed.

        Parameters
        ----------
        name : of its field
        text : a name, a number, or 'none'
        """
        if name == "name":
            self.change(name=text)
            return
        if is_own(name):
            self._type_own(name, text)
            return
        try:
            value: float | int | None = read_number(text)
        except ValueError:
            self._refuse(f"Draft cut: '{text}' is no number; expected a number, or none.")
            return
        if value is not None and name not in FRACTIONS:
            if value != int(value):
                self._refuse(f"Draft cut: {name.replace('_', ' ')} {value:g}; expected a whole number.")
                return
            value = int(value)
        self.change(**{name: 2 if value is None and name == "seeds" else value})

    def _type_own(self, field: str, text: str) -> None:
        """Set an own setting in the chosen cut; 'none' leaves the recipe as it is."""
        setting = self._session.recipe.setting(field)
        name, cut = field.removeprefix(OWN), self._session.own.cuts.current
        left = tuple(v for v in cut.own if v.name != name)
        if text.strip().lower() == "none":
            self.change(own=left)
            return
        try:
            value = setting.checked(setting.read(text), "Draft cut")
        except (ValueError, WrongInput):
            self._refuse(f"Draft cut: {setting.words} '{text[:40]}'; expected {setting.expected}, or none.")
            return
        self.change(own=(*left, OwnValue(name, float(value or 0.0))))

    def _refuse(self, words: str) -> None:
        self._session.said.emit(words)
        self._session.own.draft_changed.emit()

    def duplicate(self) -> None:
        """Add a copy of the chosen cut, and choose it."""
        own = self._session.own
        cut = own.cuts.current
        own.set_cuts(own.cuts.added(msgspec.structs.replace(cut, name=own.cuts.free_name(cut.name))))

    def remove(self) -> None:
        """Take the chosen cut out."""
        own = self._session.own
        own.set_cuts(own.cuts.without(own.cuts.current))
