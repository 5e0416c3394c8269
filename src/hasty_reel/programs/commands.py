"""Command lines with named places in braces; each argument stays one, whatever is filled in, and no shell reads it."""

from __future__ import annotations

import re
import shlex
import shutil
from collections.abc import Mapping, Sequence

from hasty_reel.errors import RendererFault, WrongInput
from hasty_reel.ownprocess import own_module

MOST_ARGUMENTS = 500
_PLACE = re.compile(r"\{([^{}]*)\}")
_PLAIN = re.compile(r"[\w@%+=:,./{}-]+", re.ASCII)
"""Arguments that need no quotes: no shell reads them, so that braces are nothing special."""
OURS = {"hasty-bench": "hasty_reel.bench"}
"""Programs that ship with this one: found wherever it runs."""


def check_command(command: Sequence[str], places: Sequence[str] | None, needed: Mapping[str, str], where: str) -> None:
    """Raise an error where a command line cannot be started.

    Parameters
    ----------
    command : arguments, the program first
    places : what may stand in braces; None where braces are nothing special
    needed : of these, what must stand in it, and what it is the place of
    where : the command in words, for the message

    Raises
    ------
    WrongInput
        Says what is wrong and what was expected.
    """
    if not command or not command[0].strip() or len(command) > MOST_ARGUMENTS:
        raise WrongInput(f"{where}: no program; expected a command line.")
    for argument in command:
        if "\0" in argument:
            raise WrongInput(f"{where}: an argument holds a zero byte.")
        if places is not None and (wrong := [place for place in _PLACE.findall(argument) if place not in places]):
            raise WrongInput(f"{where}: '{{{wrong[0][:40]}}}'; expected one of {', '.join('{' + p + '}' for p in places)}.")
    for place, of in needed.items():
        if not any("{" + place + "}" in a for a in command):
            raise WrongInput(f"{where}: {{{place}}} is missing; expected the place of {of}.")


def filled(command: Sequence[str], values: Mapping[str, str]) -> list[str]:
    """Return the arguments with their places filled in; each stays one argument whatever is filled in.

    Parameters
    ----------
    command : arguments with places
    values : text by place
    """
    return [_PLACE.sub(lambda m: values[m[1]], argument) for argument in command]


def find_program(arguments: list[str], kind: str = "Renderer") -> list[str]:
    """Return the arguments with the program found on this machine; our own programs are found wherever this one runs.

    Parameters
    ----------
    arguments : of the command, the program first
    kind : of program, in words for the message

    Raises
    ------
    RendererFault
        When there is no such program.
    """
    if arguments[0] in OURS:
        return [*own_module(OURS[arguments[0]]), *arguments[1:]]
    found = shutil.which(arguments[0])
    if found is None:
        raise RendererFault(f"{kind} '{arguments[0][:80]}': no such program on this machine; expected a program that can be started.")
    return [found, *arguments[1:]]


def command_text(command: Sequence[str]) -> str:
    """Return a command as it is written; each argument stays one.

    Parameters
    ----------
    command : arguments, the program first
    """
    return " ".join(a if _PLAIN.fullmatch(a) else shlex.quote(a) for a in command)


def read_command(text: str) -> tuple[str, ...]:
    """Read a command as it is written; quotes hold an argument together, nothing else is special.

    Parameters
    ----------
    text : as typed

    Returns
    -------
    tuple[str, ...]
        Its arguments, the program first.

    Raises
    ------
    WrongInput
        When a quote is not closed.
    """
    try:
        return tuple(shlex.split(text))
    except ValueError as error:
        raise WrongInput(f"Command: {str(error).lower()}; expected arguments, those with spaces in quotes.") from error
