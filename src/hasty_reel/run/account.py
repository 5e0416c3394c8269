"""What a run did, by its journal: what is done, what failed and why, real against planned seconds, what is to be rendered again."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime

import numpy as np

from hasty_reel.reel.durations import spoken
from hasty_reel.reel.frames import write_frames
from hasty_reel.run.framestate import FAILED, FINISHED, RENDERED, WITHOUT
from hasty_reel.run.journal import NOTED, JournalLine

TOLD_OBJECTS = 4
"""Objects that are named in a sentence."""


@dataclass(frozen=True)
class MachineWork:
    """What one machine did. frames : rendered; seconds : of work; pace : real seconds / planned, median; retried : frames it lost."""

    name: str
    frames: int
    seconds: float
    pace: float
    retried: int


@dataclass(frozen=True)
class ObjectCost:
    """What one object or texture took. seconds : over all frames; share : of what all told objects took; memory_bytes : the most."""

    name: str
    seconds: float
    share: float
    memory_bytes: float


@dataclass(frozen=True)
class Account:
    """A run, from its beginning to now.

    begun, ended : when; ended is None while it is at work, or where it was cut off
    rendered : frames, each with its real and planned seconds, by frame; finished : how many frames are finished
    failed : what was wrong with frames that were set aside, by frame; again : frames that are to be rendered again
    retried : how often something went wrong and was tried again, by what was wrong
    noise : measured noise / planned, by frame, of frames that were rendered in halves
    anew : new plans that were taken, in words; noted : what else was said of the run
    fewer : frames that were finished without neighbours that failed
    objects : what each took, as far as the renderer tells, the dearest first
    machines : what each did; why : for which reason the run ended early, '' for none
    """

    begun: datetime | None = None
    ended: datetime | None = None
    rendered: dict[int, tuple[float, float]] = field(default_factory=dict)
    finished: int = 0
    failed: dict[int, str] = field(default_factory=dict)
    again: tuple[int, ...] = ()
    retried: dict[str, int] = field(default_factory=dict)
    machines: tuple[MachineWork, ...] = ()
    why: str = ""
    anew: tuple[str, ...] = ()
    noise: dict[int, float] = field(default_factory=dict)
    noted: tuple[str, ...] = ()
    fewer: tuple[int, ...] = ()
    objects: tuple[ObjectCost, ...] = ()

    @property
    def pace(self) -> float:
        """Real seconds / planned ones over all rendered frames; nan where none was rendered."""
        planned = sum(p for _, p in self.rendered.values())
        return sum(r for r, _ in self.rendered.values()) / planned if planned > 0 else math.nan

    @property
    def words(self) -> list[str]:
        """The account in sentences, the most important first."""
        if self.begun is None:
            return []
        out = []
        count = len(self.rendered)
        took = f" in {spoken((self.ended - self.begun).total_seconds())}" if self.ended is not None else ""
        out.append(f"{count} {'frame' if count == 1 else 'frames'} rendered, {self.finished} finished{took}, begun {self.begun:%a %H:%M}.")
        if self.why:
            out.append(f"It ended early: {self.why}")
        elif self.ended is None:
            out.append("It has not ended: it is at work, or was cut off; what is finished stays, and it can be gone on with.")
        if not math.isnan(self.pace):
            real = sum(r for r, _ in self.rendered.values())
            low, high = np.quantile([r / p for r, p in self.rendered.values() if p > 0], (0.05, 0.95))
            out.append(
                f"{spoken(real)} of rendering, {self.pace:.2f} of the plan; nine frames in ten took {low:.2f} to {high:.2f} of theirs."
            )
        if timed := [o for o in self.objects if o.seconds > 0][:TOLD_OBJECTS]:
            out.append("What takes time: " + ", ".join(f"{o.name} {100 * o.share:.0f} %" for o in timed) + ".")
        if heavy := sorted((o for o in self.objects if o.memory_bytes > 0), key=lambda o: -o.memory_bytes)[:TOLD_OBJECTS]:
            out.append("What takes memory: " + ", ".join(f"{o.name} {o.memory_bytes / 2**20:.3g} MB" for o in heavy) + ".")
        if self.noise:
            ratios, worst = np.array(list(self.noise.values())), max(self.noise, key=lambda f: self.noise[f])
            out.append(
                f"Noise measured in {len(ratios)} frames before finishing: {np.median(ratios):.2f} of the plan, "
                f"above it in {100 * np.mean(ratios > 1.0):.0f} %, {ratios.max():.2f} of it at frame {worst}."
            )
        out += [f"Planned anew: {words}" for words in self.anew]
        out += self.noted
        if self.retried:
            times = sum(self.retried.values())
            most = max(self.retried, key=lambda w: self.retried[w])
            out.append(f"{times} {'frame was' if times == 1 else 'frames were'} tried again, most often because: {most}")
        for frame, words in sorted(self.failed.items()):
            out.append(f"Frame {frame} failed: {words}")
        if self.fewer:
            one = len(self.fewer) == 1
            named = f"Frame {self.fewer[0]} was" if one else f"Frames {write_frames(self.fewer)} were"
            out.append(f"{named} finished with fewer neighbours, without those that failed.")
        if self.again:
            out.append(f"To render again: {write_frames(self.again)}.")
        return out


def account_of(lines: Sequence[JournalLine], states: Mapping[int, str] | None = None) -> Account:
    """Return the account of the last run in a journal.

    Parameters
    ----------
    lines : of the journal, oldest first
    states : of the frames as they are on disk now; None: by the journal alone
    """
    last = max((k for k, line in enumerate(lines) if line.what == "begun"), default=None)
    if last is None:
        return Account()
    begin, rest = lines[last], lines[last + 1 :]
    end = next((line for line in rest if line.what == "ended"), None)
    rendered = {x.frame: (x.seconds, x.planned) for x in rest if x.what == RENDERED or (x.what == FINISHED and x.machine)}
    finished = {x.frame for x in rest if x.what == FINISHED}
    failed = {x.frame: x.words for x in rest if x.what == FAILED}
    failed = {f: w for f, w in failed.items() if f not in finished}
    if states is not None:
        failed = {f: w for f, w in failed.items() if states.get(f) != FINISHED}
    again = tuple(sorted(failed if states is None else {f for f, s in states.items() if s != FINISHED} | set(failed)))
    return Account(
        datetime.fromisoformat(begin.at), None if end is None else datetime.fromisoformat(end.at), rendered, len(finished), failed, again,
        dict(Counter(_cause(x) for x in rest if x.what == "retried")), _machines(rest), "" if end is None else end.words,
        tuple(x.words for x in rest if x.what == "planned anew"),
        {x.frame: x.measured / x.noise for x in rest if x.measured > 0 and x.noise > 0},
        tuple(x.words for x in rest if x.what == NOTED),
        tuple(sorted({x.frame for x in rest if x.what == FINISHED and x.words.startswith(WITHOUT)})), _objects(rest),
    )  # fmt: skip


def _objects(lines: Sequence[JournalLine]) -> tuple[ObjectCost, ...]:
    """What each object took over the frames of a run, the dearest first; of a frame that was rendered twice the last counts."""
    seconds: Counter[str] = Counter()
    memory: dict[str, float] = {}
    for line in {x.frame: x for x in lines if x.objects or x.object_memory}.values():
        seconds.update(line.objects)
        for name, size in line.object_memory.items():
            memory[name] = max(size, memory.get(name, 0.0))
    whole = sum(seconds.values())
    found = [ObjectCost(n, seconds[n], seconds[n] / whole if whole > 0 else 0.0, memory.get(n, 0.0)) for n in {*seconds, *memory}]
    return tuple(sorted(found, key=lambda o: (-o.seconds, -o.memory_bytes, o.name)))


def _cause(line: JournalLine) -> str:
    """What was wrong, without the frame it was wrong with: alike ones are counted together."""
    words = line.words.replace(f"Frame {line.frame}: ", "").replace(" It is tried again.", "").replace(" It is rendered again.", "")
    return words[:1].upper() + words[1:]


def _machines(lines: Sequence[JournalLine]) -> tuple[MachineWork, ...]:
    names = dict.fromkeys(x.machine for x in lines if x.machine)
    out = []
    for name in names:
        mine = [x for x in lines if x.machine == name]
        done = [x for x in mine if x.what in (RENDERED, FINISHED)]
        pace = float(np.median([x.seconds / x.planned for x in done if x.planned > 0])) if done else math.nan
        out.append(MachineWork(name, len(done), sum(x.seconds for x in done), pace, sum(x.what == "retried" for x in mine)))
    return tuple(out)
