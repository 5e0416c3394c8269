"""A rendered frame as a picture file: channels, and what the file says about itself."""

from __future__ import annotations

import hashlib

import numpy as np

from hasty_reel.bench.render import PLAIN_CAMERA, Rendered, Settings
from hasty_reel.pictures.frame import Picture


def settings_hash(settings: Settings) -> str:
    """Twelve hex digits that change with anything that changes the picture but its samples and seed."""
    s = settings
    lines: tuple = (s.bounces, s.ceiling, float(s.angle), s.steps, s.width, s.height, s.crop)
    if (s.fog_step, s.fog_cut, s.fog_bounces) != (100.0, 0.0, None):
        lines += (s.fog_step, s.fog_cut, s.fog_bounces)
    if s.camera != PLAIN_CAMERA:
        lines += (s.camera.pixel_aspect, s.camera.forward)
    return hashlib.sha256(repr(lines).encode()).hexdigest()[:12]


def as_picture(rendered: Rendered, frame: float, settings: Settings, seed: int | None = None) -> Picture:
    """The picture of a rendered frame with guides, sample count and attributes."""
    guides = dict(rendered.guides)
    if guides:
        guides["samples"] = np.full(rendered.rgb.shape[:2], settings.samples, np.float32)
    attributes = {
        "hr:seconds": rendered.load_seconds + rendered.sample_seconds,
        "hr:load_seconds": rendered.load_seconds,
        "hr:sample_seconds": rendered.sample_seconds,
        "hr:samples": settings.samples,
        "hr:seed": str(settings.seed if seed is None else seed),
        "hr:steps": settings.steps,
        "hr:recipe": settings_hash(settings),
        "hr:frame": f"{frame:g}",
    }
    return Picture(rendered.rgb, guides, attributes)
