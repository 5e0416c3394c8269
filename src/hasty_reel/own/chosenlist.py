"""A list of things of one kind and the one that is chosen, kept for a person in a file of its own.

Renderer links, draft cuts and the eyes that count are such lists: things are told apart by their
name, one of them is chosen (or none, where that makes sense), they are added, changed, copied and taken out.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path
from typing import Any, Generic, Protocol, TypeVar

import msgspec
import platformdirs

from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.own.jsonfile import read_json, save_json

MOST_ITEMS = 100
"""Things in one list."""
LONGEST_NAME = 250
"""Characters."""


class Named(Protocol):
    """Something with a name that tells it from others of its kind."""

    @property
    def name(self) -> str:
        """Its name."""
        raise NotImplementedError


Item = TypeVar("Item", bound=Named)


@dataclass(frozen=True)
class ChosenList(Generic[Item]):
    """Things of one kind, and the name of the one that is chosen; '' for none.

    items : in the order they are listed
    chosen : a name; where nothing has it, the first one counts
    optional : whether none may be chosen
    """

    items: tuple[Item, ...]
    chosen: str = ""
    optional: bool = False

    @property
    def choice(self) -> Item | None:
        """The one that is chosen; None where none is."""
        found = next((x for x in self.items if x.name == self.chosen), None)
        return found if found is not None or self.optional else self.items[0]

    @property
    def current(self) -> Item:
        """The one that is chosen, in a list where one always is."""
        found = self.choice
        assert found is not None
        return found

    def choosing(self, name: str) -> ChosenList[Item]:
        """Return the list with another one chosen.

        Parameters
        ----------
        name : of the one; '' for none

        Returns
        -------
        ChosenList[Item]
            ChosenList
        """
        return replace(self, chosen=name)

    def changed(self, old: Item, new: Item) -> ChosenList[Item]:
        """Return the list with one thing in place of another, chosen.

        Parameters
        ----------
        old, new : what is replaced, and by what

        Returns
        -------
        ChosenList[Item]
            ChosenList
        """
        return replace(self, items=tuple(new if x is old else x for x in self.items), chosen=new.name)

    def added(self, item: Item) -> ChosenList[Item]:
        """Return the list with one thing more, or in place of that of the same name; it is chosen.

        Parameters
        ----------
        item : what is added

        Returns
        -------
        ChosenList[Item]
            ChosenList
        """
        same = next((x for x in self.items if x.name == item.name), None)
        return self.changed(same, item) if same is not None else replace(self, items=(*self.items, item), chosen=item.name)

    def without(self, item: Item) -> ChosenList[Item]:
        """Return the list without one thing; the first of the others is chosen, or none where that may be.

        Parameters
        ----------
        item : what is taken out

        Returns
        -------
        ChosenList[Item]
            ChosenList
        """
        left = tuple(x for x in self.items if x is not item)
        return replace(self, items=left, chosen="" if self.optional or not left else left[0].name)

    def free_name(self, name: str) -> str:
        """Return a name that nothing in the list has yet.

        Parameters
        ----------
        name : of what is copied

        Returns
        -------
        str
            The name with the next free number behind it.
        """
        taken = {x.name for x in self.items}
        base = name[: LONGEST_NAME - 10]
        return next(n for k in range(2, len(taken) + 3) if (n := f"{base} {k}") not in taken)


@dataclass(frozen=True)
class KeptList(Generic[Item]):
    """How a list is kept: the file, what it holds, and what makes sense in it.

    file : its name among the person's settings; key : under which the things stand in it
    kind : of the things; words : what they are called in messages
    shipped : what counts while no file is there
    check : raises what is wrong with one thing; is given the thing and where it stands, in words
    error : the kind of error raised
    """

    file: str
    key: str
    kind: type[Item]
    words: str
    shipped: ChosenList[Item]
    check: Callable[[Item, str], object]
    error: type[HastyReelError] = WrongInput

    @property
    def path(self) -> Path:
        """Where the list is kept."""
        return Path(platformdirs.user_config_dir("hasty-reel")) / self.file

    @cached_property
    def _on_disk(self) -> type[msgspec.Struct]:
        fields: list[tuple[str, Any, Any]] = [(self.key, tuple[self.kind, ...], ()), ("chosen", str | int, "")]  # type: ignore[name-defined]
        return msgspec.defstruct("KeptInFile", fields, forbid_unknown_fields=True, kw_only=True)

    def checked(self, found: ChosenList[Item]) -> ChosenList[Item]:
        """Return a list if it makes sense.

        Parameters
        ----------
        found : the list

        Returns
        -------
        ChosenList[Item]
            The same list.

        Raises
        ------
        HastyReelError
            Of the kind of this list: names what is wrong and what was expected.
        """
        title = self.words.capitalize()
        least = 0 if self.shipped.optional else 1
        if not least <= len(found.items) <= MOST_ITEMS:
            raise self.error(f"{title}: {len(found.items)}; expected {least} to {MOST_ITEMS}.")
        if len({x.name for x in found.items}) != len(found.items):
            raise self.error(f"{title}: two of one name; expected different names.")
        for item in found.items:
            where = f"{title.removesuffix('s')} '{item.name[:60]}'"
            if not item.name.strip() or len(item.name) > LONGEST_NAME or not item.name.isprintable():
                raise self.error(f"{where}: expected a name of up to {LONGEST_NAME} characters.")
            self.check(item, where)
        return found

    def read(self, path: Path | None = None) -> ChosenList[Item]:
        """Return the list that is kept; what ships while none is.

        Parameters
        ----------
        path : file; None for the person's own

        Returns
        -------
        ChosenList[Item]
            ChosenList

        Raises
        ------
        HastyReelError
            Of the kind of this list: names the file, the field and what was expected.
        """
        return read_json(self.path if path is None else path, self._on_disk, self._from_disk, self.shipped, self.words, self.error)

    def _from_disk(self, held: Any) -> ChosenList[Item]:
        items, chosen = getattr(held, self.key), held.chosen
        if isinstance(chosen, int):  # as a number, from 1 on, in files of earlier versions
            if not 0 <= chosen <= len(items):
                raise self.error(f"{self.words.capitalize()}: number {chosen} is chosen; expected 0 to {len(items)}.")
            chosen = items[chosen - 1].name if chosen else ""
        return self.checked(ChosenList(items, chosen, self.shipped.optional))

    def save(self, found: ChosenList[Item], path: Path | None = None) -> None:
        """Keep a list.

        Parameters
        ----------
        found : the list
        path : file; None for the person's own

        Raises
        ------
        HastyReelError
            Of the kind of this list: when it makes no sense, or the file cannot be written.
        """
        self.checked(found)
        held = self._on_disk(**{self.key: found.items, "chosen": found.chosen})
        save_json(self.path if path is None else path, held, self.error)
