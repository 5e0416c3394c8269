"""Names of delivered files: a pattern with places, filled in, checked before anything is written."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from hasty_reel.errors import WrongInput

PLACES = ("shot", "layer", "recipe", "version", "frame", "reel")
USUAL_PICTURES, USUAL_FILM = "{shot}/v{version}/{shot}.{frame}", "{shot}.v{version}"
DIGITS, VERSION_DIGITS = 4, 3
MOST_CHARACTERS = 200
_PLACE = re.compile(r"\{([a-z]*)\}")
_ILLEGAL = re.compile(r'[\x00-\x1f<>:"|?*\\]')


@dataclass(frozen=True)
class Naming:
    """What fills the places of a pattern. layer : '' for a shot without layers"""

    shot: str
    recipe: str
    reel: str
    layer: str = ""


def checked_pattern(pattern: str, film: bool) -> str:
    """Return a pattern of names, if files can be named by it.

    Parameters
    ----------
    pattern : with places such as {shot}, {version}, {frame}
    film : one file holds all frames, else each frame has one

    Raises
    ------
    WrongInput
        Says what is wrong and what was expected.
    """
    where = f"Name '{pattern[:80]}'"
    if not pattern.strip() or len(pattern) > MOST_CHARACTERS:
        raise WrongInput(f"{where}: expected 1 to {MOST_CHARACTERS} characters.")
    for place in _PLACE.findall(pattern):
        if place not in PLACES:
            raise WrongInput(f"{where}: no place is called '{{{place}}}'; expected {', '.join(f'{{{p}}}' for p in PLACES)}.")
    rest = _PLACE.sub("", pattern)
    bad = _ILLEGAL.search(rest)
    if bad or "{" in rest or "}" in rest or "#" in rest:
        sign = bad[0] if bad else "{" if "{" in rest or "}" in rest else "#"
        raise WrongInput(f"{where}: '{sign}' cannot stand in a name; expected letters, digits, '.', '-', '_' and '/'.")
    parts = pattern.split("/")
    if pattern.startswith("/") or any(p in ("", ".", "..") for p in parts):
        raise WrongInput(f"{where}: leads outside the chosen folder or has an empty part; expected names below it.")
    if any(p != p.strip() or p.endswith(".") for p in parts):
        raise WrongInput(f"{where}: a part begins or ends with a blank or ends with a dot; expected names that every system takes.")
    has_frame = "frame" in _PLACE.findall(parts[-1])
    if film and "frame" in _PLACE.findall(pattern):
        raise WrongInput(f"{where}: a film is one file; expected no {{frame}} in it.")
    if not film and not has_frame:
        raise WrongInput(f"{where}: no {{frame}} in the file's name; expected one, so that frames do not replace each other.")
    return pattern


def filled_name(pattern: str, naming: Naming, version: int, frame: str) -> str:
    """Return a name with its places filled in.

    Parameters
    ----------
    pattern : checked
    naming : of the shot
    version : counted from 1
    frame : number of the frame as it is written, or its place as ####
    """
    values = {
        "shot": naming.shot, "recipe": naming.recipe, "reel": naming.reel, "layer": naming.layer or "all",
        "version": f"{version:0{VERSION_DIGITS}d}", "frame": frame,
    }  # fmt: skip
    return _PLACE.sub(lambda m: _safe(values[m[1]]), pattern)


def _safe(text: str) -> str:
    """A value as it can stand in a name."""
    return re.sub(r"[^\w.#-]+", "-", text).strip(".-") or "unnamed"


def target_of(folder: Path, pattern: str, ending: str, naming: Naming, version: int) -> Path:
    """Return the file of a film, or the pattern of pictures, below a folder.

    Parameters
    ----------
    folder : chosen by the person
    pattern : checked
    ending : of the files
    naming : of the shot
    version : counted from 1

    Raises
    ------
    WrongInput
        When the name would lie outside the folder.
    """
    target = folder / f"{filled_name(pattern, naming, version, '#' * DIGITS)}{ending}"
    if not target.resolve().is_relative_to(folder.resolve()):
        raise WrongInput(f"{target}: lies outside {folder}; expected a name below it.")
    return target


def next_version(folder: Path, pattern: str, ending: str, naming: Naming) -> int:
    """Return the first version of which nothing is there, so that both are kept; 1 where the pattern has no {version}.

    Parameters
    ----------
    folder : chosen by the person
    pattern : checked
    ending : of the files
    naming : of the shot
    """
    if "{version}" not in pattern:
        return 1
    version = 1
    while there(target_of(folder, pattern, ending, naming, version)):
        version += 1
    return version


def there(target: Path) -> bool:
    """Whether anything lies under a name: the film, or any frame of a pattern.

    Parameters
    ----------
    target : file or pattern
    """
    if "#" not in target.name:
        return target.exists()
    before, after = target.name.split("#" * DIGITS, 1)
    form = re.compile(rf"{re.escape(before)}-?[0-9]{{{DIGITS},}}{re.escape(after)}\Z")
    return target.parent.is_dir() and any(form.match(p.name) for p in target.parent.iterdir())


def collisions(pattern: str, namings: Iterable[Naming]) -> list[tuple[str, str]]:
    """Return pairs of shots whose files would have the same names.

    Parameters
    ----------
    pattern : checked
    namings : of the shots that are handed over together
    """
    seen: dict[str, Naming] = {}
    out = []
    for naming in namings:
        name = filled_name(pattern, naming, 1, "0001").casefold()  # some systems do not tell A from a
        if name in seen:
            out.append(
                (f"{seen[name].shot}{seen[name].layer and '.' + seen[name].layer}", f"{naming.shot}{naming.layer and '.' + naming.layer}")
            )
        else:
            seen[name] = naming
    return out
