"""Proofs that are made of nearly every shot: a scan, noise at full size, a run that tells what denoising does, a pair of render sizes."""

from __future__ import annotations

import numpy as np

from hasty_reel.errors import WrongInput
from hasty_reel.farm.order import ProofOrder
from hasty_reel.farm.proofrun import SHORTEST_RUN
from hasty_reel.reel.shot import Shot
from hasty_reel.scaledsize import scaled_size
from hasty_reel.settings.recipe import Recipe

SCAN_SCALES, SCAN_PATHS, SCAN_SAMPLES = (5.0, 7.0, 10.0), 800, 4
"""Sizes of a scan in percent, the light paths a frame it needs at least, and its most samples.

The scan of a frame strays by 0.35 over the root of its paths: by 1 % with 800."""
EVERY_FRAME = 150
"""Frames of a shot up to which every one is scanned; of a longer one every second."""
NOISE_FRAMES = (0.0, 0.21, 0.46, 0.77, 1.0)
"""Where along a shot noise is proven: unevenly, since noise may repeat with an even spacing."""

PAIR_FRAMES, PAIR_SAMPLES = 3, 16
"""Frames in a row and samples a pixel of a pair of sizes: what both seeds show alike is told with few."""

DENOISED_RUN, CROP = 13, (192, 108)
"""Frames of a run that tells what denoising does, two more than the longest window; and the pixels of a part of each, as dense as they are
planned: a picture that is shrunk holds more detail a pixel, and denoising leaves more of its noise."""
LEAST_APART = 0.5
"""Share of its side by which one part must lie beside the other."""
SHRUNK, MOST_SAMPLES = 50.0, 64
"""Size in percent of such a run of whole frames, where a renderer cannot be told to render a part; and its samples at most."""


def scan_order(shot: Shot, recipe: Recipe, size: tuple[int, int]) -> ProofOrder:
    """Return the order of a scan: the smallest size and the fewest samples that tell one frame from the next.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    size : pixels of the delivered picture, across and down
    """
    frames = tuple(shot.frames) if len(shot.frames) <= EVERY_FRAME else tuple(shot.frames[::2])
    scale = SCAN_SCALES[-1]
    for scale in SCAN_SCALES:
        if np.prod(scaled_size(size, scale)) >= SCAN_PATHS:
            break
    samples = int(np.clip(np.ceil(SCAN_PATHS / np.prod(scaled_size(size, scale))), 1, SCAN_SAMPLES))
    return ProofOrder(shot, recipe, frames, samples, scale, seeds=1, guides=False, scan=True)


def noise_order(shot: Shot, recipe: Recipe, size: tuple[int, int]) -> ProofOrder:
    """Return the order of a noise proof: a few frames at the size that is planned, one sample, two seeds, pictures kept small.

    As many light paths as sixteen samples at a quarter of the size, and the only evidence of noise that sits in small places.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    size : pixels of the delivered picture, across and down

    Raises
    ------
    WrongInput
        When the picture has too few pixels to tell noise.
    """
    if np.prod(scaled_size(size, recipe.render_scale)) < SCAN_PATHS:
        raise WrongInput(f"Noise of {shot.id}: {size[0]}x{size[1]} pixels are too few to tell it; expected {SCAN_PATHS} or more.")
    places = sorted({round(share * (len(shot.frames) - 1)) for share in NOISE_FRAMES})
    return ProofOrder(shot, recipe, tuple(shot.frames[k] for k in places), 1, recipe.render_scale, guides=False, small=True)


def denoising_orders(
    shot: Shot, recipe: Recipe, size: tuple[int, int], frame: int, samples: float, noisiest: tuple[float, float], crops: bool = True
) -> list[ProofOrder]:
    """Return the orders of runs that tell what denoising does: frames in a row, two parts of each as dense as the frames are planned.

    Where it is noisiest denoising takes most, and leaves less of it than where little is seen of it before; the middle of the picture
    speaks for the rest.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    size : pixels of the delivered picture, across and down
    frame : in the middle, where the shot lets it
    samples : a pixel, that are planned
    noisiest : place in the picture, as shares across and down
    crops : the renderer can be told to render a part of a frame; else whole frames are, shrunk

    Returns
    -------
    list[ProofOrder]
        Two; one where both parts would show the same, or the frame is hardly larger than they are.

    Raises
    ------
    WrongInput
        When the shot has too few frames.
    """
    frames, few = list(shot.frames), int(np.clip(round(samples), 1, MOST_SAMPLES))
    if len(frames) < SHORTEST_RUN or shot.step != 1:
        raise WrongInput(f"Denoising of {shot.id}: {len(frames)} frames, every {shot.step}.; expected {SHORTEST_RUN} or more in a row.")
    first = min(max(shot.index(shot.nearest(frame)) - DENOISED_RUN // 2, 0), max(0, len(frames) - DENOISED_RUN))
    run = tuple(frames[first : first + DENOISED_RUN])
    full = scaled_size(size, recipe.render_scale)
    if full[0] * full[1] <= 2 * CROP[0] * CROP[1]:
        return [ProofOrder(shot, recipe, run, few, recipe.render_scale)]
    if not crops:
        return [ProofOrder(shot, recipe, run, few, min(SHRUNK, recipe.render_scale))]
    boxes = [_crop_at(place, full) for place in (noisiest, (0.5, 0.5))]
    apart = [abs(a - b) / side for a, b, side in zip(boxes[0][:2], boxes[1][:2], CROP)]
    different = boxes if max(apart) > LEAST_APART else boxes[:1]
    return [ProofOrder(shot, recipe, run, few, recipe.render_scale, crop=box) for box in different]


def _crop_at(place: tuple[float, float], full: tuple[int, int]) -> tuple[int, int, int, int]:
    """The part of a frame around a place, as far as its edges let it."""
    left, top = (int(np.clip(round(s * whole - part / 2), 0, max(0, whole - part))) for s, whole, part in zip(place, full, CROP))
    return left, top, min(CROP[0], full[0]), min(CROP[1], full[1])


def size_orders(shot: Shot, recipe: Recipe, size: tuple[int, int], scale: float, frame: int) -> list[ProofOrder]:
    """Return the orders of a pair of render sizes: three frames in a row at the delivered size and at another, two seeds.

    Parameters
    ----------
    shot : the shot or layer
    recipe : with its departures
    size : pixels of the delivered picture, across and down
    scale : of the other, in percent of the delivered width
    frame : that lies in the middle, where the shot lets it

    Raises
    ------
    WrongInput
        When the shot has too few frames, or the scale is that of the delivered picture.
    """
    frames = list(shot.frames)
    if len(frames) < PAIR_FRAMES:
        raise WrongInput(f"Sizes of {shot.id}: {len(frames)} frames; expected {PAIR_FRAMES} or more.")
    if scaled_size(size, scale) == size:
        raise WrongInput(f"Sizes of {shot.id}: {scale:g} % is the delivered size; expected another.")
    middle = min(max(shot.index(shot.nearest(frame)), 1), len(frames) - 2)
    chosen = tuple(frames[middle - 1 : middle + 2])
    return [ProofOrder(shot, recipe, chosen, PAIR_SAMPLES, s) for s in (100.0, scale)]
