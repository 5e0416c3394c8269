"""Job templates: accepted by the library of the specification, and run by its command line."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest
from openjd.model import StepParameterSpaceIterator, create_job, decode_job_template, preprocess_job_parameters

from hasty_reel.errors import WrongInput
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.farm.jobtemplate import job_template
from hasty_reel.farm.renderers.links import BENCH, Link
from hasty_reel.pictures.frame import read_picture
from hasty_reel.plan.shot import plan_shot
from hasty_reel.predict.model import ShotModel
from hasty_reel.reel.edits import with_frames, with_line, with_machine
from hasty_reel.reel.file import read_reel


def prepared(path: Path, last: int, workers: int = 1):
    reel = with_machine(with_frames(read_reel(path), "sh010", 1001, last), 0, workers=workers)
    reel = with_line(with_line(reel, "sh010", "samples_ceiling", 64), "sh010", "samples_floor", 8)
    shot = reel.shot("sh010")
    evidence = EvidenceReader().read(path.parent / reel.proofs, shot)
    return reel, plan_shot(reel, shot, ShotModel(evidence, shot.frames))


def tasks_of(template: dict) -> list[list[dict]]:
    """The tasks of each step, as the library of the specification counts them out."""
    decoded = decode_job_template(template=template)
    values = preprocess_job_parameters(
        job_template=decoded, job_parameter_values={}, job_template_dir=Path.cwd(), current_working_dir=Path.cwd(),
        allow_job_template_dir_walk_up=True,
    )  # fmt: skip
    job = create_job(job_template=decoded, job_parameter_values=values)
    return [[{k: v.value for k, v in t.items()} for t in StepParameterSpaceIterator(space=s.parameterSpace)] for s in job.steps]


def test_each_frame_is_a_task_with_its_own_samples_and_each_chunk_a_step(small_path):
    reel, plan = prepared(small_path, 1096, workers=4)
    steps = tasks_of(job_template(reel, [plan], BENCH))
    chunks = sum(m.workers for m in reel.machines)
    assert len(steps) == chunks >= 4 and sum(len(s) for s in steps) == 96
    tasks = [t for s in steps for t in s]
    assert [int(t["Frame"]) for t in tasks] == list(range(1001, 1097))
    assert [int(t["Samples"]) for t in tasks] == plan.samples.tolist()
    assert len({t["Seed"] for t in tasks}) == 96 and tasks[0]["File"] == "sh010.1001.exr"


def test_more_than_1024_frames_and_commands_of_the_artist_are_written_too(small_path):
    reel, plan = prepared(small_path, 3400)
    link = Link(name="own", command=("renderer", "--frame", "{frame}", "--out={output}", "--scale", "{scale}"))
    template = job_template(reel, [plan], link)
    assert all(len(s) <= 1024 for s in tasks_of(template)) and sum(len(s) for s in tasks_of(template)) == 2400
    action = template["steps"][0]["script"]["actions"]["onRun"]
    assert action == {
        "command": "renderer",
        "args": ["--frame", "{{Task.Param.Frame}}", "--out={{Param.OutFolder}}/{{Task.Param.File}}", "--scale", "100"],
    }
    with pytest.raises(WrongInput, match="A job has 1 to 100 steps, and these shots fall into 0 chunks"):
        job_template(reel, [], link)


def test_the_command_line_of_the_specification_renders_three_frames(small_path, tmp_path):
    reel, plan = prepared(small_path, 1003)
    template = job_template(reel, [plan], BENCH)
    for step in template["steps"]:
        run = step["script"]["actions"]["onRun"]
        run["command"], run["args"] = sys.executable, ["-m", "hasty_reel.bench", *run["args"]]
    (tmp_path / "frames").mkdir()
    path = tmp_path / "job.json"
    path.write_text(json.dumps(template))
    openjd = [sys.executable, "-m", "openjd"]
    assert subprocess.run([*openjd, "check", str(path)], check=False, capture_output=True).returncode == 0
    for step in template["steps"]:
        ended = subprocess.run([*openjd, "run", str(path), "--step", step["name"]], check=False, capture_output=True, text=True)
        assert ended.returncode == 0, ended.stdout[:2000]
    made = read_picture(tmp_path / "frames" / "sh010.1002.exr")
    assert made.width == plan.width and made.attributes["hr:samples"] == plan.samples[1]
