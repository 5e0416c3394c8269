"""What light caches make pump: the same frames with caches and without, the change between them over time as it is seen.

`python benchmarks/caching.py` prints a line for each way to place the caches of a scene: how many, how much of the picture is new from
one to the next at most, and the seen flicker of what the caches change from frame to frame (its mean over the frames taken out), told by
two seeds: what both have in common is no noise. A fixed step beside, and caches by the view with other shares.
"""

from __future__ import annotations

import numpy as np

from hasty_reel.bench.library import find_scene
from hasty_reel.bench.moment import Moment
from hasty_reel.bench.render import Settings, render, warm_up
from hasty_reel.evidence.motion import fresh_share
from hasty_reel.measure.plane import seen_frame
from hasty_reel.measure.seen import STANDARD, contrast_of
from hasty_reel.measure.seennoise import seen_over_all
from hasty_reel.plan.frames.caches import placed_by_view
from hasty_reel.reel.caching import cache_frames

SIZE, SAMPLES, COUNT, BLEND = (192, 108), 32, 24, 5


def frames_of(scene, first: int, owners: tuple[int, ...]) -> tuple[np.ndarray, np.ndarray]:
    """Lightness of the frames of two seeds, (2, frames, h, w), and the share that each has new, (frames,)."""
    planes, fresh = np.empty((2, COUNT, SIZE[1], SIZE[0])), np.zeros(COUNT)
    for seed in (1, 2):
        for k in range(COUNT):
            settings = Settings(*SIZE, SAMPLES, bounces=4, ceiling=5.0, seed=1000 * seed + k, cache=bool(owners))
            moment = Moment(tuple(owners), BLEND) if owners else Moment()
            done = render(scene, first + k, settings, moment=moment)
            planes[seed - 1, k] = seen_frame(done.rgb).lightness
            if k + 1 < COUNT:
                fresh[k + 1] = fresh_share(done.guides["motion.X"], done.guides["motion.Y"])
    return planes, fresh


def seen_pumping(plain: np.ndarray, cached: np.ndarray) -> float:
    """Seen flicker in JND of what caches change over time, besides noise: the mean of both seeds less half of what they differ by."""
    change = cached - plain
    change -= change.mean(axis=1, keepdims=True)
    level = plain.mean(axis=(0, 1))
    halves = change.mean(axis=0), (change[0] - change[1]) / 2
    both = [contrast_of(planes.astype(np.float32), level[None].astype(np.float32)) for planes in halves]
    whole, noise = (seen_over_all(np.asarray(c), STANDARD.pixels_per_degree(SIZE[1]), 24.0) for c in both)
    return float(np.sqrt(max(0.0, whole**2 - noise**2)))


def main() -> None:
    """Print the lines."""
    warm_up()
    for name, first in (("tide_dial", 1030), ("gears_jewels", 1030), ("lamp_wakes", 1040)):
        scene = find_scene(name)
        plain, fresh = frames_of(scene, first, ())
        numbers = np.arange(first, first + COUNT)
        ways = {f"by the view, {100 * share:.0f} %": placed_by_view(numbers, fresh, share) for share in (0.1, 0.25, 0.5)}
        ways |= {f"step {step}": tuple(cache_frames(first, first + COUNT - 1, step)) for step in (2, 5, 10)}
        for words, owners in ways.items():
            cached, _ = frames_of(scene, first, owners)
            totals = np.cumsum(fresh)[np.searchsorted(numbers, owners)]
            print(f"{name:13} {words:18} {len(owners):3} caches, up to {100 * np.diff(totals).max():4.0f} % new: "
                  f"{seen_pumping(plain, cached):5.2f} JND", flush=True)  # fmt: skip


if __name__ == "__main__":
    main()
