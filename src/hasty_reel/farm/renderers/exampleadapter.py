"""The example of an adapter that ships, and that `docs/renderers.md` prints: it wraps a renderer that only knows a command line."""

EXAMPLE = '''"""Keeps my-renderer at hand: a program that knows only a command line, and prints 'took 3.2 seconds' at its end."""

import re
import sys

try:
    import link
except ImportError:
    from hasty_reel import link

PROGRAM = sys.argv[1:] or ["my-renderer"]


@link.scene
def load(name):
    """Nothing stays loaded in a program that is started for each frame: there is nothing to do."""


@link.frame
def render(job):
    settings = job.settings
    printed = job.start(
        PROGRAM
        + ["--scene", job.scene, "--frame", f"{job.frame:g}", "--size", f"{job.width}x{job.height}"]
        + ["--samples", str(job.samples), "--seed", str(job.seed), "--crop", ",".join(map(str, job.crop))]
        + ["--bounces", f"{settings['bounces']:g}", "--angle", f"{settings['angle']:g}"]
        + ["--ceiling", f"{settings['ceiling']:g}", "--out", job.output]
    )
    took = re.search(r"took ([0-9.]+) seconds", printed)
    return {"seconds": {"sample": float(took.group(1))} if took else {}, "samples": job.samples}


if __name__ == "__main__":
    link.serve(name="My renderer", can=["crop", "guides"])
'''
