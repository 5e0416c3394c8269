"""The open protocol of a renderer that stays open: one JSON object a line, on its standard input and output.

`docs/renderers.md` tells it in words, `docs/link.schema.json` as a JSON schema, which is made of the messages below by
`python -m hasty_reel.farm.renderers.messages`. Who reads a message takes what it does not know as not said.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated

import msgspec

PROTOCOL = 1
"""Number of the protocol; another one is another language."""
LONGEST_LINE = 1 << 20
"""Bytes of a line at most."""
ABILITIES = {
    "keep": "keeps a scene loaded from frame to frame",
    "crop": "renders a part of a frame",
    "guides": "writes albedo, normal, depth and motion beside the picture",
    "history": "has scenes that need the frames before a frame, and simulates them",
    "caches": "computes a light cache into a file, and blends such files",
    "stop": "stops where the noise is low enough",
    "cap": "stops after a time",
    "preview": "writes the picture as it grows",
}
"""What a renderer may say that it can, and what each means."""

_Count = Annotated[int, msgspec.Meta(ge=0)]


class _Message(msgspec.Struct, frozen=True, tag_field="say", kw_only=True):
    """A message: 'say' tells which."""


# -- to the renderer


class Hello(_Message, frozen=True, tag="hello"):
    """The first message: which protocol is spoken."""

    protocol: int = PROTOCOL


class Load(_Message, frozen=True, tag="load"):
    """Read a scene, also where it is loaded already: answered by `loaded`."""

    id: int
    scene: str


class CacheShare(msgspec.Struct, frozen=True):
    """A light cache that a frame blends: the frame that owns it, its share (they sum to 1), its file."""

    frame: float
    share: float
    path: str


class Render(_Message, frozen=True, tag="render"):
    """Render a frame of the loaded scene into a file: answered by `result`, `failed` or `cancelled`.

    width, height : of the whole picture; crop : left, top, width, height of the part that is wanted, in pixels
    samples : a pixel in all, the most of them with stop_noise or cap; floor : the fewest with these
    shutter : when it opens and closes, in frames; settings : by name, as numbers, own ones as 'own.NAME'
    stop_noise : noise at which a pixel gets no more samples; cap : seconds it may take; 0 for none
    history : frames that come before it and were not simulated yet, in order; the same frame again needs none
    fresh : a history begins with these frames, or with this one: whatever was gathered before is to be forgotten
    output : OpenEXR file to write; preview : OpenEXR file for the picture as it grows, '' for none
    """

    id: int
    scene: str
    frame: float
    width: int
    height: int
    crop: tuple[int, int, int, int]
    samples: int
    floor: int
    seed: int
    shutter: tuple[float, float]
    settings: dict[str, float]
    stop_noise: float
    cap: float
    guides: bool
    history: list[float]
    fresh: bool
    caches: list[CacheShare]
    output: str
    preview: str


class Cache(_Message, frozen=True, tag="cache"):
    """Compute the light cache that a frame owns into a file: answered like `render`."""

    id: int
    scene: str
    frame: float
    seed: int
    settings: dict[str, float]
    output: str


class Cancel(_Message, frozen=True, tag="cancel"):
    """Give up what was asked for under a number: answered by `cancelled`, or by `result` where it was done already."""

    id: int


class Quit(_Message, frozen=True, tag="quit"):
    """End: nothing more is asked for. The end of the input means the same."""


# -- from the renderer


class Bounds(msgspec.Struct, frozen=True):
    """What a setting may be: the least and the most of it."""

    low: float
    high: float


class Greeting(_Message, frozen=True, tag="hello"):
    """The first answer: what it is called, what it can (see ABILITIES), and the settings that it knows; none: it was not told."""

    protocol: int
    name: str = ""
    can: list[str] = []
    settings: dict[str, Bounds] = {}


class Loaded(_Message, frozen=True, tag="loaded"):
    """The scene is loaded; seconds : that took, where it knows."""

    id: int
    seconds: float | None = None


class Told(_Message, frozen=True, tag="progress"):
    """How much of a frame is done, 0 to 1."""

    id: int
    share: float


class Preview(_Message, frozen=True, tag="preview"):
    """The picture as it grew so far was written to the path of the preview."""

    id: int


class Result(_Message, frozen=True, tag="result"):
    """It is done and written.

    seconds : by part, of 'load', 'cache', 'sample' and 'write', as far as it knows; samples : a pixel got in the mean
    memory_bytes : the most it took; objects, object_memory : seconds and bytes by object or texture, where it knows
    """

    id: int
    frame: float | None = None
    seconds: dict[str, float] = {}
    samples: float | None = None
    memory_bytes: _Count = 0
    warnings: list[str] = []
    objects: dict[str, float] = {}
    object_memory: dict[str, float] = {}


class Failed(_Message, frozen=True, tag="failed"):
    """It could not be done; words : why, in a sentence."""

    id: int
    words: str = ""


class Cancelled(_Message, frozen=True, tag="cancelled"):
    """It was given up."""

    id: int


Asked = Hello | Load | Render | Cache | Cancel | Quit
Answer = Greeting | Loaded | Told | Preview | Result | Failed | Cancelled

_ENCODER = msgspec.json.Encoder()
_DECODER = msgspec.json.Decoder(Answer)


def as_line(message: Asked) -> bytes:
    """Return a message as the line that is sent, its end included.

    Parameters
    ----------
    message : to the renderer
    """
    return _ENCODER.encode(message) + b"\n"


def read_answer(line: bytes) -> Answer:
    """Read a line of a renderer.

    Parameters
    ----------
    line : without its end

    Raises
    ------
    ValueError
        When it is no message of the protocol; says what is wrong.
    """
    try:
        return _DECODER.decode(line)
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise ValueError(str(error)) from error


def schema() -> dict:
    """Return the JSON schema of all messages, those to the renderer and those from it."""
    (asked, answers), parts = msgspec.json.schema_components([Asked, Answer])
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Messages between Hasty Reel and a renderer that stays open",
        "description": "One JSON object a line. 'asked' are sent to the renderer, 'answers' by it.",
        "$defs": {"asked": asked, "answers": answers, **parts},
        "anyOf": [{"$ref": "#/$defs/asked"}, {"$ref": "#/$defs/answers"}],
    }


def schema_text() -> str:
    """Return the schema as it is kept in docs."""
    return json.dumps(schema(), indent=2) + "\n"


if __name__ == "__main__":
    (Path(__file__).resolve().parents[4] / "docs" / "link.schema.json").write_text(schema_text(), encoding="utf-8")
