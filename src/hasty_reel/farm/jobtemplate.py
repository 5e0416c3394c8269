"""The plan of shots as an Open Job Description template: a step for each chunk, a task for each frame with its own samples.

The specification is 'jobtemplate-2023-09' of the Open Job Description project, an open standard for jobs of render farms.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from itertools import pairwise
from pathlib import Path
from typing import Any

from hasty_reel.errors import WrongInput
from hasty_reel.farm.job import FrameJob, camera_of, moment_of
from hasty_reel.farm.renderers.command import placeholder_values
from hasty_reel.farm.renderers.links import BY_COMMAND, Link
from hasty_reel.plan.frames.chunks import chunk_count, chunk_starts
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.document import Reel

MOST_TASKS = 1024
"""Values that a list of a task parameter may have (section 3.4.1 of the specification)."""
_PLACES = re.compile(r"(\{[^{}]*\})")
MOST_STEPS, LONGEST_NAME = 100, 64
"""Steps of a job, and characters of their names."""
BY_TASK = {"frame": "Frame", "samples": "Samples", "seed": "Seed", "output": "File", "floor": "Floor"}
"""Places in a command that change from frame to frame, and the task parameters that fill them."""


def job_template(reel: Reel, plans: Iterable[ShotPlan], link: Link, folder: str = "frames") -> dict[str, Any]:
    """Return a job template that renders the final frames of some shots as they are planned.

    Parameters
    ----------
    reel : the reel
    plans : of its shots and layers
    link : the renderer link whose command is started; the bench renderer's own command for one without
    folder : where frames go beside the template, unless the job is told another

    Raises
    ------
    WrongInput
        When there are more chunks than a job may have steps, or frames are put together from several pictures.
    """
    plans = list(plans)
    for plan in plans:
        if plan.recipe.starts > 1 or any(plan.recipe.crop):
            how = "halves" if plan.recipe.halves else "tiles" if plan.recipe.tiles > 1 else "a crop with another frame around it"
            raise WrongInput(f"{plan.shot.id} is rendered in {how}, which a job template cannot put together; expected whole frames.")
    if link.stays:
        raise WrongInput(f"Job template: renderer link '{link.name[:60]}' stays open; expected one that is started for each frame.")
    command = link.command or BY_COMMAND.command
    if any("{job}" in argument for argument in command or ()):
        raise WrongInput(f"Job template: the command of '{link.name[:60]}' reads {{job}}, a file of this program; expected one without it.")
    assert command is not None
    literals = _Literals()
    steps = [_step(reel, plan, command, frames, literals) for plan in plans for frames in _chunks(reel, plan)]
    if not steps or len(steps) > MOST_STEPS:
        raise WrongInput(
            f"A job has 1 to {MOST_STEPS} steps, and these shots fall into {len(steps)} chunks; expected fewer shots at a time."
        )
    for step, name in zip(steps, _distinct([s["name"] for s in steps])):
        step["name"] = name
    out_folder = {"name": "OutFolder", "type": "PATH", "objectType": "DIRECTORY", "dataFlow": "OUT", "default": folder}
    template = {
        "specificationVersion": "jobtemplate-2023-09",
        "name": _plain(f"{reel.name} final frames")[:128],
        "parameterDefinitions": [out_folder, *literals.definitions],
        "steps": steps,
    }
    _validate(template)
    return template


class _Literals:
    """Arguments with '{{' in them, which would be read as a reference: each becomes a parameter of the job whose default it is.

    definitions : of these parameters
    """

    def __init__(self) -> None:
        self.definitions: list[dict[str, Any]] = []
        self._names: dict[str, str] = {}

    def escaped(self, text: str) -> str:
        """Return what stands for a text in an argument.

        Parameters
        ----------
        text : as the renderer is to get it
        """
        if "{{" not in text and "}}" not in text:
            return text
        if text not in self._names:
            self._names[text] = f"Text{len(self._names) + 1}"
            self.definitions.append({"name": self._names[text], "type": "STRING", "default": text})
        return f"{{{{Param.{self._names[text]}}}}}"


def _argument(part: str, texts: Mapping[str, str], referred: Mapping[str, str], literals: _Literals) -> str:
    """One argument: what changes from frame to frame as references, all else literally."""
    out, literal = "", ""
    for piece in _PLACES.split(part):
        name = piece[1:-1]
        if piece[:1] == "{" and name in referred:
            out, literal = out + (literals.escaped(literal) if literal else "") + referred[name], ""
        else:
            literal += texts[name] if piece[:1] == "{" and name in texts else piece
    return out + (literals.escaped(literal) if literal else "")


def _plain(name: str) -> str:
    """A name in which nothing is read as a reference."""
    return name.replace("{{", "{ {").replace("}}", "} }")


def _distinct(names: list[str]) -> list[str]:
    """Names of steps, each shortened in its middle and different from all others."""
    out: list[str] = []
    for name in names:
        shot, _, frames = _plain(name).rpartition(" ")
        tail = f" {frames}"
        short, k = f"{shot[: LONGEST_NAME - len(tail)]}{tail}", 1
        while short in out:
            k += 1
            tail = f"~{k} {frames}"
            short = f"{shot[: LONGEST_NAME - len(tail)]}{tail}"
        out.append(short)
    return out


def _validate(template: dict[str, Any]) -> None:
    """Raise an error where the library of the specification finds a template that it would not take."""
    from openjd.model import DecodeValidationError, decode_job_template

    try:
        decode_job_template(template=template)
    except DecodeValidationError as error:
        raise WrongInput(f"The job template would not be valid: {' '.join(str(error).split())[:300]}") from error


def _chunks(reel: Reel, plan: ShotPlan) -> list[list[int]]:
    count = len(plan.frames)
    chunks = max(chunk_count(reel, count), -(-count // MOST_TASKS))
    edges = [*chunk_starts(count, chunks).tolist(), count]
    return [[int(f) for f in plan.frames[a:b]] for a, b in pairwise(edges)]


def _step(reel: Reel, plan: ShotPlan, command: tuple[str, ...], frames: list[int], literals: _Literals) -> dict[str, Any]:
    shot, recipe, camera = plan.shot, plan.recipe, camera_of(reel)
    jobs = [
        FrameJob(
            shot.scene, shot.scene_frame(f), plan.width, plan.height, int(plan.samples[plan.index(f)]), recipe, camera=camera,
            moment=moment_of(shot, recipe, f, shot.begin), floor=recipe.samples_floor, stop_noise=recipe.stop_noise, cap=recipe.time_cap,
        )
        for f in frames
    ]  # fmt: skip
    values = [placeholder_values(job, Path(f"{shot.id}.{f:04d}.exr")) for job, f in zip(jobs, frames)]
    used = [name for name in BY_TASK if any(f"{{{name}}}" in part for part in command)]
    parameters = [
        {
            "name": BY_TASK[name],
            "type": "STRING" if name == "output" else "INT",
            "range": [v[name] if name == "output" else int(float(v[name])) for v in values],
        }
        for name in used
    ]
    referred = {name: f"{{{{Task.Param.{BY_TASK[name]}}}}}" for name in used}
    referred["output"] = "{{Param.OutFolder}}/{{Task.Param.File}}"
    program, *arguments = (_argument(part, values[0], referred, literals) for part in command)
    space: dict[str, Any] = {"taskParameterDefinitions": parameters}
    if len(used) > 1:
        space["combination"] = f"({', '.join(BY_TASK[name] for name in used)})"
    return {
        "name": f"{shot.id} {frames[0]}-{frames[-1]}",
        "parameterSpace": space,
        "script": {"actions": {"onRun": {"command": program, "args": arguments}}},
    }
