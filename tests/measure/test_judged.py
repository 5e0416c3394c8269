"""Seen flicker held against people's judgements: ColorVideoVDP's of clips made by formula, and television engineers' of noise."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from judgedclips import DENSITIES, made_clips, seen
from scipy.stats import spearmanr

from hasty_reel.image.lightness import lightness
from hasty_reel.measure.seen import FULL_ROWS, STANDARD, Eyes, contrast_of
from hasty_reel.measure.seennoise import seen_over_all
from hasty_reel.viewers import impairment, limit_of, loss_of, seen_by, share_of_viewers

TOLD = json.loads((Path(__file__).parent / "judged.json").read_text(encoding="utf-8"))
"""What `benchmarks/judged.py` had judged (Mantiuk et al., ACM Transactions on Graphics 43, 2024; package cvvdp 0.5.7)."""
JUDGED = {(row["clip"], row["density"]): row for row in TOLD["rows"]}


def test_clips_made_by_formula_are_measured_as_when_they_were_judged():
    """Every third: what is kept is what the program measures, so that the table of the documents is today's."""
    clips = made_clips()[::3]
    assert len(clips) >= 25
    for clip in clips:
        row = JUDGED[clip.name, DENSITIES[0]]
        assert seen(clip, DENSITIES[0]) == pytest.approx(row["seen"], rel=0.02), clip.name


@pytest.mark.parametrize("part, least, most", [("", 0.955, 0.37), ("finished", 0.93, 0.30)])
def test_the_measure_agrees_with_what_was_judged(part, least, most):
    """Rank correlation and root mean square in JOD, of what loses less than five; rendered pictures had no part in the fit."""
    rows = [r for r in TOLD["rows"] if part in r["clip"] and r["loss"] < 5.0]
    measured, judged = (np.array([r[k] for r in rows]) for k in ("seen", "loss"))
    assert spearmanr(measured, judged)[0] > least
    assert np.sqrt(np.mean((np.array([loss_of(j) for j in measured]) - judged) ** 2)) < most


def test_no_finished_scene_is_far_off():
    """What is decided by: of each rendered scene, finished, the mean factor of what the judgement asks for."""
    rows = [r for r in TOLD["rows"] if "finished" in r["clip"] and 0.05 < r["loss"] < 4.0]
    for group in {r["group"] for r in rows}:
        off = np.mean([np.log(r["seen"] / limit_of(share_of_viewers(r["loss"]))) for r in rows if r["group"] == group])
        assert 0.7 < np.exp(off) < 1.45, group


def television(decibels: float) -> float:
    """Seen flicker of white noise on a picture signal that much below it, at mid grey: 480 rows, six heights away, 30 frames."""
    rng = np.random.default_rng(3)
    codes = 0.46 + 10.0 ** (-decibels / 20.0) * rng.standard_normal((12, 128, 160))
    planes = lightness(np.clip(codes, 0, 1) ** 2.2)
    contrast = np.array([contrast_of(p - planes.mean(), np.full_like(p, planes.mean())) for p in planes])
    return seen_over_all(contrast, Eyes(6.0, fills=True).pixels_per_degree(480), 30.0)


def test_noise_on_television_is_just_seen_where_engineers_found_it():
    """TASO 1959 (from memory): 45 dB unweighted just perceptible, 35 dB not objectionable; held within 6 dB."""
    assert television(51.0) < 1.0 < television(39.0)
    assert impairment(loss_of(television(35.0))) in ("perceptible, not annoying", "slightly annoying")
    assert seen_by(television(45.0)) < 0.15


def test_a_small_picture_is_watched_in_a_window_and_a_television_enlarges_it():
    assert STANDARD.pixels_per_degree(FULL_ROWS) == pytest.approx(56.55, abs=0.05)  # common practice: three picture heights
    assert STANDARD.pixels_per_degree(540) == STANDARD.pixels_per_degree(FULL_ROWS) < STANDARD.pixels_per_degree(2160)
    assert Eyes(3.0, fills=True).pixels_per_degree(540) == pytest.approx(28.28, abs=0.03)
    assert STANDARD.degrees(540) == pytest.approx(STANDARD.degrees(1080) / 2.0)
