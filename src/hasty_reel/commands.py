"""What every command line here shares: groups that take nothing for granted, and errors as one line with an exit status."""

from __future__ import annotations

import importlib
import os
import re
import signal
import sys
import threading
import traceback
from typing import Any

import click
from click.core import ParameterSource

from hasty_reel.errors import HastyReelError, WrongInput, one_line, reason

TRACE = "HASTY_REEL_TRACE"
"""Environment variable: where it is set, a fault of the program itself shows its traceback too."""


class StrictCommand(click.Command):
    """A command that refuses an empty value: somebody's script had nothing to put in, and did not mean the default."""

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        """Refuse an empty value, then read the arguments.

        Parameters
        ----------
        ctx : of the call
        args : as they were given

        Raises
        ------
        WrongInput
            Names the argument that is empty.
        """
        for k, word in enumerate(args):
            if word == "" or (word.startswith("--") and word.endswith("=")):
                before = args[k - 1] if word == "" and k and args[k - 1].startswith("-") else word.rstrip("=") or "an argument"
                raise WrongInput(f"{ctx.info_name}: {before} is empty; expected a value, or nothing at all.")
        return super().parse_args(ctx, args)


class StrictGroup(click.Group):
    """A group of strict commands."""

    command_class = StrictCommand


class LazyGroup(StrictGroup):
    """A group whose commands are imported when they are called: a window opens without what other commands need.

    Parameters
    ----------
    *given : as Click takes them
    modules : by command, the module that defines it when it is imported
    **named : as Click takes them
    """

    def __init__(self, *given: Any, modules: dict[str, str], **named: Any) -> None:
        super().__init__(*given, **named)
        self.modules = modules

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return the names of the commands.

        Parameters
        ----------
        ctx : of the call
        """
        return sorted(self.modules)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Import the module of a command and return it.

        Parameters
        ----------
        ctx : of the call
        cmd_name : its name
        """
        if cmd_name in self.modules:
            importlib.import_module(self.modules[cmd_name])
        return super().get_command(ctx, cmd_name)


def given(name: str) -> bool:
    """Whether the person gave a parameter of the command that runs, rather than taking its default.

    Parameters
    ----------
    name : of the parameter, as the command's function calls it
    """
    return click.get_current_context().get_parameter_source(name) is ParameterSource.COMMANDLINE


def need_with(names: tuple[str, ...], good: bool, needed: str) -> None:
    """Refuse options that would be ignored.

    Parameters
    ----------
    names : of the parameters, as the command's function calls them
    good : whether what they go with was given
    needed : what they go with, in words

    Raises
    ------
    WrongInput
        Names the first one that was given.
    """
    for name in names:
        if not good and given(name):
            raise WrongInput(f"{click.get_current_context().info_name}: --{name.replace('_', '-')} goes with {needed}; expected both.")


def whole_numbers(text: str, count: int, between: str, what: str) -> tuple[int, ...]:
    """Read whole numbers such as 480x270 or 0,0,64,64.

    Parameters
    ----------
    text : as given
    count : how many are expected
    between : what stands between them
    what : the option, for the words

    Returns
    -------
    tuple[int, ...]
        The numbers.

    Raises
    ------
    WrongInput
        Says what was given and what was expected.
    """
    parts = [p.strip() for p in text.lower().split(between)]
    if len(parts) != count or not all(re.fullmatch(r"-?[0-9]{1,9}", p) for p in parts):
        raise WrongInput(f"{what} '{text[:60]}'; expected {count} whole numbers with '{between}' between them.")
    return tuple(int(p) for p in parts)


def end_on_signals() -> None:
    """End as Ctrl-C does where this process is asked to end, or its terminal closes: what is under way is ended, too."""

    def _end(number: int, frame: object) -> None:
        raise KeyboardInterrupt

    if threading.current_thread() is threading.main_thread():
        for number in (signal.SIGTERM, signal.SIGHUP):
            if signal.getsignal(number) is signal.SIG_DFL:
                signal.signal(number, _end)


def run(group: click.Group, arguments: list[str] | None, name: str) -> int:
    """Run a command group; errors become one line on standard error, and no traceback reaches a user.

    Parameters
    ----------
    group : the commands
    arguments : of the command line; None takes those of this process
    name : of the program, as it is called

    Returns
    -------
    int
        Exit status: 0 done, 1 the answer is no, 2 wrong use or unreadable input.
    """

    def _say(words: Any) -> None:
        click.echo(one_line(f"{name}: {words}"), err=True)

    end_on_signals()
    try:
        result = group.main(args=arguments, prog_name=name, standalone_mode=False)
        return result if isinstance(result, int) else 0
    except click.exceptions.Exit as leave:
        return leave.exit_code
    except (click.Abort, KeyboardInterrupt):
        click.echo("Stopped.", err=True)
        return 1
    except click.ClickException as error:
        _say(error.format_message())
        return 2
    except HastyReelError as error:
        _say(error)
        return 2 if isinstance(error, WrongInput) else 1
    except UnicodeError:
        _say("an argument or a name holds half a character; expected whole characters")
        return 2
    except BrokenPipeError:  # whoever read the answer has enough of it
        sys.stdout = open(os.devnull, "w")  # noqa: SIM115  else leaving would complain of the pipe
        return 1
    except (OSError, MemoryError) as error:
        _say(reason(error))
        return 2
    except Exception as error:  # a fault of ours: one line all the same, and its trace for whoever asks
        if os.environ.get(TRACE):
            traceback.print_exc()
        _say(f"this went wrong inside Hasty Reel ({type(error).__name__}: {reason(error)}); {TRACE}=1 shows where.")
        return 2
