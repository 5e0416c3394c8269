"""Write man pages and shell completion from the commands: `python docs/manpages.py` writes them into src/hasty_reel/share/data.

A test holds them to the code. The pages use the macros of man(7).
"""

from __future__ import annotations

import re

import click
from click.shell_completion import get_completion_class
from commands import examples, shown_options

from hasty_reel import __version__
from hasty_reel.cli.answers import reel_group
from hasty_reel.share.integration import DATA

SHELLS = ("bash", "zsh", "fish")


def roff(text: str) -> str:
    """Words as man(7) takes them."""
    text = re.sub(r"`([^`]*)`", r"\1", text.replace("\b", "")).replace("\\", "\\e").replace("-", "\\-")
    return "\n".join(("\\&" + line if line[:1] in (".", "'") else line) for line in " ".join(text.split()).splitlines())


def head(name: str, words: str) -> list[str]:
    """The head of a page, its name and what it is for in a line."""
    title = f'.TH "{roff(name.upper())}" "1" "" "Hasty Reel {__version__}" "Hasty Reel"'
    return [title, ".SH NAME", f"{roff(name)} \\- {roff(words.split('.')[0].split(':')[0] or name)}"]


def options(command: click.Command) -> list[str]:
    """Options of a command, a paragraph each."""
    lines = []
    for option in shown_options(command):
        names = ", ".join((*option.opts, *option.secondary_opts))
        value = "" if option.is_flag else f" \\fI{roff(option.metavar or option.type.name).lower()}\\fR"
        lines += [".TP", f"\\fB{roff(names)}\\fR{value}", roff(option.help or "as its name says.")]
    return lines


def usage(name: str, command: click.Command) -> str:
    """How a command is called."""
    arguments = [p.make_metavar(click.Context(command)) for p in command.params if isinstance(p, click.Argument)]
    return " ".join(
        [f"\\fB{roff(name)}\\fR", *(f"\\fI{roff(a)}\\fR" for a in arguments), *(["[options]"] if shown_options(command) else [])]
    )


def command_page(name: str, command: click.Command, told: list[str]) -> str:
    """The page of a command; of a group all its commands."""
    lines = head(f"hasty-reel-{name}", command.help or name)
    lines += [".SH SYNOPSIS", usage(f"hasty-reel {name}", command), ".SH DESCRIPTION", roff(command.help or name)]
    if isinstance(command, click.Group):
        context = click.Context(command)
        for sub in command.list_commands(context):
            found = command.get_command(context, sub)
            lines += [f'.SS "{roff(sub)}"', usage(f"hasty-reel {name} {sub}", found), ".PP", roff(found.help or sub), *options(found)]
    elif shown_options(command):
        lines += [".SH OPTIONS", *options(command)]
    if told:
        lines += [".SH EXAMPLES"]
        for line in told:
            lines += [".PP", ".nf", roff(line), ".fi"]
    return "\n".join([*lines, ".SH SEE ALSO", ".BR hasty\\-reel (1)"]) + "\n"


def pages() -> dict[str, str]:
    """All pages by the name of their file."""
    context, told = click.Context(reel_group, info_name="hasty-reel"), examples()
    names = [n for n in sorted(reel_group.list_commands(context)) if not reel_group.get_command(context, n).hidden]
    found = {n: reel_group.get_command(context, n) for n in names}
    lines = head("hasty-reel", "plan sequence renders that play clean and are ready on time")
    lines += [".SH SYNOPSIS", "\\fBhasty\\-reel\\fR [\\fIreel\\fR]", ".PP", "\\fBhasty\\-reel\\fR \\fIcommand\\fR [options]"]
    lines += [".SH DESCRIPTION", "Without a command the window opens, with a reel or with what one can do without one.", ".SH COMMANDS"]
    for name, command in found.items():
        lines += [".TP", f".BR hasty\\-reel\\-{roff(name)} (1)", roff((command.help or name).split(". ")[0])]
    lines += [".SH EXIT STATUS", "0 where it is done, 1 where the answer is no, 2 where what was asked for is wrong."]
    out = {"hasty-reel.1": "\n".join(lines) + "\n"}
    return out | {f"hasty-reel-{name}.1": command_page(name, command, told.get(name, [])) for name, command in found.items()}


def completion(shell: str) -> str:
    """What a shell is told to complete commands and options."""
    kind = get_completion_class(shell)
    assert kind is not None
    made = kind(reel_group, {}, "hasty-reel", "_HASTY_REEL_COMPLETE")
    return kind.source_template % made.source_vars()


if __name__ == "__main__":
    for folder in ("man", "completion"):
        (DATA / folder).mkdir(exist_ok=True)
    for old in (DATA / "man").glob("*.1"):
        old.unlink()
    for file, text in pages().items():
        (DATA / "man" / file).write_text(text, encoding="utf-8")
    for shell in SHELLS:
        (DATA / "completion" / f"hasty-reel.{shell}").write_text(completion(shell), encoding="utf-8")
