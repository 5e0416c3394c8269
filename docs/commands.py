"""Write the page of all commands from the commands themselves: `python docs/commands.py` writes docs/commands.md.

A test holds the page to the code. Examples stand in `docs/examples.txt`, a line each, and are put under their command.
"""

from __future__ import annotations

from pathlib import Path

import click

from hasty_reel.cli.answers import reel_group

HERE = Path(__file__).parent
PAGE, EXAMPLES = HERE / "commands.md", HERE / "examples.txt"
HEAD = """# Commands

Everything that the window does, without it. Each command answers with a table, or with one JSON document with `--json`; it ends with
status 0 where it is done, 1 where the answer is no, and 2 where what was asked for is wrong, which it says in one sentence. This page is
made from the commands themselves by `python docs/commands.py`.
"""


def examples() -> dict[str, list[str]]:
    """Examples by command, 'link add' and the like under the first word."""
    out: dict[str, list[str]] = {}
    for line in EXAMPLES.read_text(encoding="utf-8").splitlines():
        if line.strip():
            out.setdefault(line.split()[1], []).append(line)
    return out


def option_row(option: click.Parameter) -> str:
    """An option as a row of a table."""
    names = ", ".join(f"`{name}`" for name in (*option.opts, *option.secondary_opts))
    kind = option.type
    if isinstance(kind, click.Choice):
        value = " or ".join(str(choice) for choice in kind.choices)
    else:
        value = "" if getattr(option, "is_flag", False) else (option.metavar or getattr(kind, "name", "")).lower()
    words = getattr(option, "help", None) or ""
    default = option.default
    plain = default not in (None, False, (), "") and not callable(default) and not repr(default).startswith("Sentinel")
    if plain:
        words = f"{words} Default: {default}.".strip()
    return f"| {names} | {value} | {words} |".replace("\n", " ")


def shown_options(command: click.Command) -> list[click.Option]:
    """Options of a command that are told of one by one: those that all have are not."""
    return [p for p in command.params if isinstance(p, click.Option) and not p.hidden and not {"--help", "--json"} & set(p.opts)]


def section(name: str, command: click.Command, level: int = 2) -> list[str]:
    """A command, its arguments and options; of a group its commands."""
    lines = [f"{'#' * level} {name}", "", (command.help or "").replace("\b", "").strip(), ""]
    if isinstance(command, click.Group):
        context = click.Context(command, info_name=name)
        for sub in command.list_commands(context):
            lines += section(f"{name} {sub}", command.get_command(context, sub), level + 1)
        return lines
    arguments = [p for p in command.params if isinstance(p, click.Argument)]
    shown = shown_options(command)
    usage = " ".join([f"hasty-reel {name}", *(p.make_metavar(click.Context(command)) for p in arguments), *(["…"] if shown else [])])
    lines += [f"    {usage}", ""]
    if shown:
        lines += ["| | | |", "|---|---|---|", *map(option_row, shown), ""]
    return lines


def page() -> str:
    """The whole page."""
    context, told = click.Context(reel_group, info_name="hasty-reel"), examples()
    lines = [HEAD]
    for name in sorted(reel_group.list_commands(context)):
        command = reel_group.get_command(context, name)
        if command is None or command.hidden:
            continue
        lines += section(name, command)
        lines += ["For example:", "", *(f"    {line}" for line in told[name]), ""] if name in told else []
    return "\n".join(lines).rstrip() + "\n"


if __name__ == "__main__":
    PAGE.write_text(page(), encoding="utf-8")
