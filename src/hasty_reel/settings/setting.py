"""One setting: its words, unit, bounds and names, what it acts on, and how renderers and regressions are told of it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum
from typing import Literal

from hasty_reel.errors import ReelError
from hasty_reel.typednumbers import read_number

Value = int | float | None


class Acts(Enum):
    """What a setting acts on: what has to be done anew when it changes."""

    PICTURE = "picture"
    """The rendered picture: frames rendered before show something else."""
    FINISHING = "finishing"
    """The finished picture: frames are finished anew, not rendered."""
    BUDGET = "budget"
    """How many samples frames get: the picture is the same but for its noise."""
    SCHEDULE = "schedule"
    """Only when and in which pieces frames are rendered: the same picture comes of it."""


@dataclass(frozen=True)
class Axis:
    """Where the values of a setting lie on the axis on which its effect is interpolated.

    scale : of the axis; none_as, zero_as : number that stands for no value, and for 0, where these mean something else than little
    """

    scale: Literal["linear", "log", "log1p"] = "linear"
    none_as: float = 0.0
    zero_as: float = 0.0

    def at(self, value: Value) -> float:
        """Return where a value stands.

        Parameters
        ----------
        value : of the setting
        """
        number = self.none_as if value is None else float(value) or self.zero_as
        if self.scale == "log":
            return math.log(number or 1.0)
        return math.log1p(number) if self.scale == "log1p" else number


@dataclass(frozen=True)
class Setting:
    """One setting of a recipe. See `recipe.Recipe` for those that ship, `own.OwnSetting` for an artist's own.

    group, label : where and as what it stands in the ledger; full : its name in lists and sentences, '' for the label
    unit : '' for none; low, high, step : bounds, and how far a key takes it; whole, odd, optional : kinds of numbers it takes
    neutral : the value that leaves it out; names : values that go by a name; meaning : in a sentence
    acts : what it acts on; proofs : whether proofs may vary it; axis : how its levels enter a regression of cost and noise over
        proofs, None where it changes neither
    ability : what a renderer must be able to for it, of `messages.ABILITIES`; '' for nothing of its own
    placeholder : name under which a linked renderer is told of it, '' where it is not; told_none : what it is told where there is
        no value
    usual : values that a sweep over it begins with; coarser : more of it is less work
    always : in sight also where it is left out; field : its name in a recipe
    """

    group: str
    label: str
    unit: str
    low: float
    high: float
    neutral: Value
    step: float
    acts: Acts
    whole: bool = True
    optional: bool = False
    odd: bool = False
    full: str = ""
    names: tuple[tuple[Value, str], ...] = ()
    axis: Axis | None = None
    proofs: bool = True
    ability: str = ""
    placeholder: str = ""
    told_none: float = 0.0
    usual: tuple[Value, ...] = ()
    coarser: bool = False
    always: bool = False
    meaning: str = ""
    field: str = ""

    def checked(self, value: Value, where: str) -> Value:
        """Return the value, if this setting can take it.

        Parameters
        ----------
        value : a value
        where : the same in words, for the message

        Raises
        ------
        ReelError
            Says where, what was given and what was expected.
        """
        if value is None:
            if self.optional:
                return None
            raise ReelError(f"{where}: {self.words} is missing; expected {self.expected}.")
        good = isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)
        if not good or not self.low <= value <= self.high or (self.whole and value != int(value)) or (self.odd and int(value) % 2 == 0):
            raise ReelError(f"{where}: {self.words} is {value}; expected {self.expected}.")
        return int(value) if self.whole else float(value)

    def nearest(self, value: float) -> int | float:
        """Return the value within the bounds of this setting that is nearest to another.

        Parameters
        ----------
        value : a value
        """
        held = min(max(value, self.low), self.high)
        return int(held) if self.whole else float(held)

    @property
    def words(self) -> str:
        """Its name in a sentence."""
        return self.full or self.label.lower()

    def text(self, value: Value) -> str:
        """Return a value as it is written: by its name where it has one.

        Parameters
        ----------
        value : a value
        """
        for named, name in self.names:
            if value == named:
                return name
        return "none" if value is None else f"{value:g}"

    def told(self, value: Value) -> str:
        """Return a value as a linked renderer is told of it.

        Parameters
        ----------
        value : a value
        """
        return f"{self.told_none if value is None else value:.10g}"

    def named(self, text: str) -> tuple[bool, Value]:
        """Whether a text is the name of a value, and that value.

        Parameters
        ----------
        text : as written

        Returns
        -------
        is_name : bool
            Whether the text is the name of a value.
        value : Value
            That value; None where it is none.
        """
        for value, name in self.names:
            if text.strip().lower() == name.lower():
                return True, value
        return False, None

    def read(self, text: str) -> Value:
        """Read a value of this setting as it is typed.

        Parameters
        ----------
        text : as typed

        Returns
        -------
        Value
            The value; None where the setting has none.

        Raises
        ------
        ValueError
            When it is no number.
        """
        is_name, value = self.named(text)
        if is_name:
            return value
        value = read_number(text)
        return int(value) if value is not None and self.whole and value == int(value) else value

    @property
    def expected(self) -> str:
        """The values this setting takes, in words."""
        kind = "an odd whole number" if self.odd else "a whole number" if self.whole else "a number"
        text = f"{kind} from {self.low:g} to {self.high:g}"
        text = f"{text}, or none" if self.optional else text
        return " or ".join(n for _, n in self.names) if len(self.names) == self.high - self.low + 1 else text
