"""Commands about links to the artist's own renderers: link add, list, show, choose, remove, try."""

from __future__ import annotations

from pathlib import Path
from typing import IO

import click
import msgspec

from hasty_reel.cli.answers import answer, reel_group, say
from hasty_reel.commands import StrictGroup
from hasty_reel.errors import WrongInput
from hasty_reel.farm.renderers.exampleadapter import EXAMPLE
from hasty_reel.farm.renderers.learnlog import LONGEST_LOG, PROGRESS, patterns_of, times_in, with_patterns
from hasty_reel.farm.renderers.links import LINKS, OF_JOB, OTHER_WAYS, PLACEHOLDERS, TOLD_PARTS, Link, checked_link, named_link
from hasty_reel.pictures.foreign import read_channels_text
from hasty_reel.pictures.writing import write_picture
from hasty_reel.programs.commands import command_text
from hasty_reel.wholefile import write_whole


@reel_group.group(name="link", cls=StrictGroup, help="Links to your own renderers, kept on this machine.")
def links() -> None:
    pass


@links.command(help="Keep a link and choose it: hasty-reel link add NAME -- PROGRAM ARGUMENTS, with {frame}, {output} … to be filled in.")
@click.argument("name")
@click.argument("command", nargs=-1, required=True, type=click.UNPROCESSED)
@click.option("--stays", is_flag=True, help="It stays open and is told of frames by messages (docs/renderers.md): no places in braces.")
@click.option("--frames", type=int, default=1, show_default=True, help="Of a range that one start renders: {first} {last} {folder}.")
@click.option("--timeout", type=float, default=3600.0, show_default=True, help="Seconds after which a frame is given up.")
@click.option(
    "--seconds", multiple=True, metavar="PART=PATTERN",
    help=f"Regular expression whose first group is the seconds of a part in what the renderer prints: {', '.join(TOLD_PARTS)}.",
)  # fmt: skip
@click.option("--progress", default="", help="Regular expression; its first group is the percentage done.")
@click.option("--overwrite", is_flag=True, help="In place of a link of the same name.")
@click.option("--json", "as_json", is_flag=True)
def add(
    name: str, command: tuple[str, ...], stays: bool, frames: int, timeout: float, seconds: tuple[str, ...], progress: str, overwrite: bool,
    as_json: bool
) -> int:  # fmt: skip
    parts = {}
    for one in seconds:
        part, found, pattern = one.partition("=")
        if not found:
            raise WrongInput(f"link add: --seconds '{one[:60]}'; expected PART=PATTERN, such as total='took ([0-9.]+) s'.")
        parts[part.strip()] = pattern
    link = checked_link(Link(name=name, command=command, stays=stays, frames=frames, timeout=timeout, seconds=parts, progress=progress))
    kept = LINKS.read()
    if any(x.name == name for x in kept.items) and not overwrite:
        raise WrongInput(f"link add: '{name[:60]}' is kept already; expected another name, or --overwrite.")
    if name in {x.name for x in kept.items if x.command is None}:
        raise WrongInput(f"link add: '{name[:60]}' ships with this program; expected another name.")
    LINKS.save(kept.added(link))
    _answer(link, as_json, f"kept and chosen; 'hasty-reel link try \"{name}\" --scene SCENE --frame N' renders one tiny frame through it")
    return 0


@links.command(name="list", help="The links that are kept; a star marks the chosen one.")
@click.option("--json", "as_json", is_flag=True)
def list_links(as_json: bool) -> int:
    kept = LINKS.read()
    lines = [f"{'*' if x.name == kept.current.name else ' '} {x.name}: {_command(x)}" for x in kept.items]
    answer(as_json, {"links": [_document(x) for x in kept.items], "chosen": kept.current.name}, lines)
    return 0


@links.command(help="One link with all it holds; the chosen one where none is named.")
@click.argument("name", required=False)
@click.option("--json", "as_json", is_flag=True)
def show(name: str | None, as_json: bool) -> int:
    _answer(_named(name), as_json)
    return 0


@links.command(help="Choose the link that renders from now on.")
@click.argument("name")
@click.option("--json", "as_json", is_flag=True)
def choose(name: str, as_json: bool) -> int:
    link = _named(name)
    LINKS.save(LINKS.read().choosing(link.name))
    _answer(link, as_json, "chosen")
    return 0


@links.command(help="Take a link out.")
@click.argument("name")
@click.option("--json", "as_json", is_flag=True)
def remove(name: str, as_json: bool) -> int:
    kept, link = LINKS.read(), _named(name)
    if len(kept.items) == 1:
        raise WrongInput(f"link remove: '{name[:60]}' is the only one; expected at least one to stay.")
    LINKS.save(kept.without(next(x for x in kept.items if x.name == link.name)))
    _answer(link, as_json, "taken out")
    return 0


@links.command(name="try", help="Render tiny frames through a link, and say what came back and what is wrong with it.")
@click.argument("name", required=False)
@click.option("--scene", required=True, help="As the renderer knows it.")
@click.option("--frame", type=int, default=1, show_default=True)
@click.option("--take", is_flag=True, help="Keep what was found out with the link: the sense of its motion vectors, what it can.")
@click.option(
    "--picture", type=click.Path(dir_okay=False, path_type=Path), help="Write the picture that came, with its channels, as OpenEXR."
)
@click.option("--json", "as_json", is_flag=True)
def try_one(name: str | None, scene: str, frame: int, take: bool, picture: Path | None, as_json: bool) -> int:
    from hasty_reel.farm.renderers import try_link

    link = _named(name)
    say(f"Rendering tiny frames of '{scene}' through '{link.name}' …")
    trial = try_link(link, scene, frame)
    lines = [trial.answer, *(f"  {words}" for words in trial.found), *(f"  ! {words}" for words in trial.remarks)]
    if picture is not None:
        write_picture(picture, trial.picture)
        lines.append(f"  {picture}: the picture that came")
    now = trial.taken_by(link)
    if take and now != link:
        kept = LINKS.read()
        LINKS.save(kept.changed(next(x for x in kept.items if x.name == link.name), now))
        lines.append("  kept with the link: what was found out")
    document = {
        "link": link.name, "answer": trial.answer, "found": list(trial.found), "remarks": list(trial.remarks), "guides": list(trial.guides),
        "seconds": trial.seconds, "messages": trial.messages, "vectors": list(now.vectors), "vectors_of_size": now.vectors_of_size,
        "can": None if now.can is None else list(now.can), "taken": take,
    }  # fmt: skip
    answer(as_json, document, lines)
    return 0


@links.command(help="Say which channels of a link are what: albedo=a.R,a.G,a.B depth=d; depth=none leaves it out, none at all forgets all.")
@click.argument("name")
@click.argument("roles", nargs=-1)
@click.option("--json", "as_json", is_flag=True)
def channels(name: str, roles: tuple[str, ...], as_json: bool) -> int:
    link = _named(name)
    said = {role: tuple(names) for text in roles for role, names in read_channels_text(text).items()}
    now = checked_link(msgspec.structs.replace(link, channels={**link.channels, **said} if said else {}))
    kept = LINKS.read()
    LINKS.save(kept.changed(next(x for x in kept.items if x.name == link.name), now))
    _answer(now, as_json, "kept")
    return 0


@links.command(help="Learn patterns of seconds and progress from an example of what a renderer prints; '-' reads the standard input.")
@click.argument("log", type=click.File("r", encoding="utf-8", errors="replace"))
@click.argument("name", required=False)
@click.option("--take", is_flag=True, help="Keep them with the link that is named, or the chosen one.")
@click.option("--json", "as_json", is_flag=True)
def learn(log: IO[str], name: str | None, take: bool, as_json: bool) -> int:
    found = times_in(log.read(LONGEST_LOG))
    taken = [f for f in found if f.part]
    if not found:
        raise WrongInput("link learn: no number that may be a time; expected some lines that a renderer printed for one frame.")
    lines = [f"{f.part or '–':9} {f.seconds:g}{' %' if f.part == PROGRESS else ' s'}  line {f.line + 1}: {f.pattern}" for f in found]
    if take:
        if not taken:
            raise WrongInput("link learn: nothing says which part a time is of; expected words such as load, render or total beside it.")
        link = with_patterns(_named(name), patterns_of(taken))
        kept = LINKS.read()
        LINKS.save(kept.changed(next(x for x in kept.items if x.name == link.name), checked_link(link)))
        lines.append(f"kept with '{link.name}'")
    document = {"found": [{"part": f.part, "seconds": f.seconds, "line": f.line + 1, "pattern": f.pattern} for f in found], "taken": take}
    answer(as_json, document, lines)
    return 0


@links.command(help="Write an adapter for a renderer that stays open into a folder: link.py, and an example that wraps a command line.")
@click.argument("folder", type=click.Path(file_okay=False, path_type=Path))
@click.option("--json", "as_json", is_flag=True)
def adapter(folder: Path, as_json: bool) -> int:
    from hasty_reel import link as module

    wanted = {"link.py": Path(module.__file__).read_text(encoding="utf-8"), "adapter.py": EXAMPLE}
    there = [name for name in wanted if (folder / name).exists()]
    if there:
        raise WrongInput(f"link adapter: {folder / there[0]} is there already; expected another folder.")
    folder.mkdir(parents=True, exist_ok=True)
    for name, text in wanted.items():
        write_whole(folder / name, text.encode())
    words = f'hasty-reel link add "My renderer" --stays -- python3 {folder / "adapter.py"}'
    answer(as_json, {"files": [str(folder / name) for name in wanted], "add": words}, [f"{folder / n}" for n in wanted] + [words])
    return 0


def _named(name: str | None) -> Link:
    """The link of a name, or the chosen one."""
    try:
        return named_link(name)
    except WrongInput as error:
        raise WrongInput(str(error).replace("--renderer ", "link ")) from error


def _command(link: Link) -> str:
    return "inside this program, no command" if link.command is None else command_text(link.command)


def _document(link: Link) -> dict:
    return dict(msgspec.to_builtins(link))


def _answer(link: Link, as_json: bool, words: str = "") -> None:
    lines = [f"{link.name}: {words}" if words else link.name, f"  command   {_command(link)}", f"  time-out  {link.timeout:g} s"]
    if link.stays:
        can = "not asked yet: 'link try' does" if link.can is None else ", ".join(link.can) or "nothing of its own"
        lines += ["  stays open", f"  can       {can}"]
    for role, names in link.channels.items():
        lines.append(f"  {role:9} {', '.join(names) or 'left out'}")
    if link.frames > 1:
        lines.append(f"  frames    up to {link.frames} in one start")
    if link.vectors != (1, 1) or link.vectors_of_size:
        unit = "shares of the picture" if link.vectors_of_size else "pixels"
        lines.append(f"  vectors   {unit}, times {link.vectors[0]} across and {link.vectors[1]} down")
    lines += [f"  seconds of {part}  {pattern}" for part, pattern in link.seconds.items()]
    if link.progress:
        lines.append(f"  progress  {link.progress}")
    command = link.command or ()
    whole = link.command is None or link.stays or any("{job}" in argument for argument in command)
    unused = [] if whole else [p for p in PLACEHOLDERS if p not in OTHER_WAYS and not any("{" + p + "}" in a for a in command)]
    for title, places in (("not used", [p for p in unused if p in OF_JOB]), ("not told", [p for p in unused if p not in OF_JOB])):
        if places:
            lines.append(f"  {title}  {' '.join('{' + p + '}' for p in places)}")
    answer(as_json, _document(link), lines)
