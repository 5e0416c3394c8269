"""Every renderer behind one protocol: the bench renderer and the artist's own are used alike.

protocol        what a renderer is, and what it gives
links           the person's renderers
bench           the bench renderer
command         a renderer that is started by a command line for each frame
ranges          a renderer that renders several frames in one start
session         a renderer that stays open
worker          one process of it, asked for one thing at a time
openprocess     its messages, to it and from it
messages        the protocol that is spoken
askedframe      a frame job as the message that asks for it
cachefiles      files of its light caches
statistics      what it tells of a frame: seconds by part and by object
learnlog        patterns of its seconds, learnt from what it prints
takenpicture    the picture that a linked renderer wrote
trial           tiny frames through a link, and what is wrong with them
exampleadapter  the adapter that ships as an example
"""

from __future__ import annotations

import atexit
import threading
from functools import partial

import msgspec

from hasty_reel.farm.renderers.bench import bench_at_hand, caches_on_bench, render_on_bench
from hasty_reel.farm.renderers.command import render_by_command
from hasty_reel.farm.renderers.links import Link, checked_link
from hasty_reel.farm.renderers.protocol import CacheMaker, Renderer
from hasty_reel.farm.renderers.ranges import RangeRenderer
from hasty_reel.farm.renderers.session import SessionRenderer
from hasty_reel.farm.renderers.trial import LinkTrial, tried
from hasty_reel.work import CancelToken, Progress, silent

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
    if link.frames > 1:
        return RangeRenderer(checked_link(link))
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


def frames_of_a_start(renderer: Renderer) -> int:
    """Return how many frames a renderer renders in one start, at most.

    Parameters
    ----------
    renderer : what renders
    """
    return renderer.frames if isinstance(renderer, RangeRenderer) else 1


def close_sessions() -> None:
    """End the renderers that stay open and have nothing to do."""
    with _LOCK:
        sessions = list(_SESSIONS.values())
        _SESSIONS.clear()
    for session in sessions:
        session.close()


atexit.register(close_sessions)


def try_link(link: Link, scene: str, frame: int, cancel: CancelToken | None = None, progress: Progress = silent) -> LinkTrial:
    """Render tiny frames through a link and look at what comes back.

    Parameters
    ----------
    link : the renderer link
    scene : to render
    frame : as the shot numbers it
    cancel : looked at meanwhile; None: it cannot be stopped
    progress : called with the share that is done, and words

    Raises
    ------
    HastyReelError
        What went wrong.
    """
    renderer = renderer_of(link)
    greeting = (lambda: renderer.greeting) if isinstance(renderer, SessionRenderer) else None
    return tried(link, renderer, scene, frame, greeting, cancel, progress)
