"""How the second stand-in renderer is linked, and how it is made to misbehave."""

from __future__ import annotations

import sys
from pathlib import Path

import msgspec

from faulty_renderer import FAULTY_RENDERER
from hasty_reel.farm.renderers.links import Link

PROGRAM = Path(__file__).with_name("second_renderer.py")
ARGUMENTS = (
    "--scene", "{scene}", "--frame", "{frame}", "--size", "{width}x{height}", "--samples", "{samples}", "--seed", "{seed}",
    "--bounces", "{bounces}", "--ceiling", "{ceiling}", "--angle", "{angle}", "--crop", "{crop}", "--out", "{output}",
)  # fmt: skip
SECOND = Link(name="Second stand-in", command=(sys.executable, str(PROGRAM), *ARGUMENTS), timeout=300.0)


def faulty_second(*faults: str, timeout: float = 300.0) -> Link:
    """The same, misbehaving at the frames named."""
    return msgspec.structs.replace(SECOND, command=(*FAULTY_RENDERER, "--renderer", str(PROGRAM), *faults, *ARGUMENTS), timeout=timeout)


def slow_start(seconds: float) -> Link:
    """The same, with so many seconds of work before the first sample."""
    return msgspec.structs.replace(SECOND, command=(sys.executable, str(PROGRAM), "--start", f"{seconds:g}", *ARGUMENTS))
