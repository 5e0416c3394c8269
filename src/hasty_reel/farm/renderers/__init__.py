"""Every renderer behind one protocol: the bench renderer and the artist's own are used alike.

protocol  what a renderer is, and what it gives
bench     the bench renderer
command   a renderer that is started by a command line
links     the command lines of the person's renderers
"""

from __future__ import annotations

import time
from functools import partial

import msgspec

from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.bench import render_on_bench
from hasty_reel.farm.renderers.command import render_by_command
from hasty_reel.farm.renderers.links import Link, checked_link
from hasty_reel.farm.renderers.protocol import Renderer
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken, silent

TRIAL_SIZE, TRIAL_SAMPLES = (64, 36), 4


def renderer_of(link: Link) -> Renderer:
    """Return what renders a job through a link.

    Parameters
    ----------
    link : the renderer link
    """
    if link.command is None:
        return render_on_bench
    return partial(render_by_command, checked_link(link))


def try_link(link: Link, scene: str, frame: int, cancel: CancelToken | None = None) -> str:
    """Render one tiny frame through a link and say in one sentence how it went.

    Parameters
    ----------
    link : the renderer link
    scene : to render
    frame : as the shot numbers it
    cancel : looked at meanwhile; None: it cannot be stopped

    Raises
    ------
    HastyReelError
        What went wrong.
    """
    recipe = msgspec.structs.replace(Recipe(name="Trial"), shutter_steps=1, bounces=1)
    began = time.perf_counter()
    made = renderer_of(link)(FrameJob(scene, frame, *TRIAL_SIZE, TRIAL_SAMPLES, recipe), silent, cancel, None)
    seconds = time.perf_counter() - began
    told = [f"{name} {value:.2f} s" for name, value in (("load", made.load_seconds), ("sampling", made.sample_seconds)) if value > 0]
    memory = f", {made.memory_bytes / 2**20:.0f} MB" if made.memory_bytes else ""
    guides = ", with guides" if made.picture.guides else ", without guides"
    return f"'{link.name}' answers: {made.picture.width}x{made.picture.height} in {seconds:.1f} s ({', '.join(told)}){memory}{guides}."
