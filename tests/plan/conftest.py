"""The demo reel holding noise, by the limit of whoever looks: what is tested here is how plans are made, whatever is held."""

from __future__ import annotations

import msgspec
import pytest

from hasty_reel.reel.shot import Hold

NOISE = {"sh010": 0.0075, "sh020": 0.0075, "sh030": 0.005, "sh040": 0.01, "sh050": 0.005}


@pytest.fixture(scope="session")
def demo_reel(demo_reel):
    shots = tuple(msgspec.structs.replace(s, hold=Hold(kind="noise", value=NOISE[s.id])) for s in demo_reel.shots)
    return msgspec.structs.replace(demo_reel, shots=shots, calm="eyes")
