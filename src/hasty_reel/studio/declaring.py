"""A setting of the artist's own while it is declared: as it is typed, taken from those that are kept, put into the reel."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Any

import msgspec
from psygnal import Signal

from hasty_reel.errors import HastyReelError
from hasty_reel.own.ownrecipes import KEPT_SETTINGS
from hasty_reel.reel.edits import with_own_setting, without_own_setting
from hasty_reel.settings.own import OwnSetting, checked_own_setting
from hasty_reel.typednumbers import read_number

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext

KINDS = (("number", "a number"), ("choice", "a choice of names"), ("switch", "off or on"))
ACTS = (("picture", "the picture and the time"), ("time", "the time alone"))
NUMBERS = ("low", "high", "step")
FIRST = OwnSetting(name="", label="")


def name_of(label: str) -> str:
    """Return the name a setting gets from its label: small letters, digits and underscores.

    Parameters
    ----------
    label : as it is typed
    """
    return re.sub(r"[^a-z0-9]+", "_", label.lower()).strip("_0123456789")[:32].strip("_")


class DeclarationModel:
    """One declaration, of a new setting or of one that the reel has.

    draft : as it stands; answer : what is wrong with it, or what came of it. changed() : something of this

    Parameters
    ----------
    session : the open reel
    name : of the setting that is changed; None declares a new one
    """

    changed = Signal()

    def __init__(self, session: ShotContext, name: str | None = None) -> None:
        self._session = session
        self.name = name
        self.draft = next((s for s in session.reel.settings if s.name == name), FIRST)
        self.answer = ""

    @property
    def kept(self) -> list[OwnSetting]:
        """Settings kept for all reels which this one has not."""
        try:
            found = KEPT_SETTINGS.read().items
        except HastyReelError as error:
            self._session.said.emit(str(error))
            return []
        here = {s.name for s in self._session.reel.settings}
        return [s for s in found if s.name not in here]

    def take(self, name: str) -> None:
        """Begin with one that is kept.

        Parameters
        ----------
        name : of the setting
        """
        self.draft = next(s for s in self.kept if s.name == name)
        self._say("")

    def change(self, **changes: Any) -> None:
        """Change fields of the declaration.

        Parameters
        ----------
        **changes : by field
        """
        follows = self.draft.name == name_of(self.draft.label)
        self.draft = msgspec.structs.replace(self.draft, **changes)
        if "label" in changes and follows and self.name is None:
            self.draft = msgspec.structs.replace(self.draft, name=name_of(self.draft.label))
        if changes.get("kind", "choice") != "choice":
            self.draft = msgspec.structs.replace(self.draft, choices=())
        self._say("")

    def type_value(self, field: str, text: str) -> None:
        """Set a field of the declaration as it is typed.

        Parameters
        ----------
        field : of the declaration
        text : as typed; choices with commas between them
        """
        if field == "choices":
            self.change(choices=tuple(part.strip() for part in text.split(",") if part.strip()))
            return
        if field in NUMBERS or field == "default":
            try:
                value = self.draft.setting.read(text) if field == "default" else read_number(text)
            except (ValueError, IndexError):
                value = None
            if value is None:
                wanted = "a number" if field in NUMBERS else self.draft.setting.expected
                self._say(f"{field.capitalize()}: '{text[:40]}'; expected {wanted}.")
                return
            self.change(**{field: float(value)})
            return
        self.change(**{field: text.strip()})

    def save(self, keep: bool) -> bool:
        """Put the declaration into the reel; what is wrong with it is the answer.

        Parameters
        ----------
        keep : offer it in other reels, too

        Returns
        -------
        bool
            Whether the reel has it now.
        """
        draft, old = self.draft, self.name
        try:
            checked_own_setting(draft, "Here")
            with_own_setting(self._session.reel, draft, old)
            if keep:
                KEPT_SETTINGS.save(KEPT_SETTINGS.read().added(draft))
        except HastyReelError as error:
            self._say(str(error).removeprefix("Here, "))
            return False
        words = f"{'Add' if old is None else 'Change'} setting {draft.label}"
        self._session.do(words, lambda reel: with_own_setting(reel, draft, old))
        self.name = draft.name
        self._say(f"Links take it as {{{draft.field}}}.")
        return True

    def remove(self) -> None:
        """Take the setting out of the reel, with all its values."""
        name, label = self.name, self.draft.label
        if name is not None:
            self._session.do(f"Remove setting {label}", lambda reel: without_own_setting(reel, name))

    def _say(self, words: str) -> None:
        self.answer = words
        self.changed.emit()
