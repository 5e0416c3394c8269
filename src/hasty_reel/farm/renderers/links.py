"""Renderer links: command lines with named places, kept for the artist and not in a reel.

A reel may come from anybody; what is started on this machine must not. So links live in a file
of their own, and a reel only says what is to be rendered.
"""

from __future__ import annotations

import re

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.proof import RENDER_PARTS
from hasty_reel.farm.expressions import compiled
from hasty_reel.own.chosenlist import ChosenList, KeptList

PLACEHOLDERS = (
    "frame", "samples", "steps", "width", "height", "seed", "scale", "crop", "output", "scene", "bounces", "angle", "ceiling",
    "floor", "stop", "cap",
)  # fmt: skip
"""What may stand in braces in a command; `stop` is the noise to stop at, `cap` the seconds a frame may take, 0 for none."""
_PLACEHOLDER = re.compile(r"\{([^{}]*)\}")


class Link(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """One renderer: how it is started and what its messages tell.

    command : arguments, the program first; '{frame}' and the like are filled in. None: the bench renderer inside this program
    timeout : seconds after which a frame is given up
    seconds : part -> pattern (regular expression) whose first group is its seconds in what the renderer prints
    progress : pattern whose first group is the percentage done; '' for none
    """

    name: str
    command: tuple[str, ...] | None = None
    timeout: float = 3600.0
    seconds: dict[str, str] = {}
    progress: str = ""


BENCH = Link(name="Bench renderer")
BY_COMMAND = Link(
    name="Bench renderer by command",
    command=(
        "hasty-bench", "render", "--scene", "{scene}", "--frame", "{frame}", "--size", "{width}x{height}", "--samples", "{samples}",
        "--steps", "{steps}", "--angle", "{angle}", "--bounces", "{bounces}", "--ceiling", "{ceiling}", "--seed", "{seed}",
        "--guides", "--tell", "--out", "{output}",
    ),
    timeout=900.0,
    seconds={"load": r"load ([0-9.]+) s", "cache": r"cache ([0-9.]+) s", "sample": r"sampling ([0-9.]+) s"},
    progress=r"progress ([0-9.]+) %",
)  # fmt: skip
SHIPPED = ChosenList((BENCH, BY_COMMAND), BENCH.name)


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
    for part, pattern in (*link.seconds.items(), ("progress", link.progress or "()")):
        if part not in (*RENDER_PARTS, "progress"):
            raise WrongInput(f"{where}: seconds of '{part}'; expected {', '.join(RENDER_PARTS)}.")
        if compiled(pattern, f"{where}, {part}").groups < 1:
            raise WrongInput(f"{where}: pattern '{pattern[:60]}' of {part}; expected a regular expression with one group.")
    if link.command is None:
        return link
    if not link.command or not link.command[0].strip() or len(link.command) > 500:
        raise WrongInput(f"{where}: no program; expected a command line.")
    for argument in link.command:
        if "\0" in argument:
            raise WrongInput(f"{where}: an argument holds a zero byte.")
        for place in _PLACEHOLDER.findall(argument):
            if place not in PLACEHOLDERS:
                raise WrongInput(f"{where}: '{{{place[:40]}}}'; expected one of {', '.join('{' + p + '}' for p in PLACEHOLDERS)}.")
    if not any("{output}" in a for a in link.command):
        raise WrongInput(f"{where}: {{output}} is missing; expected the place of the picture that is written.")
    if not any("{frame}" in a for a in link.command):
        raise WrongInput(f"{where}: {{frame}} is missing; expected the place of the frame number.")
    return link


def filled(command: tuple[str, ...], values: dict[str, str]) -> list[str]:
    """Return the arguments with their placeholders filled in; each stays one argument whatever is filled in.

    Parameters
    ----------
    command : arguments with placeholders
    values : text by placeholder
    """
    return [_PLACEHOLDER.sub(lambda m: values[m[1]], argument) for argument in command]


LINKS = KeptList("renderers.json", "links", Link, "renderer links", SHIPPED, lambda link, where: checked_link(link))
"""The artist's renderer links."""
