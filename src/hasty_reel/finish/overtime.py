"""Denoising over time: each frame averaged with its neighbours along the motion.

Neighbours are carried to the frame along the renderer's motion vectors. Texture is
divided out by the albedo first and put back after. A neighbour pixel is trusted when
its normal, depth and albedo are those of the pixel it is to help, and when its light
differs by no more than the noise explains (a local mean over 5 x 5 pixels, against the
noise measured there). Where too little is trusted over time, light is averaged over
space instead, among pixels of the same surface.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.compiled import FAST, njit, prange
from hasty_reel.image.pixels import pixel_luminance
from hasty_reel.image.sampling import add_cubic, bilinear
from hasty_reel.image.warp import motion_path

DARK = 0.01
"""Albedo is not divided below this."""
RADIUS = 2
"""Of the neighbourhood in which light and noise are compared: 5 x 5 pixels."""
SPATIAL_RADIUS = 3
STILL_FRAMES = 7.0
"""A still borrows from its surroundings as much as this many frames would give."""
SURE = 2.5
"""Means closer than this many standard deviations agree fully; at twice that, not at all."""


@dataclass(frozen=True)
class Frame:
    """One frame made ready for filtering.

    light : (h, w, 3) float32, colour without texture; albedo : (h, w, 3), at least `DARK`
    guides : (h, w, 7): normal XYZ, log depth, albedo RGB; or None
    mean, spread : (h, w) local mean of the light's luminance and standard deviation of one pixel
    vectors : (h, w, 2) pixels to the next frame; None where nothing is known to move
    """

    light: np.ndarray
    albedo: np.ndarray
    guides: np.ndarray | None
    mean: np.ndarray
    spread: np.ndarray
    vectors: np.ndarray | None


def prepare(
    rgb: np.ndarray,
    albedo: np.ndarray | None,
    normal: np.ndarray | None,
    depth: np.ndarray | None,
    vectors: np.ndarray | None,
) -> Frame:
    """Take texture out of a frame and measure its local light and noise.

    Parameters
    ----------
    rgb : (h, w, 3) float32 scene-linear; the guides may be None where the renderer wrote none
    albedo : (h, w, 3); None where there is none
    normal : (h, w, 3); None where there is none
    depth : (h, w); None where there is none
    vectors : (h, w, 2) pixels to the next frame; None where nothing moves
    """
    base = np.ones_like(rgb) if albedo is None else np.maximum(albedo, DARK).astype(np.float32)
    light = np.ascontiguousarray(rgb / base, np.float32)
    guides = None
    if albedo is not None and normal is not None and depth is not None:
        log_depth = np.log(np.maximum(np.abs(depth), 1e-3))[..., None]
        guides = np.ascontiguousarray(np.concatenate([normal, log_depth, albedo], axis=-1), np.float32)
    mean = np.empty(rgb.shape[:2], np.float32)
    spread = np.empty(rgb.shape[:2], np.float32)
    local_light(light, guides if guides is not None else np.zeros((1, 1, 7), np.float32), guides is not None, mean, spread)
    return Frame(light, base, guides, mean, spread, vectors)


@njit(fastmath=FAST)
def joint_bilateral_weight(ga, ya, xa, gb, yb, xb):
    """0..1: how sure two pixels lie on one surface, from their guides.

    Parameters
    ----------
    ga, ya, xa : (h, w, 7) guides of one picture, and a pixel of it
    gb, yb, xb : the same of the other
    """
    normal = ga[ya, xa, 0] * gb[yb, xb, 0] + ga[ya, xa, 1] * gb[yb, xb, 1] + ga[ya, xa, 2] * gb[yb, xb, 2]
    depth = abs(ga[ya, xa, 3] - gb[yb, xb, 3])
    tint = abs(ga[ya, xa, 4] - gb[yb, xb, 4]) + abs(ga[ya, xa, 5] - gb[yb, xb, 5]) + abs(ga[ya, xa, 6] - gb[yb, xb, 6])
    own = ga[ya, xa, 0] ** 2 + ga[ya, xa, 1] ** 2 + ga[ya, xa, 2] ** 2
    turned = max(0.0, own - normal) if own > 1e-6 else 0.0
    e = turned / 0.25 + depth / 0.12 + tint / 0.40
    return np.exp(-e * e) if e < 4.0 else 0.0


@njit(parallel=True, fastmath=FAST)
def local_light(light, guides, have_guides, mean, spread):
    """Mean over 5 x 5 pixels of one surface and the standard deviation of a single pixel around it.

    Parameters
    ----------
    light : (h, w, 3) float32, colour without texture
    guides : (h, w, 7) float32, normal XYZ, log depth, albedo RGB
    have_guides : whether there are guides
    mean : (h, w) float32, local mean of its luminance
    spread : (h, w) float32, standard deviation of one pixel around it
    """
    h, w = light.shape[0], light.shape[1]
    for y in prange(h):
        for x in range(w):
            total = 0.0
            s1 = 0.0
            s2 = 0.0
            for j in range(max(0, y - RADIUS), min(h, y + RADIUS + 1)):
                for i in range(max(0, x - RADIUS), min(w, x + RADIUS + 1)):
                    weight = joint_bilateral_weight(guides, y, x, guides, j, i) if have_guides else 1.0
                    v = pixel_luminance(light[j, i, 0], light[j, i, 1], light[j, i, 2])
                    total += weight
                    s1 += weight * v
                    s2 += weight * v * v
            m = s1 / total
            mean[y, x] = m
            spread[y, x] = np.sqrt(max(0.0, s2 / total - m * m) * total / max(1.0, total - 1.0))


@njit(parallel=True, fastmath=FAST)
def add_neighbour(
    total, weights, x_at, y_at, light, guides, here_guides, have_guides, mean, here_mean, spread, here_spread
):  # fmt: skip
    """Add one carried neighbour frame to the sums, pixel by pixel, as far as it is trusted.

    Parameters
    ----------
    total : (h, w, 3) float32, sums of weighted light
    weights : (h, w) float32, sums of weights
    x_at, y_at : (h, w) float32, where the pixels stand in the neighbour
    light : (h, w, 3) float32, colour without texture
    guides : (h, w, 7) float32, normal XYZ, log depth, albedo RGB
    here_guides : (h, w, 7), of the frame that is denoised
    have_guides : whether there are guides
    mean : (h, w) float32, local mean of its luminance
    here_mean : (h, w), of the frame that is denoised
    spread : (h, w) float32, standard deviation of one pixel around it
    here_spread : (h, w), of the frame that is denoised
    """
    h, w = mean.shape
    for y in prange(h):
        across, down = np.empty(4, np.float32), np.empty(4, np.float32)
        for x in range(w):
            px, py = x_at[y, x], y_at[y, x]
            if not (-0.5 <= px <= w - 0.5 and -0.5 <= py <= h - 0.5):
                continue
            i, j = min(w - 1, max(0, int(px + 0.5))), min(h - 1, max(0, int(py + 0.5)))
            trust = joint_bilateral_weight(here_guides, y, x, guides, j, i) if have_guides else 1.0
            if trust <= 1e-3:
                continue
            sigma2 = 0.5 * (spread[j, i] ** 2 + here_spread[y, x] ** 2) * 2.0 / 25.0
            off = abs(bilinear(mean, px, py) - here_mean[y, x])
            ratio = off / (SURE * np.sqrt(sigma2) + 1e-3 * here_mean[y, x] + 1e-7)
            if ratio > 1.0:
                trust *= max(0.0, 2.0 - ratio)
            if trust <= 1e-3:
                continue
            add_cubic(light, px, py, trust, total, y, x, across, down)
            weights[y, x] += trust


@njit(parallel=True, fastmath=FAST)
def normalize_and_fill(total, weights, wanted, light, guides, have_guides, mean, spread, albedo, out):
    """Divide the sums; where fewer than `wanted` frames were trusted, average over space too.

    Parameters
    ----------
    total : (h, w, 3) float32, sums of weighted light
    weights : (h, w) float32, sums of weights
    wanted : frames that should be trusted
    light : (h, w, 3) float32, colour without texture
    guides : (h, w, 7) float32, normal XYZ, log depth, albedo RGB
    have_guides : whether there are guides
    mean : (h, w) float32, local mean of its luminance
    spread : (h, w) float32, standard deviation of one pixel around it
    albedo : (h, w, 3) float32, at least DARK
    out : (h, w, 3) float32, filled
    """
    h, w = weights.shape
    for y in prange(h):
        for x in range(w):
            got = weights[y, x]
            lack = (wanted - got) / max(1.0, wanted - 1.0)
            if lack <= 0.05:
                for c in range(3):
                    out[y, x, c] = total[y, x, c] / got * albedo[y, x, c]
                continue
            # how many pixels of the surroundings stand in for the frames that are missing
            share = min(1.0, lack)
            s0 = s1 = s2 = 0.0
            ws = 0.0
            for j in range(max(0, y - SPATIAL_RADIUS), min(h, y + SPATIAL_RADIUS + 1)):
                for i in range(max(0, x - SPATIAL_RADIUS), min(w, x + SPATIAL_RADIUS + 1)):
                    if i == x and j == y:
                        continue
                    trust = joint_bilateral_weight(guides, y, x, guides, j, i) if have_guides else 1.0
                    if trust <= 1e-3:
                        continue
                    off = abs(mean[j, i] - mean[y, x])
                    scale = SURE * 0.4 * max(spread[y, x], spread[j, i]) + 1e-3 * mean[y, x] + 1e-7
                    trust *= max(0.0, 1.0 - off / scale)
                    r2 = (i - x) * (i - x) + (j - y) * (j - y)
                    trust *= np.exp(-r2 / 8.0)
                    k = 1.0 / max(1e-6, weights[j, i])
                    s0 += trust * total[j, i, 0] * k
                    s1 += trust * total[j, i, 1] * k
                    s2 += trust * total[j, i, 2] * k
                    ws += trust
            room = share * wanted
            scale = min(1.0, room / max(ws, 1e-6))
            out[y, x, 0] = (total[y, x, 0] + scale * s0) / (got + scale * ws) * albedo[y, x, 0]
            out[y, x, 1] = (total[y, x, 1] + scale * s1) / (got + scale * ws) * albedo[y, x, 1]
            out[y, x, 2] = (total[y, x, 2] + scale * s2) / (got + scale * ws) * albedo[y, x, 2]


def denoise(frames: list[Frame], at: int) -> np.ndarray:
    """Frame `at` of a window of frames, denoised; (h, w, 3) float32 scene-linear.

    Parameters
    ----------
    frames : the window in order of time; at the ends of a shot it is shorter on one side
    at : index of the frame to denoise
    """
    here = frames[at]
    h, w = here.mean.shape
    total = here.light.astype(np.float32).copy()
    weights = np.ones((h, w), np.float32)
    none = np.zeros((1, 1, 7), np.float32)
    vectors = [f.vectors for f in frames]
    for k, other in enumerate(frames):
        if k == at:
            continue
        x, y = motion_path(vectors, at, k, (h, w))
        guided = here.guides is not None and other.guides is not None
        add_neighbour(
            total, weights, x, y, other.light,
            other.guides if guided else none, here.guides if guided else none, guided,
            other.mean, here.mean, other.spread, here.spread,
        )  # fmt: skip
    out = np.empty_like(here.light)
    guides = here.guides if here.guides is not None else none
    normalize_and_fill(
        total, weights, float(len(frames)), here.light, guides, here.guides is not None,
        here.mean, here.spread, here.albedo, out,
    )  # fmt: skip
    return out


def denoise_still(frame: Frame) -> np.ndarray:
    """Return a frame denoised by itself: all that is missing over time is taken from space.

    Parameters
    ----------
    frame : made ready for filtering
    """
    out = np.empty_like(frame.light)
    guides = frame.guides if frame.guides is not None else np.zeros((1, 1, 7), np.float32)
    normalize_and_fill(
        frame.light.copy(), np.ones(frame.mean.shape, np.float32), STILL_FRAMES, frame.light, guides,
        frame.guides is not None, frame.mean, frame.spread, frame.albedo, out,
    )  # fmt: skip
    return out
