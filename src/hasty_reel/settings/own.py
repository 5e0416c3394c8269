"""Settings of the artist's own: what their renderer takes and this program has never heard of.

Such a setting is declared in the reel, so that it travels with it, and behaves as one of ours from then on. It never
starts anything: its value fills the place {own.NAME} of a renderer link, as a number.
"""

from __future__ import annotations

import math
import re
from functools import cached_property
from typing import Literal

import msgspec

from hasty_reel.errors import ReelError
from hasty_reel.settings.setting import Acts, Axis, Setting, Value

OWN = "own."
"""Begins the field of an own setting, its place in a command line, and the path on ours."""
GROUP = "Own"
MOST_OWN_SETTINGS, MOST_CHOICES = 64, 24
LONGEST_LABEL, LONGEST_UNIT, LONGEST_MEANING = 40, 12, 400
LARGEST_NUMBER = 1e12
_NAME = re.compile(r"[a-z][a-z0-9_]{0,31}\Z")


class OwnValue(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The value that a recipe has of an own setting: a number, or the place of a choice, counted from 0."""

    name: str
    value: float


class OwnSetting(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True, dict=True):
    """One setting of the artist's own.

    name : under which renderers, command line and files know it; label : as it stands in the ledger
    kind : 'number' with bounds and a step, 'choice' of some names, or 'switch' that is off or on
    default : value that recipes have unless they say otherwise, and that leaves it out; of a choice its place from 0
    acts_on : 'picture', or 'time' where the same picture comes of it
    """

    name: str
    label: str
    kind: Literal["number", "choice", "switch"] = "number"
    unit: str = ""
    low: float = 0.0
    high: float = 100.0
    step: float = 1.0
    whole: bool = False
    choices: tuple[str, ...] = ()
    default: float = 0.0
    acts_on: Literal["picture", "time"] = "picture"
    meaning: str = ""

    @property
    def field(self) -> str:
        """Its name among all settings."""
        return OWN + self.name

    @cached_property
    def setting(self) -> Setting:
        """Its declaration, as every other setting has one."""
        names: tuple[tuple[Value, str], ...] = ()
        low, high, step, whole = self.low, self.high, self.step, self.whole
        if self.kind != "number":
            choices = self.choices if self.kind == "choice" else ("off", "on")
            names = tuple(enumerate(choices))
            low, high, step, whole = 0.0, float(len(choices) - 1), 1.0, True
        default: int | float = int(self.default) if whole else self.default
        picture = self.acts_on == "picture"
        # what is placed by choice has no order, but as many levels as proofs tried are told apart on any axis
        return Setting(
            GROUP, self.label, self.unit, low, high, default, step, Acts.PICTURE if picture else Acts.SCHEDULE, whole=whole,
            full=self.label.lower(), names=names, axis=Axis(), placeholder=self.field, always=True, field=self.field,
            usual=tuple(range(len(names))) if names else (),
            meaning=self.meaning or f"A setting of your own; renderers get it as {{{self.field}}}.",
        )  # fmt: skip


def is_own(field: str) -> bool:
    """Whether a field is that of an own setting.

    Parameters
    ----------
    field : name among all settings
    """
    return field.startswith(OWN)


def checked_own_setting(found: OwnSetting, where: str) -> OwnSetting:
    """Return an own setting, if it makes sense.

    Parameters
    ----------
    found : the setting
    where : whose it is, in words for the message

    Raises
    ------
    ReelError
        Says what is wrong with it and what was expected.
    """
    where = f"{where}, own setting '{found.name[:40]}'"
    if not _NAME.match(found.name):
        raise ReelError(f"{where}: expected a name of small letters, digits and _, up to 32, such as shadow_quality.")
    words = (("label", found.label, LONGEST_LABEL), ("unit", found.unit, LONGEST_UNIT), ("meaning", found.meaning, LONGEST_MEANING))
    for what, text, most in words:
        if len(text) > most or not (text or "x").isprintable() or any("\ud800" <= c <= "\udfff" for c in text):
            raise ReelError(f"{where}: {what} '{text[:40]!a}'; expected up to {most} characters that show.")
    if not found.label.strip():
        raise ReelError(f"{where}: no label; expected a name as it is to stand in the ledger.")
    if found.kind == "choice":
        _check_choices(found, where)
    elif found.choices:
        raise ReelError(f"{where}: choices of a {found.kind}; expected them with kind 'choice' alone.")
    if found.kind == "number":
        _check_bounds(found, where)
    setting = found.setting
    setting.checked(setting.neutral if found.default == setting.neutral else found.default, where)
    return found


def _check_choices(found: OwnSetting, where: str) -> None:
    names = [c.strip().lower() for c in found.choices]
    if not 2 <= len(names) <= MOST_CHOICES or len(set(names)) != len(names):
        raise ReelError(f"{where}: {len(names)} choices; expected 2 to {MOST_CHOICES} different ones.")
    for choice in found.choices:
        if not choice.strip() or len(choice) > LONGEST_LABEL or not choice.isprintable() or set(choice) & set(",;→"):
            raise ReelError(f"{where}: choice '{choice[:40]!a}'; expected up to {LONGEST_LABEL} characters without commas.")
        if choice.strip().lower() == "none":
            raise ReelError(f"{where}: choice 'none' would read as no value; expected another name, such as off.")


def _check_bounds(found: OwnSetting, where: str) -> None:
    numbers = (found.low, found.high, found.step, found.default)
    if not all(math.isfinite(v) and abs(v) <= LARGEST_NUMBER for v in numbers):
        raise ReelError(f"{where}: bounds, step and default; expected numbers up to {LARGEST_NUMBER:g}.")
    if not found.low < found.high or not 0 < found.step <= found.high - found.low:
        raise ReelError(
            f"{where}: from {found.low:g} to {found.high:g} by {found.step:g}; expected a lower and an upper bound, and a step between."
        )
    if found.whole and any(v != int(v) for v in (found.low, found.high, found.step)):
        raise ReelError(f"{where}: bounds and step of whole numbers; expected whole numbers.")
