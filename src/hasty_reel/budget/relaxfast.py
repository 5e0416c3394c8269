"""The sweeps of `relax`, compiled: for shots of many thousand frames."""

from __future__ import annotations

from hasty_reel.budget.relax import sweeps
from hasty_reel.compiled import njit

fast_sweeps = njit()(sweeps)
