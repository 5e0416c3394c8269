"""Pictures of other programs: which channel is what, and display codes back to light."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from pathlib import Path

import numpy as np

from hasty_reel.errors import PictureError, WrongInput
from hasty_reel.image.srgb import srgb_decode
from hasty_reel.pictures.frame import Picture, read_planes

ROLES: dict[str, tuple[str, ...]] = {
    "colour": ("R", "G", "B"),
    "albedo": ("albedo.R", "albedo.G", "albedo.B"),
    "normal": ("normal.X", "normal.Y", "normal.Z"),
    "depth": ("Z",),
    "motion": ("motion.X", "motion.Y"),
}
"""What a picture may carry, and the names it has here."""
_WORDS = {
    "albedo": r"albedo|diffuse_?(filter|colou?r)|basecolou?r|base_colou?r",
    "normal": r"normal|^n$|nrm",
    "depth": r"depth|^z$|distance",
    "motion": r"motion|vector|velocity|^mv$|flow",
}
_LAST = {"r": 0, "red": 0, "x": 0, "u": 0, "g": 1, "green": 1, "y": 1, "v": 1, "b": 2, "blue": 2, "z": 2}
CODED = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".dpx")
"""Endings of pictures that usually hold display codes."""
ENDINGS = (".exr", *CODED)
"""Endings of pictures that can be read."""
Channels = dict[str, tuple[str, ...]]


def guess_channels(names: Sequence[str]) -> Channels:
    """Return which channels are colour, albedo, normal, depth and motion, by their names; what is not found is left out.

    Parameters
    ----------
    names : of the channels
    """
    layers: dict[str, list[str]] = {}
    for name in names:
        layer, _, last = name.rpartition(".")
        layers.setdefault(layer if last else name, []).append(name)
    out: Channels = {}
    plain = _in_order(layers.get("", []), 3)
    if plain is None:
        for layer in layers:
            if re.search(r"beauty|combined|colou?r|rgba?$|image", layer, re.IGNORECASE) and not re.search(
                _WORDS["albedo"], layer, re.IGNORECASE
            ):
                plain = _in_order(layers[layer], 3)
                break
    if plain is None and len(names) in (1, 2):
        plain = (names[0],) * 3
    if plain is not None:
        out["colour"] = plain
    for role, words in _WORDS.items():
        count = len(ROLES[role])
        for layer, found in layers.items():
            if layer and re.search(words, layer, re.IGNORECASE) and role not in out:
                chosen = (found[0],) if count == 1 else _in_order(found, count)
                if chosen is not None:
                    out[role] = chosen
        if role not in out and count == 1:
            alone = [n for n in layers.get("", []) if re.search(words, n, re.IGNORECASE)]
            if alone:
                out[role] = (alone[0],)
    return out


def _in_order(names: Sequence[str], count: int) -> tuple[str, ...] | None:
    places = {_LAST.get(n.rpartition(".")[2].lower()): n for n in reversed(names)}
    return tuple(places[k] for k in range(count)) if all(k in places for k in range(count)) else None


def read_channels_text(text: str) -> Channels:
    """Return a correction as it is written: 'albedo=diffuse.R,diffuse.G,diffuse.B'; 'albedo=none' leaves it out.

    Parameters
    ----------
    text : as typed

    Raises
    ------
    WrongInput
        When the role or the count does not do.
    """
    role, _, rest = text.partition("=")
    role = role.strip().lower()
    if role not in ROLES:
        raise WrongInput(f"Channels '{text[:60]}'; expected one of {', '.join(ROLES)}, such as albedo=a.R,a.G,a.B.")
    names = tuple(n.strip() for n in rest.split(",") if n.strip())
    if names == ("none",):
        return {role: ()}
    if len(names) != len(ROLES[role]):
        raise WrongInput(f"Channels '{text[:60]}': {len(names)} names; expected {len(ROLES[role])} for {role}, or none.")
    return {role: names}


def colour_layers(names: Sequence[str]) -> Channels:
    """Return the layers of a picture that hold colour, by their name, '' for that without one; guides are left out.

    Parameters
    ----------
    names : of its channels
    """
    layers: dict[str, list[str]] = {}
    for name in names:
        layers.setdefault(name.rpartition(".")[0], []).append(name)
    guides = re.compile("|".join(_WORDS.values()), re.IGNORECASE)
    found = {layer: _in_order(members, 3) for layer, members in layers.items() if not (layer and guides.search(layer))}
    return {layer: members for layer, members in found.items() if members is not None}


def read_foreign(path: Path, channels: Mapping[str, Sequence[str]], coded: bool, wanted: Collection[str] | None = None) -> Picture:
    """Return a picture of another program, its channels named as ours.

    Parameters
    ----------
    path : of the file
    channels : role -> names; a role with no names is left out
    coded : the colour holds sRGB display codes, to be decoded to light
    wanted : guides that are needed, by our names; None: all

    Raises
    ------
    PictureError
        When the file cannot be read or a channel is not there.
    """
    if wanted is not None:
        channels = {r: n for r, n in channels.items() if r == "colour" or any(g in wanted for g in ROLES[r])}
    pixels, names, attributes = read_planes(path, None if wanted is None else {n for found in channels.values() for n in found})
    if len(names) in (1, 2) and "colour" not in channels:
        channels = {**channels, "colour": (names[0],) * 3}

    def _planes(role: str) -> np.ndarray:
        missing = [n for n in channels[role] if n not in names]
        if missing:
            raise PictureError(f"{path}: no channel '{missing[0]}' for {role}; it has {', '.join(names)[:200]}.")
        return pixels[..., [names.index(n) for n in channels[role]]]

    if not channels.get("colour"):
        raise PictureError(f"{path}: no colour among {', '.join(names)[:200]}; expected three channels named as its colour.")
    rgb = np.ascontiguousarray(_planes("colour"))
    if coded:
        rgb = srgb_decode(np.clip(rgb, 0.0, 1.0)).astype(np.float32)
    guides: dict[str, np.ndarray] = {}
    for role, ours in ROLES.items():
        if role != "colour" and channels.get(role):
            found = _planes(role)
            guides.update((name, np.ascontiguousarray(found[..., k])) for k, name in enumerate(ours))
    if "samples" in names:
        guides["samples"] = np.ascontiguousarray(pixels[..., names.index("samples")])
    return Picture(rgb, guides, attributes)


def is_coded(path: Path, attributes: Mapping[str, object]) -> bool:
    """Whether a picture holds display codes: as the file says, else as its ending lets expect.

    Parameters
    ----------
    path : of the file
    attributes : of the head of a file
    """
    space = str(attributes.get("oiio:ColorSpace", "")).lower()
    if space.startswith("lin") or "linear" in space or "acescg" in space:
        return False
    return path.suffix.lower() in CODED
