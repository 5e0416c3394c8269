"""Every renderer behind one protocol: the bench renderer and the artist's own are used alike.

protocol      what a renderer is, and what it gives
bench         the bench renderer
command       a renderer that is started by a command line for each frame
session       a renderer that stays open
openprocess   its process: messages to it and from it
messages      the protocol that is spoken
cachefiles    files of its light caches
takenpicture  the picture that a linked renderer wrote
links         the person's renderers
"""

from __future__ import annotations

import atexit
import threading
import time
from functools import partial

import msgspec

from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.bench import bench_at_hand, caches_on_bench, render_on_bench
from hasty_reel.farm.renderers.command import render_by_command
from hasty_reel.farm.renderers.links import Link, checked_link
from hasty_reel.farm.renderers.protocol import CacheMaker, Renderer
from hasty_reel.farm.renderers.session import SessionRenderer
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken, silent

TRIAL_SIZE, TRIAL_SAMPLES = (64, 36), 4


_SESSIONS: dict[bytes, SessionRenderer] = {}
_LOCK = threading.Lock()


def renderer_of(link: Link) -> Renderer:
    """Return what renders a job through a link; of one that stays open always the same, so that its processes are used again.

    Parameters
    ----------
    link : the renderer link
    """
    if link.command is None:
        return render_on_bench
    if link.stays:
        return session_of(link)
    return partial(render_by_command, checked_link(link))


def renderer_at_hand(link: Link) -> Renderer:
    """Return what renders the same frame again and again as fast as can be.

    Parameters
    ----------
    link : the renderer link
    """
    return bench_at_hand() if link.command is None else renderer_of(link)


def session_of(link: Link) -> SessionRenderer:
    """Return what renders through a link to a renderer that stays open.

    Parameters
    ----------
    link : the renderer link
    """
    plain = msgspec.structs.replace(checked_link(link), can=None, knows=())
    with _LOCK:
        return _SESSIONS.setdefault(msgspec.json.encode(plain), SessionRenderer(plain))


def cache_maker(renderer: Renderer) -> CacheMaker | None:
    """Return what computes the light cache that a frame owns by itself; None for a renderer that makes its own with each frame.

    Parameters
    ----------
    renderer : what renders

    Raises
    ------
    RendererFault
        When a renderer that stays open cannot be asked what it can.
    """
    if renderer is render_on_bench:
        return caches_on_bench
    if isinstance(renderer, SessionRenderer) and "caches" in renderer.greeting.can:
        return renderer.caches
    return None


def gathers_history(renderer: Renderer) -> bool:
    """Whether the frames before a frame are rendered to give it its history; one that stays open is told of them with the frame.

    Parameters
    ----------
    renderer : what renders
    """
    return not isinstance(renderer, SessionRenderer)


def close_sessions() -> None:
    """End the renderers that stay open and have nothing to do."""
    with _LOCK:
        sessions = list(_SESSIONS.values())
        _SESSIONS.clear()
    for session in sessions:
        session.close()


atexit.register(close_sessions)


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
