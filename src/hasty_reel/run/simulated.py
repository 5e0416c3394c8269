"""A crew of simulated machines, in accelerated time: with speeds, failures, hung renderers and other people's load.

It stands in for a farm in the demo, in rehearsals and in tests, and drives the same run as real machines do. Only the
clock is another: it jumps to the end of the next frame.
"""

from __future__ import annotations

import heapq
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np

from hasty_reel.errors import RendererFault, Stopped
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.pictures.frame import Picture
from hasty_reel.plan.time.timeleft import UnderWay
from hasty_reel.run.crew import FrameTask, Outcome
from hasty_reel.work import CancelToken

Paint = Callable[[FrameTask], RenderedFrame]


@dataclass(frozen=True)
class SimulatedMachine:
    """A machine that is none.

    speed : as it is planned with; truth : real speed / that
    workers : frames at once; fail, hang, spoil : chance that a frame crashes, never ends, comes as garbage
    load : seconds between which other people work on it, and how much slower it is then
    gone : seconds between which it is taken out; its frames are lost
    """

    name: str
    speed: float = 1.0
    truth: float = 1.0
    workers: int = 1
    fail: float = 0.0
    hang: float = 0.0
    spoil: float = 0.0
    load: tuple[tuple[float, float, float], ...] = ()
    gone: tuple[tuple[float, float], ...] = ()

    def out_at(self, clock: float) -> bool:
        """Whether it is taken out at a time.

        Parameters
        ----------
        clock : seconds
        """
        return any(a <= clock < b for a, b in self.gone)


@dataclass(order=True)
class _Ending:
    at: float
    number: int
    task: FrameTask = field(compare=False)
    worker: int = field(compare=False)
    began: float = field(compare=False)
    fate: str = field(compare=False)


class SimulatedCrew:
    """Renders frames on simulated machines.

    clock : seconds since the beginning

    Parameters
    ----------
    machines : that there are
    paint : makes the picture of a frame
    strays : (frame) -> real seconds / planned ones of a frame by itself
    seed : of what is drawn
    pause : called with the seconds by which the clock jumps; None for nobody
    """

    def __init__(
        self,
        machines: Sequence[SimulatedMachine],
        paint: Paint,
        strays: Callable[[int], float] = lambda frame: 1.0,
        seed: int = 1,
        pause: Callable[[float], None] | None = None,
    ) -> None:
        self.clock = 0.0
        self._machines = [m for m in machines for _ in range(m.workers)]
        self._busy: list[bool] = [False] * len(self._machines)
        self._paint, self._strays, self._pause = paint, strays, pause
        self._rng = np.random.default_rng(seed)
        self._endings: list[_Ending] = []
        self._number = 0
        self._cancel: CancelToken | None = None

    def free_hands(self) -> int:
        """Return how many frames could begin now."""
        return sum(not busy and not m.out_at(self.clock) for busy, m in zip(self._busy, self._machines))

    def hands(self) -> list[tuple[str, float]]:
        """Return machine and speed of each worker there is."""
        return [(m.name, m.speed) for m in self._machines if not m.out_at(self.clock)]

    def begin(self, task: FrameTask, cancel: CancelToken) -> None:
        """Begin a frame.

        Parameters
        ----------
        task : the frame
        cancel : of the whole run
        """
        self._cancel = cancel
        worker = next(k for k, m in enumerate(self._machines) if not self._busy[k] and not m.out_at(self.clock))
        machine = self._machines[worker]
        self._busy[worker] = True
        drawn = self._rng.random()
        fates = (("crash", machine.fail), ("hang", machine.hang), ("spoil", machine.spoil))
        fate, edge = "well", 0.0
        for name, chance in fates:
            edge += chance
            if drawn < edge:
                fate = name
                break
        work = task.planned * self._strays(task.frame) / (machine.speed * machine.truth)
        seconds = task.bound if fate == "hang" else work * (float(self._rng.random()) if fate == "crash" else 1.0)
        end = self._under_load(machine, seconds)
        lost = min((a for a, b in machine.gone if self.clock < a < end), default=math.inf)
        if lost < end:
            end, fate = lost, "gone"
        self._number += 1
        heapq.heappush(self._endings, _Ending(end, self._number, task, worker, self.clock, fate))

    def _under_load(self, machine: SimulatedMachine, seconds: float) -> float:
        """When work ends that takes so long on the machine by itself."""
        at, left = self.clock, seconds
        for a, b, slower in sorted(machine.load):
            if b <= at:
                continue
            if at + left <= a:
                break
            left -= max(0.0, a - at)
            at = max(at, a)
            worked = (b - at) / slower
            if left <= worked:
                return at + left * slower
            left, at = left - worked, b
        return at + left

    def wait(self, seconds: float) -> list[Outcome]:
        """Return the frame that ends next; the clock jumps there.

        Parameters
        ----------
        seconds : not used: no time passes
        """
        if self._cancel is not None and self._cancel.cancelled:
            stopped = [self._outcome(e, Stopped("Stopped on request; what was finished is kept.")) for e in self._endings]
            self._endings = []
            return stopped
        if not self._endings:
            back = min((b for m in self._machines for a, b in m.gone if self.clock < b), default=self.clock + 1.0)
            self._jump(back)  # all machines are taken out: until one comes back
            return []
        ending = heapq.heappop(self._endings)
        self._jump(ending.at)
        name = self._machines[ending.worker].name
        if ending.fate == "well":
            return [self._outcome(ending, None, self._paint(ending.task))]
        if ending.fate == "spoil":
            made = self._paint(ending.task)
            picture = Picture(np.full_like(made.picture.rgb, np.nan), made.picture.guides, made.picture.attributes)
            return [self._outcome(ending, None, RenderedFrame(picture, made.load_seconds, made.sample_seconds))]
        frame = ending.task.frame
        words = {
            "crash": f"Frame {frame}: the renderer on {name} ended by signal 11.",
            "hang": f"Frame {frame}: the renderer on {name} was ended after {ending.task.bound:.0f} s without an end.",
            "gone": f"Frame {frame}: {name} was taken out while it rendered.",
        }
        return [self._outcome(ending, RendererFault(words[ending.fate]), lost=ending.fate == "gone")]

    def _jump(self, at: float) -> None:
        if self._pause is not None:
            self._pause(at - self.clock)
        self.clock = max(self.clock, at)

    def _outcome(self, ending: _Ending, error: Exception | None, made: RenderedFrame | None = None, lost: bool = False) -> Outcome:
        self._busy[ending.worker] = False
        machine = self._machines[ending.worker]
        return Outcome(ending.task, self.clock - ending.began, machine.name, made, error, machine.speed, lost)

    def under_way(self) -> dict[int, UnderWay]:
        """Return the frames that are being rendered, by frame."""
        return {
            e.task.frame: UnderWay(self._machines[e.worker].name, self._machines[e.worker].speed, self.clock - e.began, e.task.planned)
            for e in list(self._endings)
        }

    def close(self) -> None:
        """Let the workers go."""
        self._endings = []
