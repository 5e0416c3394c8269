"""Compiled kernels: one cache folder for each state of their sources.

numba does not notice when a helper in another module changes, so the cache
folder carries a fingerprint of every file that holds kernels. An installed,
read-only copy of the program then also has a place to keep its machine code.
"""

from __future__ import annotations

import functools
import os
from typing import Any

from hasty_reel.machinecode import cache_folder

if "NUMBA_CACHE_DIR" not in os.environ:
    os.environ["NUMBA_CACHE_DIR"] = str(cache_folder())

import numba

# where something imported numba before us, its settings are there already
if getattr(numba.config, "CACHE_DIR", None) != os.environ["NUMBA_CACHE_DIR"]:
    setattr(numba.config, "CACHE_DIR", os.environ["NUMBA_CACHE_DIR"])  # noqa: B010

# Comparisons with very large numbers must keep working, so no 'nnan' and no 'ninf'.
FAST = {"contract", "reassoc", "arcp", "nsz", "afn"}
njit: Any = functools.partial(numba.njit, error_model="numpy", cache=True, nogil=True)
"""numba.njit as every kernel here wants it: kept on disk, free of the interpreter's lock."""
prange = numba.prange
