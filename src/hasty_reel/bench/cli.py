"""`hasty-bench`: the bench renderer by itself."""

from __future__ import annotations

import json
import math
import sys
import time
from pathlib import Path
from typing import Any

import click

from hasty_reel.bench.library import SCENES, find_scene
from hasty_reel.bench.picture import as_picture
from hasty_reel.bench.render import Moment, PixelOrder, ready, render, warm_up
from hasty_reel.bench.settings import Camera, Settings
from hasty_reel.commands import StrictGroup, need_with, run, whole_numbers
from hasty_reel.errors import WrongInput
from hasty_reel.machinecode import prepare_saying
from hasty_reel.pictures.writing import write_picture
from hasty_reel.scaledsize import scaled_size
from hasty_reel.work import CancelToken

FRAME_BOUND = 1_000_000_000
LONGEST_LOAD = 600.0


@click.group(cls=StrictGroup, help="The bench renderer: a small path tracer for trying and testing.")
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
@click.option("--floor", type=int, default=1, show_default=True, help="The fewest samples, with --stop-noise or --cap.")
@click.option("--stop-noise", type=float, default=None, help="Stop a pixel below this noise; --samples is the most it gets.")
@click.option("--cap", type=float, default=None, help="Seconds after which a frame stops, at its floor or above.")
@click.option("--matte", type=int, default=None, help="Of the bounces, the most off matte surfaces.")
@click.option("--glossy", type=int, default=None, help="Of the bounces, the most off glossy surfaces.")
@click.option("--glass", type=int, default=None, help="Of the bounces, the most at glass.")
@click.option("--fog-bounces", type=int, default=None, help="Of the bounces, the most in fog.")
@click.option("--approximate-after", type=int, default=None, help="Bounces before bounced light is approximated.")
@click.option("--approximate-distance", type=float, default=3.0, show_default=True)
@click.option("--approximate-strength", type=float, default=1.0, show_default=True)
@click.option("--chance-lamps", is_flag=True, help="Lamps are found by chance, as meshes that glow.")
@click.option("--fog-step", type=float, default=100.0, show_default=True, help="Percent of a cell.")
@click.option("--fog-cut", type=float, default=0.0, show_default=True, help="Percent of light below which light rays end.")
@click.option("--cache", is_flag=True, help="Bounced light of matte surfaces from a grid.")
@click.option("--history", type=int, default=None, help="Frames before this one in its chunk; default: all it needs.")
@click.option("--pixel-aspect", type=float, default=1.0, show_default=True)
@click.option("--forward", default=None, help="AxB degrees of a 360-degree picture.")
@click.option("--order", type=click.Choice(["passes", "rows", "tiles"]), default="passes", show_default=True)
@click.option("--load-seconds", type=float, default=0.0, help="As if reading the scene took this long.")
@click.option("--tell", is_flag=True, help="Tell progress line by line on standard error.")
@click.option("--json", "as_json", is_flag=True, help="Times by part as one JSON document.")
def render_command(
    scene: str, frame: float, size: str, samples: int, out: Path, seed: int | None, scale: float, crop: str | None,
    stop_noise: float | None, chance_lamps: bool, history: int | None, pixel_aspect: float, forward: str | None,
    order: PixelOrder, load_seconds: float, tell: bool, as_json: bool, **lines: Any,
) -> None:  # fmt: skip
    width, height = whole_numbers(size, 2, "x", "--size")
    if min(width, height) < 1:
        raise WrongInput(f"--size {size}; expected 1 pixel or more a side.")
    if not (math.isfinite(frame) and abs(frame) < FRAME_BOUND):
        raise WrongInput(f"--frame {frame:g}; expected a number between {-FRAME_BOUND:,} and {FRAME_BOUND:,}.")
    if not 0 <= load_seconds <= LONGEST_LOAD:
        raise WrongInput(f"--load-seconds {load_seconds:g}; expected 0 to {LONGEST_LOAD:g}.")
    need_with(("floor",), stop_noise is not None or lines["cap"] is not None, "--stop-noise or --cap")
    if order != "passes" and (stop_noise is not None or lines["cap"] is not None):
        raise WrongInput(f"--order {order} with --stop-noise or --cap; expected --order passes with them.")
    need_with(("approximate_distance", "approximate_strength"), lines["approximate_after"] is not None, "--approximate-after")
    if not 1 <= scale <= 400:
        raise WrongInput(f"--scale {scale:g}; expected 1 to 400 percent.")
    part = None if forward is None else whole_numbers(forward, 2, "x", "--forward")
    width, height = scaled_size((width, height), scale)
    settings = Settings(
        width=width,
        height=height,
        samples=samples,
        seed=seed if seed is not None else max(0, int(frame)),
        crop=whole_numbers(crop, 4, ",", "--crop") if crop else None,  # type: ignore[arg-type]
        stop_noise=stop_noise,
        lamps=not chance_lamps,
        camera=Camera(pixel_aspect, part),  # type: ignore[arg-type]
        **lines,
    )
    chosen = find_scene(scene)
    began = time.perf_counter()
    time.sleep(load_seconds)
    starting = load_seconds + ready()

    def say(share: float, words: str) -> None:
        if tell:
            click.echo(f"progress {100 * share:.0f} %: {words}", err=True)

    rendered = render(chosen, frame, settings, say, CancelToken(), moment=Moment(history=history), order=order)
    written = time.perf_counter()
    write_picture(out, as_picture(rendered, frame, settings))
    report = {
        "file": str(out),
        "width": rendered.rgb.shape[1],
        "height": rendered.rgb.shape[0],
        "samples": round(float(rendered.counts.mean())),
        "load_seconds": rendered.load_seconds + starting,
        "cache_seconds": rendered.cache_seconds,
        "sample_seconds": rendered.sample_seconds,
        "write_seconds": time.perf_counter() - written,
        "seconds": time.perf_counter() - began,
    }
    if as_json:
        click.echo(json.dumps(report))
    else:
        click.echo(
            f"{out}  {report['width']}x{report['height']}, {report['samples']} samples: load {report['load_seconds']:.3f} s, "
            f"cache {report['cache_seconds']:.3f} s, sampling {report['sample_seconds']:.3f} s, write {report['write_seconds']:.3f} s"
        )


def main() -> None:
    """Entry point of `hasty-bench`."""
    if "render" in sys.argv[1:2] and "--help" not in sys.argv:
        prepare_saying(lambda words: click.echo(words, err=True))
    sys.exit(run(bench, None, "hasty-bench"))
