"""A report of a reel as one page that stands by itself: plan and run, graphs, settings, pictures; nothing is fetched to show it."""

from __future__ import annotations

import base64
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

import cv2
import numpy as np
from jinja2 import Environment

from hasty_reel.errors import PictureError
from hasty_reel.evidence.rows import Evidence
from hasty_reel.handover.graph import Graph
from hasty_reel.pictures.colour import codes8
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.answer import sentence, span
from hasty_reel.plan.outlook import Outlook
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.plan.time.spread import frame_band
from hasty_reel.reel.document import Reel
from hasty_reel.reel.durations import spoken
from hasty_reel.reel.hours import hours_text
from hasty_reel.reel.rate import timecode
from hasty_reel.viewers import who_sees

TEMPLATE = Path(__file__).with_name("report.html")
PICTURES, WIDE = 3, 624
"""Pictures of a shot, and their width in pixels at most."""


@dataclass(frozen=True)
class ShotRun:
    """What a run of a shot did. words : its account; seconds : really taken, by frame"""

    words: Sequence[str] = ()
    seconds: Mapping[int, float] = field(default_factory=dict)


def report_page(reel: Reel, outlook: Outlook, evidence: Mapping[str, Evidence], runs: Mapping[str, ShotRun], now: datetime) -> str:
    """Return the report of a reel as HTML.

    Parameters
    ----------
    reel : the reel
    outlook : plans by shot or layer, and the deadline
    evidence : by shot or layer, for the pictures
    runs : what was rendered already, by shot or layer
    now : the time of the report
    """
    when = outlook.deadline
    ready = ""
    if when is not None and outlook.plans:
        ready = (
            "Never ready in the free hours of these machines."
            if when.never
            else (
                f"Ready {when.ready.astimezone():%a %d %b %H:%M} ({when.how_sure}), due {when.due.astimezone():%a %d %b %H:%M}: "
                f"{spoken(abs(when.spare_seconds))} {'spare' if when.spare_seconds >= 0 else 'late'}."
            )
        )
    length = timecode(reel.length, reel.fps, reel.drop_frame)
    environment = Environment(autoescape=True)
    return environment.from_string(TEMPLATE.read_text(encoding="utf-8")).render(
        title=reel.name,
        subtitle=f"{reel.width} × {reel.height}, {float(reel.fps):g} frames a second, {reel.length} frames, {length}. "
        f"Written {now:%a %d %b %Y %H:%M}.",
        ready=ready,
        shots=[_shot(reel, plan, evidence.get(name, Evidence()), runs.get(name, ShotRun())) for name, plan in outlook.plans.items()],
        machines=[]
        if when is None
        else [{"name": m.name, "hours": f"{h:.1f}", "free": hours_text(m.free)} for m, h in zip(reel.machines, when.hours)],
        lacks=[f"{name}: {words}" for name, words in outlook.lacks.items()],
    )


def _shot(reel: Reel, plan: ShotPlan, evidence: Evidence, run: ShotRun) -> dict:
    low, high = frame_band(plan)
    seen_low, seen_high = plan.seen_band
    words = "dots: really taken" if run.seconds else ""
    graphs = [
        Graph(f"Seconds a frame, planned{', ' + words if words else ''}", plan.frames, plan.seconds, low, high, None, run.seconds),
        Graph(
            f"Seen flicker of the noise, JND; dashed: seen by {who_sees(plan.eyes.limit)}, as many as may see it",
            plan.frames,
            plan.seen_flicker,
            seen_low,
            seen_high,
            plan.eyes.limit,
        ),
        Graph("Noise of the finished frames, linear light", plan.frames, plan.noise),
        Graph("Samples per pixel", plan.frames, plan.samples.astype(np.float64)),
    ]
    return {
        "id": plan.shot.id,
        "name": plan.shot.name,
        "frames": len(plan.frames),
        "samples": span(plan),
        "hours": f"{plan.total_seconds / reel.frame_speed / 3600:.2f}",
        "noise": f"{plan.noise.max():.4f}",
        "seen": f"{plan.worst_flicker:.2f}",
        "answer": sentence(plan, reel.frame_speed),
        "pictures": _pictures(plan, evidence),
        "graphs": [g.drawn() for g in graphs],
        "account": list(run.words),
        "settings": [
            (line.words, f"{line.text(value)} {line.unit}".strip())
            for line in plan.recipe.settings
            if (value := plan.recipe.value(line.field)) != line.neutral
        ],
    }


def _pictures(plan: ShotPlan, evidence: Evidence) -> list[dict]:
    """First, middle and last proof frame, as they look through the plain view."""
    out: dict[str, dict] = {}
    for at in np.linspace(plan.frames[0], plan.frames[-1], PICTURES):
        row = evidence.newest(int(at))
        if row is None or str(row.picture) in out:
            continue
        try:
            codes = codes8(read_picture(row.picture, ()).rgb)
        except PictureError:
            continue
        if codes.shape[1] > WIDE:
            codes = cv2.resize(codes, (WIDE, round(codes.shape[0] * WIDE / codes.shape[1])), interpolation=cv2.INTER_AREA)
        good, raw = cv2.imencode(".jpg", codes[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 88])
        if good:
            source = f"data:image/jpeg;base64,{base64.b64encode(raw.tobytes()).decode()}"
            out[str(row.picture)] = {"frame": f"{row.frame:g}", "source": source, "words": f"proof {row.proof}, {row.samples} samples"}
    return list(out.values())
