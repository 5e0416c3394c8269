"""Which channels of a picture may be guides, by what is in them: for names that say nothing. Candidates to be asked about, no more."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

UNIT, MOST = 0.02, 0.9
"""How far a length may be from 1, and the share of pixels with something in them that must be so."""
SMOOTH = 0.1
"""Median step between pixels side by side / spread of the whole, up to which a plane is as smooth as a depth: by choice."""


def layers_of(names: Mapping[str, np.ndarray]) -> dict[str, list[str]]:
    """Return the names of channels by their layer, in the order in which they came.

    Parameters
    ----------
    names : channels by name, as 'P.x'
    """
    out: dict[str, list[str]] = {}
    for name in names:
        out.setdefault(name.rpartition(".")[0], []).append(name)
    return out


def guides_by_content(planes: Mapping[str, np.ndarray]) -> dict[str, tuple[str, ...]]:
    """Return channels that may be normals, depth or motion, by role; the first of each that looks so.

    Three that are a vector of length 1 may be normals. One that is never negative, smooth, and not the same everywhere may be a
    depth. Two that take both signs or are mostly 0, and are no light, may be motion; what they mean is tried elsewhere.

    Parameters
    ----------
    planes : (h, w) by channel, those that are not recognised by name
    """
    found: dict[str, tuple[str, ...]] = {}
    for layer, names in layers_of(planes).items():
        stack = np.stack([planes[name] for name in names], axis=-1).astype(np.float64)
        if not np.isfinite(stack).all():
            continue
        groups = [names] if layer else [[name] for name in names]
        for group in groups:
            values = stack[..., [names.index(name) for name in group]]
            role = _role(values)
            if role and role not in found:
                found[role] = tuple(group)
    return found


def _role(values: np.ndarray) -> str:
    """What the channels of one layer may be, (h, w, n); '' for nothing."""
    count = values.shape[-1]
    if count == 3:
        length = np.sqrt((values**2).sum(axis=-1))
        there = length > 0.1
        if there.mean() > 0.05 and (np.abs(length[there] - 1.0) < UNIT).mean() > MOST and (values < -0.05).any():
            return "normal"
    if count == 1 and float(values.min()) >= 0.0:
        plane = values[..., 0]
        spread = float(np.quantile(plane, 0.9) - np.quantile(plane, 0.1))
        if spread > 0 and float(np.median(np.abs(np.diff(plane, axis=1)))) < SMOOTH * spread and float(plane.max()) > 1.5:
            return "depth"
    if count == 2 and np.abs(values).max() > 0 and ((values < 0).any() or (values == 0).mean() > 0.5):
        return "motion"
    return ""
