"""Renderer links: command lines with named places, kept for the artist and not in a reel.

A reel may come from anybody; what is started on this machine must not. So links live in a file
of their own, and a reel only says what is to be rendered.
"""

from __future__ import annotations

import re

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.proof import RENDER_PARTS
from hasty_reel.farm.renderers.messages import ABILITIES
from hasty_reel.own.chosenlist import ChosenList, KeptList
from hasty_reel.pictures.foreign import ROLES
from hasty_reel.programs.commands import check_command
from hasty_reel.programs.expressions import compiled
from hasty_reel.programs.watched import Watch
from hasty_reel.settings.recipe import SETTINGS
from hasty_reel.settings.setting import Setting

OF_JOB = (
    "frame", "first", "last", "frames", "samples", "width", "height", "seed", "crop", "output", "folder", "job", "stats", "scene", "open",
    "close", "guides", "floor", "stop", "cap",
)  # fmt: skip
"""Places of what a frame is and what it may take: `first`, `last` and `frames` (as 1001-1008) are the range of one start, `folder` is
that of the output, `job` a JSON file with all that is asked for, `stats` one that the renderer may write its statistics into, `open`
and `close` the times of the shutter, `stop` the noise to stop at, `cap` the seconds a frame may take, 0 for none."""
OTHER_WAYS = ("first", "last", "frames", "folder", "job", "stats", "open", "close", "guides")
"""Of these, the ones that a command may well do without: other places tell the same, or it writes guides anyway."""
PLACEHOLDERS = (*OF_JOB, *(setting.placeholder for setting in SETTINGS if setting.placeholder))
"""What may stand in braces in a command, besides {own.NAME} of an own setting."""


TOLD_BY_OTHERS = ("render_scale", "seed_held")
"""Settings that need no place of their own: width and height, and the seed, tell them."""
MOST_FRAMES = 10_000
"""Frames of one start."""
HEAD = "head:"
"""Begins what names an attribute of the picture's head, where a pattern may stand."""
TOTAL = "total"
"""The slot of the seconds of a renderer that tells one number."""
TOLD_PARTS = (*RENDER_PARTS, TOTAL)


_OWN_PLACE = re.compile(r"\{(own\.[a-z][a-z0-9_]{0,31})\}")


class Link(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """One renderer: how it is started and what its messages tell.

    command : arguments, the program first; '{frame}' and the like are filled in. None: the bench renderer inside this program
    stays : it stays open and is told of frames by messages (`messages`); its command has no places then
    can, knows : of one that stays open, what it said that it can, and the settings that it knows; None where it was not asked yet
    timeout : seconds after which a frame is given up
    seconds : part -> pattern (regular expression) whose first group is its seconds in what the renderer prints, or 'head:NAME' of an
        attribute of the picture; 'total' where it tells one number for all
    progress : pattern whose first group is the percentage done; '' for none
    frames : it renders at most in one start, of a range; its command has places for that then
    channels : names of channels by what they are, for names that say nothing; a role without names is left out
    vectors : signs of its motion vectors, by which they point right and down to the next frame; vectors_of_size : they are in shares
        of the picture's width and height, not in pixels
    """

    name: str
    command: tuple[str, ...] | None = None
    stays: bool = False
    can: tuple[str, ...] | None = None
    knows: tuple[str, ...] = ()
    timeout: float = 3600.0
    seconds: dict[str, str] = {}
    progress: str = ""
    frames: int = 1
    channels: dict[str, tuple[str, ...]] = {}
    vectors: tuple[int, int] = (1, 1)
    vectors_of_size: bool = False

    @property
    def crops(self) -> bool:
        """Whether it can be told to render a part of a frame."""
        if self.stays:
            return self.can is None or "crop" in self.can
        return self.command is None or _has_place(self, "crop") or _has_place(self, "job")

    def lacks(self, setting: Setting) -> str:
        """Return why a setting does nothing in this renderer, in words; '' where it does, or that is not known yet.

        Parameters
        ----------
        setting : of a recipe
        """
        if self.command is None or setting.field in TOLD_BY_OTHERS:
            return ""
        if self.stays:
            if setting.ability and self.can is not None and setting.ability not in self.can:
                return f"it does not say that it {ABILITIES[setting.ability]}"
            known = not self.knows or not setting.placeholder or setting.ability or setting.placeholder in self.knows
            return "" if known else f"it does not know '{setting.placeholder}'"
        place = setting.placeholder or (setting.ability if setting.ability in OF_JOB else "")
        if not place or _has_place(self, place) or _has_place(self, "job"):
            return ""
        return "it is started anew for each frame" if setting.ability == "keep" else f"its command has no {{{place}}}"

    @property
    def watch(self) -> Watch:
        """How it is watched while it renders."""
        return Watch("renderer", f"Renderer link '{self.name[:60]}'", self.timeout, self.progress)


BENCH = Link(name="Bench renderer")
BY_COMMAND = Link(
    name="Bench renderer by command",
    command=(
        "hasty-bench", "render", "--scene", "{scene}", "--frame", "{frame}", "--size", "{width}x{height}", "--samples", "{samples}",
        "--steps", "{steps}", "--angle", "{angle}", "--bounces", "{bounces}", "--ceiling", "{ceiling}", "--seed", "{seed}",
        "--crop", "{crop}", "--guides", "--tell", "--out", "{output}",
    ),
    timeout=900.0,
    seconds={"load": r"load ([0-9.]+) s", "cache": r"cache ([0-9.]+) s", "sample": r"sampling ([0-9.]+) s"},
    progress=r"progress ([0-9.]+) %",
)  # fmt: skip
SHIPPED = ChosenList((BENCH, BY_COMMAND), BENCH.name)


def _has_place(link: Link, place: str) -> bool:
    return any("{" + place + "}" in argument for argument in link.command or ())


def own_places(link: Link) -> list[str]:
    """Return the places of own settings that a link's command has, as 'own.NAME'.

    Parameters
    ----------
    link : the renderer link
    """
    return sorted({place for argument in link.command or () for place in _OWN_PLACE.findall(argument)})


def checked_link(link: Link) -> Link:
    """Return the link, if it can be started.

    Parameters
    ----------
    link : the renderer link

    Raises
    ------
    WrongInput
        Names the link and what is wrong.
    """
    where = f"Renderer link '{link.name[:60]}'"
    if not link.name.strip() or len(link.name) > 200 or not link.name.isprintable():
        raise WrongInput(f"{where}: expected a name of up to 200 characters.")
    if not 0.1 <= link.timeout <= 30 * 86400:
        raise WrongInput(f"{where}: time-out {link.timeout:g} s; expected 0.1 s to 30 days.")
    for role, names in link.channels.items():
        if role not in ROLES or len(names) not in (0, len(ROLES[role])):
            raise WrongInput(f"{where}: channels of '{role[:40]}'; expected {', '.join(ROLES)}, each with as many names as it has.")
    if any(sign not in (1, -1) for sign in link.vectors):
        raise WrongInput(f"{where}: vectors {link.vectors}; expected signs, 1 or -1.")
    for part, pattern in (*link.seconds.items(), ("progress", link.progress or "()")):
        if part not in (*TOLD_PARTS, "progress"):
            raise WrongInput(f"{where}: seconds of '{part}'; expected {', '.join(TOLD_PARTS)}.")
        if part in TOLD_PARTS and pattern.startswith(HEAD):
            if not pattern.removeprefix(HEAD).strip():
                raise WrongInput(f"{where}: seconds of {part} by '{pattern[:60]}'; expected the name of an attribute, as {HEAD}rendertime.")
            continue
        if compiled(pattern, f"{where}, {part}").groups < 1:
            raise WrongInput(f"{where}: pattern '{pattern[:60]}' of {part}; expected a regular expression with one group.")
    if link.command is None:
        if link.stays:
            raise WrongInput(f"{where}: it stays open and has no command; expected one that starts it.")
        return link
    if not 1 <= link.frames <= MOST_FRAMES:
        raise WrongInput(f"{where}: {link.frames} frames in one start; expected 1 to {MOST_FRAMES}.")
    if link.stays:
        check_command(link.command, None, {}, where)
        if any("{" + place + "}" in argument for argument in link.command for place in PLACEHOLDERS):
            raise WrongInput(f"{where}: its command has a place in braces; expected none: what stays open is told of frames by messages.")
        return link
    check_command(link.command, (*PLACEHOLDERS, *own_places(link)), {}, where)
    if not _has_place(link, "job"):  # that has all the others
        if not (_has_place(link, "output") or _has_place(link, "folder")):
            raise WrongInput(
                f"{where}: {{output}} is missing; expected the place of the picture that is written, or {{folder}} for its folder."
            )
        if not any(_has_place(link, place) for place in ("frame", "first", "frames")):
            raise WrongInput(f"{where}: {{frame}} is missing; expected the place of the frame number, or {{first}} and {{last}}.")
    if link.frames > 1 and not _has_place(link, "job"):
        ranged = _has_place(link, "frames") or (_has_place(link, "first") and _has_place(link, "last"))
        if not (ranged and _has_place(link, "folder")):
            raise WrongInput(f"{where}: {link.frames} frames in one start; expected {{first}} and {{last}}, or {{frames}}, and {{folder}}.")
    return link


LINKS = KeptList("renderers.json", "links", Link, "renderer links", SHIPPED, lambda link, where: checked_link(link))
"""The artist's renderer links."""


def named_link(name: str | None) -> Link:
    """Return the renderer link of a name, or the chosen one.

    Parameters
    ----------
    name : of the link; None for the chosen one

    Raises
    ------
    WrongInput
        When there is none of that name; lists those there are.
    """
    links = LINKS.read()
    if name is None:
        return links.current
    for link in links.items:
        if link.name == name:
            return link
    raise WrongInput(f"--renderer '{name[:60]}'; expected one of {', '.join(repr(x.name) for x in links.items)}.")
