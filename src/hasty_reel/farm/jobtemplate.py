"""The plan of shots as an Open Job Description template: a step for each chunk, a task for each frame with its own samples.

The specification is 'jobtemplate-2023-09' of the Open Job Description project, an open standard for jobs of render farms.
"""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise
from pathlib import Path
from typing import Any

from hasty_reel.errors import WrongInput
from hasty_reel.farm.job import FrameJob, camera_of, moment_of
from hasty_reel.farm.renderers.command import placeholder_values
from hasty_reel.farm.renderers.links import BY_COMMAND, Link
from hasty_reel.plan.chunks import chunk_count, chunk_starts
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.programs.commands import filled
from hasty_reel.reel.document import Reel

MOST_TASKS = 1024
"""Values that a list of a task parameter may have (section 3.4.1 of the specification)."""
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
    command = link.command or BY_COMMAND.command
    assert command is not None
    steps = [_step(reel, plan, command, frames) for plan in plans for frames in _chunks(reel, plan)]
    if not steps or len(steps) > MOST_STEPS:
        raise WrongInput(
            f"A job has 1 to {MOST_STEPS} steps, and these shots fall into {len(steps)} chunks; expected fewer shots at a time."
        )
    return {
        "specificationVersion": "jobtemplate-2023-09",
        "name": f"{reel.name} final frames"[:128],
        "parameterDefinitions": [
            {"name": "OutFolder", "type": "PATH", "objectType": "DIRECTORY", "dataFlow": "OUT", "default": folder},
        ],
        "steps": steps,
    }


def _chunks(reel: Reel, plan: ShotPlan) -> list[list[int]]:
    count = len(plan.frames)
    chunks = max(chunk_count(reel, count), -(-count // MOST_TASKS))
    edges = [*chunk_starts(count, chunks).tolist(), count]
    return [[int(f) for f in plan.frames[a:b]] for a, b in pairwise(edges)]


def _step(reel: Reel, plan: ShotPlan, command: tuple[str, ...], frames: list[int]) -> dict[str, Any]:
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
    fixed = dict(values[0]) | {name: f"{{{{Task.Param.{BY_TASK[name]}}}}}" for name in used}
    fixed["output"] = "{{Param.OutFolder}}/{{Task.Param.File}}"
    program, *arguments = filled(command, fixed)
    space: dict[str, Any] = {"taskParameterDefinitions": parameters}
    if len(used) > 1:
        space["combination"] = f"({', '.join(BY_TASK[name] for name in used)})"
    return {
        "name": f"{shot.id} {frames[0]}-{frames[-1]}"[:LONGEST_NAME],
        "parameterSpace": space,
        "script": {"actions": {"onRun": {"command": program, "args": arguments}}},
    }
