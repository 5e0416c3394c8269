"""Graphs over the frames of a shot as scalable vector graphics, for a page that stands by itself."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from markupsafe import Markup, escape

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 940, 170, 52, 26, 26, 24
PLAN, REAL, BAND, RULE = "#1d7f7a", "#23211e", "#1d7f7a", "#d8d4cc"
MOST_POINTS = 900


@dataclass(frozen=True)
class Graph:
    """One graph. title : with its unit; frames, values : (f,) as planned; low, high : (f,) band, or None; limit : a level across, or None

    real : what was measured, by frame
    """

    title: str
    frames: np.ndarray
    values: np.ndarray
    low: np.ndarray | None = None
    high: np.ndarray | None = None
    limit: float | None = None
    real: Mapping[int, float] | None = None

    def drawn(self) -> Markup:
        """Return it as SVG."""
        first, last = float(self.frames[0]), float(self.frames[-1])
        tops = [float(self.values.max()), *([float(self.high.max())] if self.high is not None else [])]
        tops += [self.limit] if self.limit is not None else []
        tops += list(self.real.values()) if self.real else []
        top = max([1e-12, *tops]) * 1.1

        def _x(frame: float) -> float:
            return LEFT + (WIDTH - LEFT - RIGHT) * (frame - first) / max(1.0, last - first)

        def _y(value: float) -> float:
            return HEIGHT - BOTTOM - (HEIGHT - TOP - BOTTOM) * value / top

        head = f'<svg font-family="Lato, sans-serif" font-size="11" viewBox="0 0 {WIDTH} {HEIGHT}" width="{WIDTH}" role="img"'
        out = [f'{head} aria-label="{escape(self.title)}">']
        out.append(f'<text x="0" y="14" style="font-weight:700;fill:#23211e;font-size:13px">{escape(self.title)}</text>')
        for level in _ticks(top):
            y = _y(level)
            out.append(f'<line x1="{LEFT}" y1="{y:.1f}" x2="{WIDTH - RIGHT}" y2="{y:.1f}" stroke="{RULE}"/>')
            out.append(f'<text x="{LEFT - 6}" y="{y + 4:.1f}" text-anchor="end">{level:g}</text>')
        for frame in np.unique(np.linspace(first, last, 9).round()):
            out.append(f'<text x="{_x(frame):.1f}" y="{HEIGHT - 6}" text-anchor="middle">{frame:.0f}</text>')
        keep = np.unique(np.linspace(0, len(self.frames) - 1, min(len(self.frames), MOST_POINTS)).round().astype(int))
        if self.low is not None and self.high is not None:
            there = [f"{_x(self.frames[k]):.1f},{_y(self.high[k]):.1f}" for k in keep]
            back = [f"{_x(self.frames[k]):.1f},{_y(self.low[k]):.1f}" for k in keep[::-1]]
            out.append(f'<polygon points="{" ".join(there + back)}" fill="{BAND}" opacity="0.16"/>')
        points = " ".join(f"{_x(self.frames[k]):.1f},{_y(self.values[k]):.1f}" for k in keep)
        out.append(f'<polyline points="{points}" fill="none" stroke="{PLAN}" stroke-width="2"/>')
        if self.limit is not None:
            y = _y(self.limit)
            out.append(f'<line x1="{LEFT}" y1="{y:.1f}" x2="{WIDTH - RIGHT}" y2="{y:.1f}" stroke="{REAL}" stroke-dasharray="5 4"/>')
        for frame, value in (self.real or {}).items():
            out.append(f'<circle cx="{_x(frame):.1f}" cy="{_y(value):.1f}" r="2.2" fill="{REAL}"/>')
        return Markup("".join(out) + "</svg>")


def _ticks(top: float) -> Sequence[float]:
    """Two to five round levels below the top."""
    step = 10.0 ** np.floor(np.log10(top / 2.0))
    step = next(step * m for m in (1, 2, 5, 10) if top / (step * m) <= 5)
    return [float(f"{k * step:.6g}") for k in range(int(top / step) + 1)]
