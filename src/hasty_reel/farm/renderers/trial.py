"""The trial of a link: tiny frames rendered through it, what came back, and each thing that is wrong with what to change."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, replace

import msgspec
import numpy as np

from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.links import Link
from hasty_reel.farm.renderers.messages import ABILITIES, Greeting
from hasty_reel.farm.renderers.protocol import RenderedFrame, Renderer
from hasty_reel.measure.vectorsense import CLEARLY, VectorSense, vector_sense
from hasty_reel.pictures.bycontent import guides_by_content
from hasty_reel.pictures.foreign import ROLES
from hasty_reel.pictures.frame import Picture
from hasty_reel.settings.recipe import Recipe
from hasty_reel.work import CancelToken, Progress, silent

TRIAL_SIZE, TRIAL_SAMPLES = (64, 36), 4
MOVING_SIZE, MOVING_SAMPLES = (192, 108), 16
"""Of the two frames by which it is tried what motion vectors mean: a pixel of motion shows, and noise does not hide it."""
CODES = 0.98
"""Share of the colours that lie on steps of 1/255, from which on they are display codes."""
UNIT_LENGTH = 0.05
"""How far the length of a normal may be from 1 in the middle of all."""

ROLE_WORDS = {"albedo": "albedo", "normal": "normals", "depth": "depth", "motion": "motion vectors"}


@dataclass(frozen=True)
class LinkTrial:
    """What a trial came to.

    answer : how it went, in a sentence; picture : as it came; guides : kinds of guides that it has
    remarks : what is wrong or lacking, each with what to change; found : what was found out, each as it is
    seconds : of the parts of a frame, as told; messages : what it printed
    greeting : of a renderer that stays open, what it said; sense : what its motion vectors mean, None where that is not clear
    """

    answer: str
    picture: Picture
    guides: tuple[str, ...]
    remarks: tuple[str, ...]
    found: tuple[str, ...]
    seconds: dict[str, float]
    messages: str
    greeting: Greeting | None = None
    sense: VectorSense | None = None

    def taken_by(self, link: Link) -> Link:
        """Return the link with what was found out: the sense of its vectors, and what it can.

        Parameters
        ----------
        link : as it was tried
        """
        if self.greeting is not None:
            link = msgspec.structs.replace(link, can=tuple(self.greeting.can), knows=tuple(self.greeting.settings))
        if self.sense is None:
            return link
        # it was tried in the sense that the link had
        across, down = (s * o for s, o in zip((self.sense.across, self.sense.down), link.vectors))
        return msgspec.structs.replace(link, vectors=(across, down), vectors_of_size=link.vectors_of_size or self.sense.of_size)


def tried(
    link: Link, renderer: Renderer, scene: str, frame: int, greeting: Callable[[], Greeting] | None = None,
    cancel: CancelToken | None = None, progress: Progress = silent,
) -> LinkTrial:  # fmt: skip
    """Render tiny frames through a link, and look at what comes back.

    Parameters
    ----------
    link : the renderer link
    renderer : what renders through it
    scene : to render
    frame : as the shot numbers it
    greeting : of a renderer that stays open, gives what it said that it is and can; None for any other
    cancel : looked at meanwhile; None: it cannot be stopped
    progress : called with the share that is done, and words

    Raises
    ------
    HastyReelError
        What went wrong.
    """
    recipe = msgspec.structs.replace(Recipe(name="Trial"), shutter_steps=1, bounces=1, shutter_angle=0.0, keep_scene=1)
    job = FrameJob(scene, frame, *TRIAL_SIZE, TRIAL_SAMPLES, recipe)
    progress(0.0, "rendering one tiny frame")
    began = time.perf_counter()
    made = renderer(job, silent, cancel, None)
    seconds = time.perf_counter() - began
    progress(0.25, "rendering it again with another seed")
    other = renderer(replace(job, seed=2), silent, cancel, None)
    guides = tuple(role for role, names in ROLES.items() if role != "colour" and all(n in made.picture.guides for n in names))
    found, remarks = _looked_at(link, made, other, guides)
    sense = None
    if "motion" in guides:
        progress(0.5, "rendering two frames to see which way its motion vectors point")
        sense, words, fault = _sense(renderer, replace(job, width=MOVING_SIZE[0], height=MOVING_SIZE[1], samples=MOVING_SAMPLES), cancel)
        found, remarks = [*found, *words], [*remarks, *fault]
    hello = None if greeting is None else greeting()
    if hello is not None:
        cannot = [ABILITIES[a] for a in ABILITIES if a not in hello.can]
        found.append(f"It is '{hello.name[:60]}' and says that it can: {', '.join(hello.can) or 'nothing of its own'}.")
        found += [f"It does not say that it {words}: what needs that is grey in the ledger." for words in cannot]
    progress(1.0, "done")
    told = {name: value for name, value in (("load", made.load_seconds), ("sampling", made.sample_seconds)) if value > 0}
    return LinkTrial(
        _answer(link, made, seconds, told, bool(guides)), made.picture, guides, tuple(remarks), tuple(found), told, made.messages, hello,
        sense if sense is not None and sense.clear and (sense.across, sense.down, sense.of_size) != (1, 1, False) else None,
    )  # fmt: skip


def _answer(link: Link, made: RenderedFrame, seconds: float, told: dict[str, float], guides: bool) -> str:
    parts = ", ".join(f"{name} {value:.2g} s" for name, value in told.items())
    memory = f", {made.memory_bytes / 2**20:.0f} MB" if made.memory_bytes else ""
    size = f"{made.picture.width}x{made.picture.height}"
    return f"'{link.name}' answers: {size} in {seconds:.1f} s ({parts}){memory}, {'with' if guides else 'without'} guides."


def _looked_at(link: Link, made: RenderedFrame, other: RenderedFrame, guides: tuple[str, ...]) -> tuple[list[str], list[str]]:
    """What is found in a picture and its twin of another seed, and what is wrong with it."""
    found, remarks = [], []
    rgb, planes = made.picture.rgb, made.picture.guides
    if not (rgb > 0).any():
        remarks.append("The picture is black: expected a scene with light in it, or another frame.")
    elif np.array_equal(rgb, other.picture.rgb):
        how = "that it uses the 'seed' of the message" if link.stays else "{seed} in its command, and a renderer that uses it"
        remarks.append(f"Two seeds gave the same picture: expected {how}. Without that no noise can be measured.")
    steps = rgb * 255.0
    if rgb.max() <= 1.0 and (rgb > 0).any() and (np.abs(steps - np.round(steps)) < 2e-3).mean() > CODES:
        remarks.append("The colours look like display codes of 8 bits: expected linear light, in half or float.")
    else:
        found.append("Colours are linear light.")
    if guides:
        found.append(f"Guides: {', '.join(ROLE_WORDS[g] for g in guides)}.")
    for role, words in ROLE_WORDS.items():
        if role not in guides:
            remarks.append(f"No {words}: expected channels {', '.join(ROLES[role])}. Denoising over time is less without.")
    if "A" in planes:
        found.append("It has an alpha channel.")
    known = {n for names in ROLES.values() for n in names} | {"A", "samples"}
    for role, names in guides_by_content({n: plane for n, plane in planes.items() if n not in known}).items():
        if role not in guides and role not in link.channels:
            said = f"{role}={','.join(names)}"
            remarks.append(
                f"{', '.join(names)} may be its {ROLE_WORDS[role]}, by what is in them: if so, set the link's channels to {said}."
            )
    others = sorted(set(planes) - known)
    if others:
        found.append(f"Other channels, which are not used: {', '.join(others)[:160]}.")
    if "normal" in guides:
        length = np.sqrt(sum(planes[n].astype(np.float64) ** 2 for n in ROLES["normal"]))
        if (length > 0.1).any() and abs(float(np.median(length[length > 0.1])) - 1.0) > UNIT_LENGTH:
            remarks.append("The normals are not of length 1: expected normals as they are, not scaled to 0 to 1.")
    if "albedo" in guides and max(float(planes[n].max()) for n in ROLES["albedo"]) > 2.0:
        remarks.append("The albedo is above 1: expected the colour of surfaces without their light.")
    if "depth" in guides and float(planes["Z"].min()) < 0.0:
        remarks.append("The depth is below 0 in places: expected the distance from the camera, larger is farther.")
    if made.one_number:
        remarks.append(
            "It tells one number of seconds: proofs of two sizes will tell its start from its sampling; a pattern for parts does at once."
        )
    return found, remarks


def _sense(renderer: Renderer, job: FrameJob, cancel: CancelToken | None) -> tuple[VectorSense | None, list[str], list[str]]:
    """What its vectors mean, what is found, and what is wrong."""
    now, after = (renderer(replace(job, frame=job.frame + k), silent, cancel, None).picture for k in range(2))
    vectors = now.vectors
    assert vectors is not None
    if not np.isfinite(vectors).all():
        return None, [], ["Some motion vectors are no numbers: expected 0 where nothing is."]
    sense = vector_sense(now.rgb, after.rgb, vectors)
    if sense is None:
        return None, [], ["Too little moves at this frame to see which way its motion vectors point: try a frame in which things move."]
    if sense.left >= CLEARLY:
        words = f"none carries one frame onto the next: {100 * sense.left:.0f} % of the difference is left at best"
        return None, [], [f"What its motion vectors mean does not show at this frame, {words}. Try one in which more moves."]
    if not sense.clear:
        shares = f"{100 * sense.left:.0f} % of the difference between two frames, the next best {100 * sense.runner_up:.0f} %"
        words = f"the best reading leaves {shares}"
        return None, [], [f"What its motion vectors mean is not clear: {words}. Expected pixels to the next frame, right and down."]
    words = f"Motion vectors are {sense.words}: they carry one frame onto the next but for {100 * sense.left:.0f} % of the difference."
    if (sense.across, sense.down, sense.of_size) == (1, 1, False):
        return sense, [words], []
    return sense, [], [f"{words} They can be taken so: 'Take what was found', or link try --take."]
