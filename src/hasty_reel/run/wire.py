"""A rendered frame as plain bytes: what comes back from another machine is read and checked here, and never run as code.

A head of JSON, its length before it in eight bytes, then the arrays one after another as little-endian float32. Everything the head
says is held against what was asked for before a byte of an array is read.
"""

from __future__ import annotations

import math

import msgspec
import numpy as np

from hasty_reel.bench.moment import LightCache
from hasty_reel.errors import RendererFault
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.farm.renderers.statistics import by_name
from hasty_reel.pictures.frame import Picture

LENGTH = 8
LONGEST_HEAD, LONGEST_TEXT, MOST_ATTRIBUTES, MOST_GUIDES, MOST_CACHES = 4 << 20, 20_000, 500, 200, 64
LARGEST_SIDE = 1 << 17
"""Pixels of a side, or numbers of that of a light cache."""
LARGEST_CACHE = 1 << 26
"""Numbers of a light cache."""


class _Array(msgspec.Struct, frozen=True):
    """One array: what it is, and its shape; frame and pattern of a light cache."""

    name: str
    shape: tuple[int, ...]
    frame: int = 0
    pattern: int = 0


class _Head(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is told of a frame, and the arrays that follow; words : what went wrong, '' for nothing; stopped : it was asked to stop."""

    machine: str
    seconds: float
    words: str = ""
    stopped: bool = False
    arrays: tuple[_Array, ...] = ()
    attributes: dict[str, str | int | float] = {}
    load_seconds: float = 0.0
    sample_seconds: float = 0.0
    cache_seconds: float = 0.0
    samples: float = 0.0
    memory_bytes: int = 0
    cache_bytes: int = 0
    cpu_seconds: float = 0.0
    one_number: bool = False
    messages: str = ""
    objects: dict[str, float] = {}
    object_memory: dict[str, float] = {}


class FarFrame(msgspec.Struct, frozen=True):
    """What came back: the frame, or what went wrong, or that it was stopped; seconds it took, and the machine that had it."""

    made: RenderedFrame | None
    words: str
    stopped: bool
    seconds: float
    machine: str


def as_bytes(far: FarFrame) -> bytes:
    """Return a frame, or what went wrong with it, as bytes.

    Parameters
    ----------
    far : what became of a frame
    """
    made = far.made
    if made is None:
        return _packed(_Head(far.machine, far.seconds, far.words[:LONGEST_TEXT], far.stopped), [])
    picture = made.picture
    named: list[tuple[_Array, np.ndarray]] = [(_Array("rgb", picture.rgb.shape), picture.rgb)]
    named += [(_Array(f"guide:{name}", plane.shape), plane) for name, plane in picture.guides.items()]
    named += [(_Array("cache", c.light.shape, c.frame, c.pattern), c.light) for c in made.light_caches if not c.path]
    head = _Head(
        far.machine, far.seconds, arrays=tuple(told for told, _ in named),
        attributes={k: v if isinstance(v, str | int | float) else str(v) for k, v in picture.attributes.items()},
        load_seconds=made.load_seconds, sample_seconds=made.sample_seconds, cache_seconds=made.cache_seconds, samples=made.samples,
        memory_bytes=made.memory_bytes, cache_bytes=made.cache_bytes, cpu_seconds=made.cpu_seconds, one_number=made.one_number,
        messages=made.messages[-LONGEST_TEXT:], objects=made.objects, object_memory=made.object_memory,
    )  # fmt: skip
    return _packed(head, [array for _, array in named])


def _packed(head: _Head, arrays: list[np.ndarray]) -> bytes:
    raw = msgspec.json.encode(head)
    return b"".join([len(raw).to_bytes(LENGTH, "little"), raw, *(np.ascontiguousarray(a, "<f4").tobytes() for a in arrays)])


def from_bytes(raw: object, job: FrameJob, caches: bool = False) -> FarFrame:
    """Return what came back, if it is what was asked for.

    Parameters
    ----------
    raw : bytes, as they came
    job : the frame that was asked for
    caches : its light caches were asked for

    Raises
    ------
    RendererFault
        When it is anything else.
    """
    what = f"Frame {job.frame}: what its worker sent"
    if not isinstance(raw, bytes) or len(raw) < LENGTH:
        raise RendererFault(f"{what} is no frame.")
    length = int.from_bytes(raw[:LENGTH], "little")
    if length > min(LONGEST_HEAD, len(raw) - LENGTH):
        raise RendererFault(f"{what} is cut short.")
    try:
        head = msgspec.json.decode(raw[LENGTH : LENGTH + length], type=_Head)
    except (msgspec.DecodeError, UnicodeDecodeError) as error:
        raise RendererFault(f"{what} has no head that can be read.") from error
    numbers = (head.seconds, head.load_seconds, head.sample_seconds, head.cache_seconds, head.samples, head.cpu_seconds)
    if not all(math.isfinite(n) and 0 <= n < 1e9 for n in numbers) or not 0 <= head.memory_bytes < 1 << 50:
        raise RendererFault(f"{what} tells seconds that are none.")
    if head.words or head.stopped:
        return FarFrame(None, _one_line(head.words), head.stopped, head.seconds, _one_line(head.machine)[:200])
    return FarFrame(_frame(head, raw, LENGTH + length, job, caches, what), "", False, head.seconds, _one_line(head.machine)[:200])


def _frame(head: _Head, raw: bytes, at: int, job: FrameJob, caches: bool, what: str) -> RenderedFrame:
    width, height = (job.width, job.height) if job.crop is None else job.crop[2:]
    if caches:
        width = height = 1
    if len(head.arrays) > MOST_GUIDES + MOST_CACHES or len(head.attributes) > MOST_ATTRIBUTES:
        raise RendererFault(f"{what} has too many parts.")
    wanted = 0
    for told in head.arrays:
        if any(not 0 < side <= LARGEST_SIDE for side in told.shape):
            raise RendererFault(f"{what} has an array without a size.")
        good = {"rgb": told.shape == (height, width, 3), "cache": math.prod(told.shape) <= LARGEST_CACHE}
        if not good.get(told.name, told.name.startswith("guide:") and told.shape == (height, width)):
            size = "x".join(str(n) for n in told.shape)
            raise RendererFault(f"{what} has '{_one_line(told.name)[:40]}' of {size}; expected {width}x{height} pixels.")
        wanted += 4 * math.prod(told.shape)
    if len(raw) - at != wanted:
        raise RendererFault(f"{what} is cut short.")
    arrays = []
    for told in head.arrays:
        count = math.prod(told.shape)
        arrays.append(np.frombuffer(raw, "<f4", count, at).reshape(told.shape).astype(np.float32))
        at += 4 * count
    named = list(zip(head.arrays, arrays))
    rgb = next((a for told, a in named if told.name == "rgb"), None)
    if rgb is None:
        raise RendererFault(f"{what} has no picture.")
    guides = {told.name.removeprefix("guide:"): a for told, a in named if told.name.startswith("guide:")}
    found = tuple(LightCache(told.frame, told.pattern, a) for told, a in named if told.name == "cache")
    return RenderedFrame(
        Picture(rgb, guides, dict(head.attributes)), head.load_seconds, head.sample_seconds, head.cache_seconds, head.samples,
        head.memory_bytes, head.messages[-LONGEST_TEXT:], head.cache_bytes, found, head.cpu_seconds, head.one_number,
        objects=by_name(head.objects), object_memory=by_name(head.object_memory),
    )  # fmt: skip


def _one_line(text: str) -> str:
    return " ".join("".join(c if c.isprintable() else " " for c in text).split())[:LONGEST_TEXT]
