"""The plotting library as the charts use it, set up once where the first chart is made: a window opens without it."""

from __future__ import annotations

import pyqtgraph as pg

pg.setConfigOptions(antialias=True, imageAxisOrder="row-major")

__all__ = ["pg"]
