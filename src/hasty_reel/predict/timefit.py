"""A cost model fitted to a table of measured times: fixed seconds, seconds that grow with pixels, and with pixels and samples.

Seconds are a sum of parts that cannot be negative (Lawson and Hanson 1974, non-negative least squares), fitted with relative
errors. Only parts that the table tells apart are fitted: one count of samples tells no seconds a pixel from seconds a sample.
What a frame takes more or less than the parts say is carried along for frames that were measured, as far as its rows repeat it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy.optimize import nnls
from scipy.stats import t as student

MEGA = 1e-6
PRIOR_SPREAD, PRIOR_ROWS = 0.08, 4.0
"""Standard deviation of the logarithm of a time about its model that is expected, and the rows it counts for
(common practice, no source)."""
DRAWS = 2000
ROUNDS = 5
"""How often weights are set to what was fitted."""
TOLD = 1e-6
"""Share of the largest singular value below which parts are not told apart."""
PARTS = ("fixed", "first", "pixels", "samples", "bounces", "denoise")
"""Seconds of a frame; of the first one of a chunk besides; a megapixel; a megapixel and sample; that and bounce; a denoised megapixel."""


@dataclass(frozen=True)
class TimeFit:
    """A fitted model.

    parts : of `PARTS` that the table tells; seconds : (p,) of each; covariance : (p, p) of them
    spread : standard deviation of the logarithm of a time; rows : that it rests on
    offsets : by frame, logarithm of what it takes more than the parts say
    """

    parts: tuple[str, ...]
    seconds: np.ndarray
    covariance: np.ndarray
    spread: float
    rows: int
    offsets: dict[int, float]

    @property
    def freedom(self) -> float:
        """Degrees of freedom of the spread."""
        return PRIOR_ROWS + max(0, self.rows - len(self.parts))


@dataclass(frozen=True)
class TimesAhead:
    """Predicted seconds, (n,) each, and draws of their total."""

    seconds: np.ndarray
    low: np.ndarray
    high: np.ndarray
    totals: np.ndarray


def design_of(table: Mapping[str, np.ndarray]) -> dict[str, np.ndarray]:
    """Return the columns of the model by part, (n,) each.

    Parameters
    ----------
    table : frame, width, height, samples, and any of bounces, first, denoise, (n,) each
    """
    count = len(table["frame"])
    pixels = table["width"] * table["height"] * MEGA
    work = pixels * table["samples"]
    columns = {"fixed": np.ones(count), "first": table.get("first", np.zeros(count)), "pixels": pixels, "samples": work}
    columns["bounces"] = work * table.get("bounces", np.zeros(count))
    columns["denoise"] = pixels * table.get("denoise", np.zeros(count))
    return columns


def fit_times(table: Mapping[str, np.ndarray]) -> TimeFit:
    """Return the model of a table of measured times.

    Parameters
    ----------
    table : as for `design_of`, and seconds above 0, (n,) each

    Raises
    ------
    ValueError
        When there is no row.

    Examples
    --------
    Two seconds a frame, and half a second for each megapixel and sample:

    >>> pixels, samples = np.array([1e6, 1e6, 4e6, 4e6]), np.array([4.0, 16.0, 4.0, 16.0])
    >>> table = {"frame": np.arange(4.0), "width": pixels / 1000, "height": np.full(4, 1000.0), "samples": samples}
    >>> fit = fit_times(table | {"seconds": 2.0 + 0.5e-6 * pixels * samples})
    >>> {part: round(float(seconds), 2) for part, seconds in zip(fit.parts, fit.seconds) if seconds > 1e-6}
    {'fixed': 2.0, 'samples': 0.5}
    """
    seconds, columns = table["seconds"], design_of(table)
    if not len(seconds):
        raise ValueError("no rows")
    weights = 1.0 / seconds
    parts: list[str] = []
    for name in ("samples", "fixed", "first", "pixels", "bounces", "denoise"):  # what explains most first: a lone row is samples
        tried = [*parts, name]
        matrix = np.stack([columns[p] * weights for p in tried], axis=1)
        size = np.linalg.norm(matrix, axis=0)
        if size[-1] > 0 and len(tried) <= len(seconds):
            values = np.linalg.svd(matrix / np.where(size > 0, size, 1.0), compute_uv=False)
            if values[-1] > TOLD * values[0]:
                parts = tried
    matrix = np.stack([columns[p] for p in parts], axis=1)
    found = np.zeros(len(parts))
    for _ in range(ROUNDS):
        found, _ = nnls(matrix * weights[:, None], seconds * weights)
        fitted = np.maximum(matrix @ found, 1e-3 * seconds)
        weights = 1.0 / fitted
    apart = np.log(seconds / fitted)
    of_frames = {int(f): apart[table["frame"] == f] for f in np.unique(table["frame"])}
    within = sum(float(np.sum((a - a.mean()) ** 2)) for a in of_frames.values())
    free = sum(len(a) - 1 for a in of_frames.values())
    own = (PRIOR_ROWS * PRIOR_SPREAD**2 + within) / (PRIOR_ROWS + free)  # of repeated rows of one frame
    spread2 = (PRIOR_ROWS * PRIOR_SPREAD**2 + float(np.sum(apart**2))) / (PRIOR_ROWS + max(0, len(seconds) - len(parts)))
    between = max(0.0, spread2 - own)
    offsets = {f: float(a.mean() * between / (between + own / len(a))) if between > 0 else 0.0 for f, a in of_frames.items()}
    kept = found > 0  # a part that came out as nothing is known to be nothing
    scaled = matrix[:, kept] / fitted[:, None]
    covariance = np.zeros((len(parts), len(parts)))
    covariance[np.ix_(kept, kept)] = np.linalg.pinv(scaled.T @ scaled) * spread2
    order = [parts.index(p) for p in PARTS if p in parts]
    return TimeFit(
        tuple(parts[k] for k in order), found[order], covariance[np.ix_(order, order)], float(np.sqrt(spread2)), len(seconds), offsets
    )


def predict_times(fit: TimeFit, table: Mapping[str, np.ndarray], seed: int = 1) -> TimesAhead:
    """Return the seconds of planned frames: each with the band that holds nine in ten, and draws of their total.

    Parameters
    ----------
    fit : the model
    table : as for `design_of`
    seed : of the draws

    Returns
    -------
    TimesAhead
        Seconds are expected ones; what is not known of the parts is shared by all frames, their own spread is not.
    """
    columns = design_of(table)
    matrix = np.stack([columns[p] for p in fit.parts], axis=1)
    offsets = np.array([fit.offsets.get(int(f), np.interp(f, sorted(fit.offsets), [fit.offsets[k] for k in sorted(fit.offsets)]))
                        for f in table["frame"]])  # fmt: skip
    mean = np.maximum(matrix @ fit.seconds, 1e-9) * np.exp(offsets)
    shared = np.sqrt(np.einsum("ij,jk,ik->i", matrix, fit.covariance, matrix)) / np.maximum(matrix @ fit.seconds, 1e-9)
    away = student.ppf(0.95, fit.freedom) * np.sqrt(fit.spread**2 + shared**2)
    rng = np.random.default_rng(seed)
    root = np.linalg.cholesky(fit.covariance + 1e-18 * np.eye(len(fit.parts)))
    scale = np.sqrt(fit.freedom / rng.chisquare(fit.freedom, DRAWS))
    drawn = np.maximum(fit.seconds + (rng.standard_normal((DRAWS, len(fit.parts))) @ root.T) * scale[:, None], 0.0)
    own = np.exp(fit.spread * scale[:, None] * rng.standard_normal((DRAWS, len(mean))) - 0.5 * fit.spread**2)
    totals = np.sum((drawn @ matrix.T) * np.exp(offsets) * own, axis=1)
    return TimesAhead(mean, mean * np.exp(-away), mean * np.exp(away), totals)
