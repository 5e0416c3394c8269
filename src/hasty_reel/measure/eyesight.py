"""Whose eyes count: the limits found by the eye test, kept for each person and screen."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import msgspec
import platformdirs

from hasty_reel.errors import ReelError
from hasty_reel.kept import read_kept, save_kept
from hasty_reel.measure.seen import STANDARD, Eyes, heights_of

Name = Annotated[str, msgspec.Meta(max_length=120)]
MOST = 100


class Watcher(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """One person at one screen.

    distance_cm : of the eyes from the screen; screen_cm : height of the picture on it
    limit : seen flicker in JND from which on this person sees it; None: not tested, the standard observer's
    factor : standard error of the limit, as a factor; made : date of the test
    """

    person: Name
    screen: Name
    distance_cm: Annotated[float, msgspec.Meta(ge=10, le=5000)] = 100.0
    screen_cm: Annotated[float, msgspec.Meta(ge=3, le=2000)] = 33.5
    limit: Annotated[float, msgspec.Meta(gt=0, le=1000)] | None = None
    factor: float | None = None
    made: str = ""

    @property
    def eyes(self) -> Eyes:
        """What the measures need of it."""
        return Eyes(heights_of(self.distance_cm, self.screen_cm), self.limit or STANDARD.limit)

    @property
    def words(self) -> str:
        """As it is named in a list."""
        return f"{self.person} at {self.screen}"


class Watchers(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """All of them, and which one counts; 0 is none: the standard observer at three picture heights."""

    watchers: tuple[Watcher, ...] = ()
    chosen: int = 0

    @property
    def current(self) -> Watcher | None:
        """The one that counts."""
        return self.watchers[self.chosen - 1] if self.chosen else None

    @property
    def eyes(self) -> Eyes:
        """Whose eyes count."""
        return self.current.eyes if self.current is not None else STANDARD

    def with_watcher(self, watcher: Watcher) -> Watchers:
        """With one more, or one in place of the same person at the same screen; it counts from now on."""
        others = list(self.watchers)
        for k, other in enumerate(others):
            if (other.person, other.screen) == (watcher.person, watcher.screen):
                others[k] = watcher
                return Watchers(watchers=tuple(others), chosen=k + 1)
        return Watchers(watchers=(*others, watcher), chosen=len(others) + 1)


def checked_watchers(watchers: Watchers) -> Watchers:
    """They, if they make sense.

    Raises
    ------
    ReelError
        Says what was expected.
    """
    if len(watchers.watchers) > MOST:
        raise ReelError(f"Eye tests: {len(watchers.watchers)}; expected at most {MOST}.")
    if not 0 <= watchers.chosen <= len(watchers.watchers):
        raise ReelError(f"Eye tests: number {watchers.chosen} is chosen; expected 0 to {len(watchers.watchers)}.")
    for w in watchers.watchers:
        if not w.person.strip() or not w.screen.strip() or not (w.person + w.screen).isprintable():
            raise ReelError("Eye tests: one without a name; expected a person and a screen in up to 120 characters each.")
    return watchers


def watchers_path() -> Path:
    """Where they are kept."""
    return Path(platformdirs.user_config_dir("hasty-reel")) / "eyes.json"


def read_watchers(path: Path) -> Watchers:
    """Those that are kept; none while there is no file.

    Raises
    ------
    ReelError
        Names the file, the field and what was expected.
    """
    return read_kept(path, Watchers, checked_watchers, Watchers(), "eye tests", ReelError)


def save_watchers(path: Path, watchers: Watchers) -> None:
    """Keep them.

    Raises
    ------
    ReelError
        When the file cannot be written.
    """
    save_kept(path, checked_watchers(watchers), ReelError)
