"""`hasty-bench`: the bench renderer by itself."""

from __future__ import annotations

import json
import sys
import time
from pathlib import Path

import click

from hasty_reel.bench.library import SCENES, find_scene
from hasty_reel.bench.picture import as_picture
from hasty_reel.bench.render import Settings, render, warm_up
from hasty_reel.errors import HastyReelError, WrongInput
from hasty_reel.pictures.frame import write_picture
from hasty_reel.work import CancelToken


def numbers(text: str, count: int, between: str, what: str) -> tuple[int, ...]:
    """Whole numbers such as 480x270 or 0,0,64,64.

    Raises
    ------
    WrongInput
        Says what was given and what was expected.
    """
    parts = text.lower().split(between)
    if len(parts) != count or not all(p.strip().lstrip("-").isdigit() for p in parts):
        raise WrongInput(f"{what} '{text}'; expected {count} whole numbers with '{between}' between them.")
    return tuple(int(p) for p in parts)


@click.group(help="The bench renderer: a small path tracer for trying and testing.")
def bench() -> None:
    pass


@bench.command(help="List the scenes there are, one name a line.")
@click.option("--json", "as_json", is_flag=True, help="One JSON document.")
def scenes(as_json: bool) -> None:
    found = [SCENES[name]() for name in SCENES]
    if as_json:
        click.echo(json.dumps([{"name": s.name, "first": s.first, "last": s.last, "about": s.about} for s in found]))
    else:
        for scene in found:
            click.echo(scene.name)


@bench.command(name="warm", help="Compile the kernels into the cache.")
def warm() -> None:
    warm_up(lambda share, words: click.echo(words, err=True))


@bench.command(name="render", help="Render one frame into an OpenEXR file.")
@click.option("--scene", required=True)
@click.option("--frame", type=float, required=True)
@click.option("--size", required=True, help="WxH in pixels.")
@click.option("--samples", type=int, required=True)
@click.option("--out", type=click.Path(path_type=Path), required=True)
@click.option("--seed", type=int, default=None, help="The noise pattern; default: another one for each frame.")
@click.option("--steps", type=int, default=0, show_default=True, help="Shutter steps; 0: random times.")
@click.option("--angle", type=float, default=180.0, show_default=True)
@click.option("--scale", type=float, default=100.0, show_default=True, help="Render scale in percent of the width.")
@click.option("--bounces", type=int, default=6, show_default=True)
@click.option("--ceiling", type=float, default=None, help="Brightness ceiling of one light path.")
@click.option("--crop", default=None, help="X,Y,W,H in rendered pixels.")
@click.option("--guides", is_flag=True, help="Write albedo, normal, depth, motion and samples.")
@click.option("--json", "as_json", is_flag=True, help="Times by part as one JSON document.")
def render_command(
    scene: str, frame: float, size: str, samples: int, out: Path, seed: int | None, steps: int, angle: float,
    scale: float, bounces: int, ceiling: float | None, crop: str | None, guides: bool, as_json: bool,
) -> None:  # fmt: skip
    width, height = numbers(size, 2, "x", "--size")
    if not 1 <= scale <= 400:
        raise WrongInput(f"--scale {scale:g}; expected 1 to 400 percent.")
    settings = Settings(
        width=max(1, round(width * scale / 100)),
        height=max(1, round(height * scale / 100)),
        samples=samples,
        steps=steps,
        angle=angle,
        bounces=bounces,
        ceiling=ceiling,
        seed=seed if seed is not None else max(0, int(frame)),
        crop=numbers(crop, 4, ",", "--crop") if crop else None,  # type: ignore[arg-type]
        guides=guides,
    )
    chosen = find_scene(scene)
    began = time.perf_counter()
    rendered = render(chosen, frame, settings, cancel=CancelToken())
    written = time.perf_counter()
    write_picture(out, as_picture(rendered, frame, settings))
    write_seconds = time.perf_counter() - written
    report = {
        "file": str(out),
        "width": rendered.rgb.shape[1],
        "height": rendered.rgb.shape[0],
        "samples": samples,
        "load_seconds": rendered.load_seconds,
        "sample_seconds": rendered.sample_seconds,
        "write_seconds": write_seconds,
        "seconds": time.perf_counter() - began,
    }
    if as_json:
        click.echo(json.dumps(report))
    else:
        click.echo(
            f"{out}  {report['width']}x{report['height']}, {samples} samples: load {rendered.load_seconds:.3f} s, "
            f"sampling {rendered.sample_seconds:.3f} s, write {write_seconds:.3f} s"
        )


def run(group: click.Group, arguments: list[str] | None, name: str) -> int:
    """Run a command group; errors become one line on standard error, and no traceback reaches a user.

    Returns
    -------
    Exit status: 0 done, 1 the answer is no, 2 wrong use or unreadable input.
    """
    try:
        result = group.main(args=arguments, prog_name=name, standalone_mode=False)
        return result if isinstance(result, int) else 0
    except click.exceptions.Exit as leave:
        return leave.exit_code
    except (click.Abort, KeyboardInterrupt):
        click.echo("Stopped.", err=True)
        return 1
    except click.ClickException as error:
        click.echo(f"{name}: {' '.join(error.format_message().split())}", err=True)
        return 2
    except HastyReelError as error:
        click.echo(f"{name}: {' '.join(str(error).split())}", err=True)
        return 2 if isinstance(error, WrongInput) else 1
    except (OSError, MemoryError) as error:
        click.echo(f"{name}: {getattr(error, 'strerror', None) or error or 'out of memory'}", err=True)
        return 2


def main() -> None:
    """Entry point of `hasty-bench`."""
    sys.exit(run(bench, None, "hasty-bench"))
