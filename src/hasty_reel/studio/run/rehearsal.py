"""A night rehearsed: the plan run by simulated machines as the reel has them, in accelerated time, into a folder that is thrown away."""

from __future__ import annotations

import time
from collections.abc import Sequence

import numpy as np

from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.pictures.frame import Picture
from hasty_reel.plan.time.timeleft import MACHINE, OWN, SHARED
from hasty_reel.reel.machine import Machine
from hasty_reel.run.crew import FrameTask
from hasty_reel.run.simulated import SimulatedCrew, SimulatedMachine
from hasty_reel.work import CancelToken

LASTS = 45.0
"""Seconds that a rehearsal takes, about."""
FAILS, HANGS = 0.01, 0.002
"""Chance that a frame crashes, and that its renderer hangs: about what farms see (common practice, no source)."""
LONGEST_JUMP = 0.5


def rehearsing_crew(machines: Sequence[Machine], frames: Sequence[int], seconds: float, cancel: CancelToken, seed: int) -> SimulatedCrew:
    """Return simulated machines that behave as real ones may: slower or faster than planned, and now and then they fail.

    Parameters
    ----------
    machines : of the reel
    frames : that are rendered
    seconds : that all of it is planned to take
    cancel : ends the waiting
    seed : of what is drawn
    """
    rng = np.random.default_rng(seed)
    level = rng.normal(0.0, SHARED)
    strays = dict(zip(frames, np.exp(level + OWN * rng.standard_normal(len(frames)))))
    made = [
        SimulatedMachine(m.name, m.frame_speed / m.workers, float(np.exp(rng.normal(0.0, MACHINE))), m.workers, FAILS, HANGS)
        for m in machines
    ]
    faster = LASTS / max(seconds, 1e-9)

    def _pause(jump: float) -> None:
        if not cancel.cancelled:
            time.sleep(min(LONGEST_JUMP, max(0.0, jump * faster)))

    return SimulatedCrew(made, paint, lambda frame: float(strays.get(frame, 1.0)), seed, _pause)


def paint(task: FrameTask) -> RenderedFrame:
    """Return a small grey picture in place of a frame.

    Parameters
    ----------
    task : the frame
    """
    rgb = np.full((9, 16, 3), 0.18, np.float32)
    return RenderedFrame(Picture(rgb, {}, {"hr:recipe": task.job.hash, "hr:frame": f"{task.job.frame}"}), 0.0, 0.0)
