"""Coverage-guided fuzzing of every reader that is ours: started by `bin/fuzz`.

    bin/fuzz                    each reader for ten seconds
    bin/fuzz reel               one reader, until it is stopped
    bin/fuzz reel 600           one reader for ten minutes
    bin/fuzz all 60             each reader for a minute

A reader must read what it is given or raise one of our own errors with something to say. What
breaks it is kept as a file in the folder the last line names, and given to the next run first.
"""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import atheris

with atheris.instrument_imports(include=["hasty_reel"]):
    from hasty_reel.cli.answers import read_table as read_frames_table
    from hasty_reel.commands import whole_numbers
    from hasty_reel.errors import HastyReelError, one_line
    from hasty_reel.evidence.measured import ProofMeasures
    from hasty_reel.evidence.proof import DENOISE, MANIFEST, read_effects, read_proof
    from hasty_reel.farm.fromframes import rate_in
    from hasty_reel.farm.patternof import pattern_of
    from hasty_reel.farm.renderers.links import LINKS
    from hasty_reel.farm.sweeps import read_values
    from hasty_reel.farm.times import read_log, read_times, seconds_in
    from hasty_reel.measure.eyesight import WATCHERS
    from hasty_reel.own.draftcuts import DRAFT_CUTS
    from hasty_reel.own.recentreels import recent_reels
    from hasty_reel.pictures.foreign import guess_channels, read_channels_text
    from hasty_reel.pictures.limits import PictureLimits, checked_limits
    from hasty_reel.pictures.sequence import read_pattern
    from hasty_reel.programs.expressions import compiled, last_group
    from hasty_reel.reel.file import read_reel
    from hasty_reel.reel.frames import read_frames, read_proof_frames
    from hasty_reel.reel.rate import read_rate, read_timecode
    from hasty_reel.reel.shottable import read_table
    from hasty_reel.reel.timeline import need_plain_json
    from hasty_reel.reel.writer import ReelWriter

FOLDER = Path(tempfile.gettempdir()) / "hasty-reel-fuzzing"
SECONDS = 10


def in_file(name: str, read: Callable[[Path], object]) -> Callable[[bytes], object]:
    """A reader of files as one of bytes."""
    folder = FOLDER / "files" / name
    folder.mkdir(parents=True, exist_ok=True)
    path = folder / name

    def give(raw: bytes) -> object:
        path.write_bytes(raw)
        return read(path)

    return give


def in_text(read: Callable[[str], object]) -> Callable[[bytes], object]:
    """A reader of text as one of bytes."""
    return lambda raw: read(raw.decode("utf-8", "replace"))


def pattern_on_text(text: str) -> object:
    """A pattern, and the text it looks through, on two lines."""
    pattern, _, printed = text.partition("\n")
    form = compiled(f"({pattern})", "fuzz")
    return last_group(form, printed) if form.groups else None  # a link's pattern has a group, or it is refused


def limits_of(raw: bytes) -> object:
    """Limits of pictures from eight bytes each."""
    import struct

    megapixels, channels = struct.unpack("<dq", raw[:16].ljust(16, b"\0"))
    return checked_limits(PictureLimits(megapixels=megapixels, channels=channels))


TARGETS: dict[str, Callable[[bytes], object]] = {
    "reel": in_file("a.reel", read_reel),
    "shots": in_file("a.csv", lambda p: read_table(p, "s", "r")),
    "timeline": lambda raw: need_plain_json(raw, Path("a.otio")),
    "budget": in_file("b.csv", lambda p: read_frames_table(p, ("frame", "variance"), ("weight", "pin"))),
    "times": in_file("t.csv", read_times),
    "log": in_file("r.log", lambda p: read_log(p, r"(?P<frame>\d+) (?P<seconds>[\d.,]+)")),
    "links": in_file("renderers.json", LINKS.read),
    "cuts": in_file("cuts.json", DRAFT_CUTS.read),
    "watchers": in_file("watchers.json", WATCHERS.read),
    "recent": in_file("recent.json", recent_reels),
    "writer": in_file(".a.reel.writer", lambda p: ReelWriter(p.with_name("a.reel")).holder),
    "manifest": in_file(MANIFEST, lambda p: read_proof(p.parent)),
    "effects": in_file(DENOISE, lambda p: read_effects(p.parent)),
    "measured": in_file("measured.json", lambda p: ProofMeasures(p.parent).rows),
    "limits": limits_of,
    "frames": in_text(read_frames),
    "proof-frames": in_text(read_proof_frames),
    "pattern": in_text(read_pattern),
    "picture-name": in_text(lambda t: pattern_of(Path(t.replace("\0", "")))),
    "channels": in_text(read_channels_text),
    "channel-names": in_text(lambda t: guess_channels(t.split("\n")[:300])),
    "rate": in_text(read_rate),
    "timecode": in_text(lambda t: read_timecode(t, Fraction(30000, 1001), True)),
    "values": in_text(lambda t: read_values("bounces", t, "fuzz")),
    "size": in_text(lambda t: whole_numbers(t, 2, "x", "--size")),
    "seconds": in_text(lambda t: seconds_in({"hr:seconds": t})),
    "head-rate": in_text(lambda t: rate_in({"fps": t})),
    "link-pattern": in_text(pattern_on_text),
    "message": in_text(one_line),
}


def fuzz(name: str, seconds: int | None) -> None:
    """Fuzz one reader in this process; it does not come back."""
    read = TARGETS[name]

    def one(raw: bytes) -> None:
        try:
            read(raw)
        except HastyReelError as error:
            if not str(error).strip():
                raise AssertionError("an error with nothing to say") from error

    corpus = FOLDER / "corpus" / name
    corpus.mkdir(parents=True, exist_ok=True)
    words = [sys.argv[0], str(corpus), f"-artifact_prefix={FOLDER}/{name}-", "-max_len=4096", "-timeout=20", "-verbosity=0"]
    atheris.Setup(words if seconds is None else [*words, f"-max_total_time={seconds}"], one)
    atheris.Fuzz()


def main() -> None:
    """Fuzz one reader, or each in a process of its own."""
    name = sys.argv[1] if len(sys.argv) > 1 else "all"
    seconds = int(sys.argv[2]) if len(sys.argv) > 2 else None
    if name != "all":
        if name not in TARGETS:
            sys.exit(f"no reader '{name}'; expected all, or one of {', '.join(TARGETS)}")
        fuzz(name, seconds)
        return
    broken = []
    for each in TARGETS:
        done = subprocess.run([sys.executable, __file__, each, str(seconds or SECONDS)], capture_output=True, text=True, check=False)
        print(f"{each:<14} {'held' if done.returncode == 0 else 'BROKEN'}", flush=True)
        if done.returncode:
            broken.append(each)
            print(done.stderr[-2000:])
    print(f"{len(TARGETS)} readers, {len(broken)} broken; what was found is in {FOLDER}")
    sys.exit(1 if broken else 0)


if __name__ == "__main__":
    main()
