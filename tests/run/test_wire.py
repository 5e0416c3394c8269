"""Frames as plain bytes: they come back as they went, and whatever else comes is one sentence."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hasty_reel.bench.moment import LightCache
from hasty_reel.errors import RendererFault
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.protocol import RenderedFrame
from hasty_reel.pictures.frame import Picture
from hasty_reel.run.wire import FarFrame, as_bytes, from_bytes
from hasty_reel.settings.recipe import Recipe

JOB = FrameJob("soft_corner", 12, 6, 4, 8, Recipe(name="a"))
RNG = np.random.default_rng(3)
PICTURE = Picture(RNG.random((4, 6, 3), np.float32), {"Z": RNG.random((4, 6), np.float32)}, {"hr:frame": "12", "hr:samples": 8.0})
MADE = RenderedFrame(PICTURE, 0.5, 1.5, 0.25, 8.0, 1 << 20, "frame 12 took 2 s", cpu_seconds=1.9, one_number=True)
RAW = as_bytes(FarFrame(MADE, "", False, 2.0, "tower"))


def test_a_frame_comes_back_as_it_went():
    back = from_bytes(RAW, JOB)
    assert (back.machine, back.seconds, back.words, back.stopped) == ("tower", 2.0, "", False) and back.made is not None
    assert np.array_equal(back.made.picture.rgb, PICTURE.rgb) and np.array_equal(back.made.picture.guides["Z"], PICTURE.guides["Z"])
    assert back.made.picture.attributes == PICTURE.attributes
    for name in ("load_seconds", "sample_seconds", "cache_seconds", "samples", "memory_bytes", "messages", "cpu_seconds", "one_number"):
        assert getattr(back.made, name) == getattr(MADE, name), name


def test_light_caches_and_faults_come_back_too():
    cache = LightCache(5, 7, RNG.random((2, 3, 4, 6, 3), np.float32))
    made = RenderedFrame(Picture(np.zeros((1, 1, 3), np.float32)), 0.0, 0.0, 1.0, light_caches=(cache,))
    back = from_bytes(as_bytes(FarFrame(made, "", False, 1.0, "a")), JOB, caches=True)
    assert back.made is not None and np.array_equal(back.made.light_caches[0].light, cache.light) and back.made.light_caches[0] == cache
    assert from_bytes(as_bytes(FarFrame(None, "The lamp\nis missing.", False, 1.0, "a")), JOB).words == "The lamp is missing."
    assert from_bytes(as_bytes(FarFrame(None, "", True, 1.0, "a")), JOB).stopped


@pytest.mark.parametrize(
    "raw, words",
    [
        (RAW[:-1], "is cut short"), (RAW + b"x", "is cut short"), (RAW[:40], "is cut short"), (b"", "is no frame"), ("text", "is no frame"),
        (b"\x02" + bytes(7) + b"{}", "no head that can be read"),
        (RAW.replace(b'"load_seconds":0.5', b'"load_seconds":-05'), "no head that can be read"),
        (RAW.replace(b'"sample_seconds":1.5', b'"sample_seconds":-15'), "tells seconds that are none"),
        (RAW.replace(b"[4,6,3]", b"[6,4,3]"), "has 'rgb' of 6x4x3; expected 6x4 pixels"),
        (RAW.replace(b'"rgb"', b'"bgr"'), "has 'bgr' of 4x6x3"),
    ],
)  # fmt: skip
def test_what_is_no_frame_is_one_sentence(raw, words):
    with pytest.raises(RendererFault, match=words) as error:
        from_bytes(raw, JOB)
    assert str(error.value).startswith("Frame 12: what its worker sent") and "\n" not in str(error.value)


@given(st.binary(max_size=400), st.integers(0, len(RAW)))
def test_bytes_of_any_kind_are_a_frame_or_a_fault(noise, at):
    for raw in (noise, RAW[:at] + noise + RAW[at + len(noise) :]):
        try:
            found = from_bytes(raw, JOB)
        except RendererFault:
            continue
        assert found.made is None or found.made.picture.rgb.shape == (4, 6, 3)
