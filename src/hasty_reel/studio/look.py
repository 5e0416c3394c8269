"""How a picture is looked at, and a picture made ready for the display that way: exposure, channel, display view."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hasty_reel.image.luminance import luminance
from hasty_reel.pictures.colour import PLAIN, dithered8
from hasty_reel.pictures.frame import Picture
from hasty_reel.pictures.quickview import quick_view

CHANNELS = ("Colour", "Red", "Green", "Blue", "Luminance", "Alpha", "Albedo", "Normal", "Depth", "Motion", "Samples")
_GUIDES = {
    "Alpha": ("A",),
    "Albedo": ("albedo.R", "albedo.G", "albedo.B"),
    "Normal": ("normal.X", "normal.Y", "normal.Z"),
    "Depth": ("Z",),
    "Motion": ("motion.X", "motion.Y"),
    "Samples": ("samples",),
}
BRIGHTEST = 99.5
"""Percentile of a guide of one number that is shown white."""


@dataclass(frozen=True)
class Look:
    """How a picture is shown: exposure in stops, display view, channel."""

    exposure: float = 0.0
    view: str = PLAIN
    channel: str = "Colour"

    @property
    def guides(self) -> tuple[str, ...]:
        """Channels needed besides colour."""
        return _GUIDES.get(self.channel, ())


PLAIN_LOOK = Look()


@dataclass(frozen=True, eq=False)
class Shown:
    """A picture ready for the display.

    codes : (h, w, 3) uint8 display codes; bad : pixels that are no finite numbers; words : what it lacks, '' for nothing
    """

    codes: np.ndarray
    bad: int = 0
    words: str = ""


def developed(picture: Picture, look: Look) -> Shown:
    """Make a picture ready for the display; pixels that are no numbers are marked by a checker of black and white.

    Parameters
    ----------
    picture : scene-linear light, with the guides the look needs where it has them
    look : exposure, channel and view

    Returns
    -------
    Shown
        Codes as they are shown, with their size.
    """
    rgb, words, data = picture.rgb, "", False
    if look.channel in ("Red", "Green", "Blue"):
        k = ("Red", "Green", "Blue").index(look.channel)
        rgb = np.repeat(rgb[..., k : k + 1], 3, axis=-1)
    elif look.channel == "Luminance":
        rgb = np.repeat(luminance(rgb)[..., None], 3, axis=-1)
    elif look.channel != "Colour":
        found = picture.stack(*look.guides)
        if found is None:
            words = f"has no {look.channel.lower()}"
            rgb = np.zeros_like(rgb)
        else:
            rgb, data = _as_colour(look.channel, found), look.channel != "Albedo"
    count = 0
    if not np.isfinite(rgb.sum(dtype=np.float64)):  # one pixel that is no number makes the sum none
        bad = ~np.isfinite(rgb).all(axis=-1)
        count = int(bad.sum())
        rgb = np.where(bad[..., None], 0.0, rgb).astype(np.float32)
    if data:
        codes = np.clip(rgb * 255.0 + 0.5, 0, 255).astype(np.uint8)
    else:
        codes = dithered8(quick_view(rgb * np.float32(2.0**look.exposure) if look.exposure else rgb, look.view))
    if count:
        rows, columns = np.nonzero(bad)
        codes[rows, columns] = np.where((rows + columns) % 2 == 0, 0, 255).astype(np.uint8)[:, None]
    return Shown(codes, count, words)


def _as_colour(channel: str, found: np.ndarray) -> np.ndarray:
    """A guide as something to look at: numbers between 0 and 1, grey where it is one number."""
    if channel == "Albedo":
        return found
    if channel == "Normal":
        return 0.5 + 0.5 * found
    plane = np.hypot(found[..., 0], found[..., 1]) if channel == "Motion" else found[..., 0]
    if channel == "Depth":
        plane = np.where(plane > 0, 1.0 / np.maximum(plane, 1e-6), 0.0)
    top = float(np.nanpercentile(np.where(np.isfinite(plane), plane, np.nan), BRIGHTEST)) if np.isfinite(plane).any() else 1.0
    scaled = plane if channel == "Alpha" else plane / (top if top > 0 else 1.0)
    return np.repeat(scaled[..., None], 3, axis=-1).astype(np.float32)
