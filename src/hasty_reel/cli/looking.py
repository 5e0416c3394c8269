"""Commands that look at frames: measure, causes."""

from __future__ import annotations

import click
import numpy as np

from hasty_reel.cli.answers import answer, clean, reel_group, say
from hasty_reel.errors import WrongInput
from hasty_reel.measure.causes import find_causes
from hasty_reel.measure.eyesight import WATCHERS, Watcher, eyes_of
from hasty_reel.measure.seen import Eyes, heights_of
from hasty_reel.measure.sequence import FrameMeasures, SequenceMeasures, measure_sequence
from hasty_reel.own.chosenlist import ChosenList
from hasty_reel.pictures.colour import views
from hasty_reel.pictures.footage import Footage
from hasty_reel.pictures.sequence import read_pattern
from hasty_reel.plan.compare.remedies import REMEDIES, remedy_words
from hasty_reel.reel.frames import read_frames, write_frames
from hasty_reel.reel.rate import read_rate
from hasty_reel.viewers import impairment, loss_of, seen_words, share_of_viewers

COLUMNS = (("mean L*", "mean_L", "{:.2f}"), ("noise L*", "noise_L", "{:.2f}"), ("flicker L*", "flicker_L", "{:.2f}"),
           ("seen JND", "seen_flicker", "{:.2f}"), ("noise JND", "seen_noise", "{:.2f}"),
           ("sparks", "sparks", "{:.0f}"), ("sharpness", "sharpness", "{:.2f}"))  # fmt: skip


@reel_group.command(help="Measure a sequence: lightness, noise, flicker along the motion, what is seen of it, sparks, sharpness.")
@click.argument("pattern")
@click.option("--pair", default=None, help="The same frames rendered with another seed: noise is measured, not estimated.")
@click.option("--guides", default=None, help="The frames these were made of, with their vectors; default: those of a run lie beside.")
@click.option("--frames", default=None, help="Frame set; default: all that are there.")
@click.option("--view", default=None, help="Display view of the colour configuration; default: no tone curve.")
@click.option("--fps", default="24", show_default=True)
@click.option(
    "--heights",
    type=float,
    default=None,
    help="Viewing distance in heights of a picture that fills the screen; default: as in the eye test that counts, else a monitor three "
    "heights away, on which fewer than 1080 rows are seen in a window.",
)
@click.option("--distance", type=float, default=None, help="The same in cm, with --screen.")
@click.option("--screen", type=float, default=None, help="Height of the picture on the screen in cm, with --distance.")
@click.option("--information", is_flag=True, help="Spatial and temporal information (ITU-T P.910) too.")
@click.option("--json", "as_json", is_flag=True)
def measure(
    pattern: str, pair: str | None, guides: str | None, frames: str | None, view: str | None, fps: str, heights: float | None,
    distance: float | None, screen: float | None, information: bool, as_json: bool,
) -> int:  # fmt: skip
    footage = Footage(read_pattern(pattern), guides=None if guides is None else read_pattern(guides))
    wanted, missing = _wanted(footage, frames)
    _known_view(view)
    other = Footage(read_pattern(pair)) if pair else None
    if other is not None:
        _ = other.frames
    own = WATCHERS.read()
    heights = _heights(heights, distance, screen)
    eyes = eyes_of(own) if heights is None else Eyes(heights, eyes_of(own).limit, fills=True)
    found = measure_sequence(
        wanted,
        footage.read,
        None if other is None else other.read,
        view,
        eyes,
        float(read_rate(fps)),
        information=information,
    )
    if missing:
        say(f"{footage.pattern}: frames {write_frames(missing)} are not there.")
    for words in found.words():
        say(words)
    document = _document(found, information) | {"eyes": {"heights": eyes.heights, "limit": eyes.limit}}
    answer(as_json, document, [*_table(found, information), _seen_by(own, eyes)])
    return 1 if missing else 0


@reel_group.command(help="The causes of unrest in a sequence: what it is, where, and what helps.")
@click.argument("pattern")
@click.option("--frames", default=None, help="Frame set; default: all that are there.")
@click.option("--view", default=None, help="Display view of the colour configuration; default: no tone curve.")
@click.option("--json", "as_json", is_flag=True)
def causes(pattern: str, frames: str | None, view: str | None, as_json: bool) -> int:
    footage = Footage(read_pattern(pattern))
    wanted, missing = _wanted(footage, frames)
    _known_view(view)
    found = find_causes(wanted, footage.read, view)
    if missing:
        say(f"{footage.pattern}: frames {write_frames(missing)} are not there.")
    for words in found.words():
        say(words)
    document = {
        "causes": [
            {
                "cause": c.name,
                "score": c.score,
                "frames": write_frames(c.frames) if c.frames else "",
                "region": list(c.region),
                "helps": [r.words for r in REMEDIES[c.name]],
                "why": c.trace.note,
            }
            for c in found.causes
        ]
    }
    table = []
    for c in found.heard:
        x, y, w, h = c.region
        table.append(f"{c.score:4.2f}  {c.words:<15} frames {write_frames(c.frames)}, {w}x{h} pixels at {x},{y}")
        table.append(f"      {c.trace.note} Helps: {remedy_words(c.name)}.")
    answer(as_json, document, table or ["Nothing that is seen to be restless."])
    return 1 if missing else 0


def _wanted(footage: Footage, frames: str | None) -> tuple[list[int], list[int]]:
    """The frames to look at, and those asked for that are not there."""
    if words := footage.pattern.padding_words():
        say(words)
    there = footage.frames
    if frames is None:
        return there, []
    asked = sorted(set(read_frames(frames)))
    found = sorted(set(asked) & set(there))
    if not found:
        raise WrongInput(f"{footage.pattern}: none of the frames {frames} is there; it has {write_frames(there)}.")
    return found, sorted(set(asked) - set(found))


def _heights(heights: float | None, distance: float | None, screen: float | None) -> float | None:
    """The viewing distance in picture heights, as it was given; None: it was not."""
    if (distance is None) != (screen is None):
        raise WrongInput("--distance and --screen go together; expected both in cm.")
    if distance is not None and screen is not None:
        if heights is not None:
            raise WrongInput("--heights and --distance both tell how far the picture is; expected one of them.")
        if not (distance > 0 and screen > 0):
            raise WrongInput(f"--distance {distance:g} and --screen {screen:g}; expected numbers above 0, in cm.")
        heights = heights_of(distance, screen)
    if heights is not None and not 0.5 <= heights <= 50:
        raise WrongInput(f"--heights {heights:g}; expected 0.5 to 50 picture heights.")
    return heights


def _seen_by(own: ChosenList[Watcher], eyes: Eyes) -> str:
    who = own.choice.name if own.choice is not None else "the standard observer"
    return f"Seen by {who} from {eyes.limit:.2g} JND on, at {eyes.heights:.3g} picture heights"


def _known_view(view: str | None) -> None:
    if view is not None and view not in views():
        raise WrongInput(f"No view '{view}'; expected one of: {', '.join(views())}.")


def _document(found: SequenceMeasures, information: bool) -> dict:
    def row(f: FrameMeasures) -> dict:
        out = {"frame": f.frame, **{name: clean(getattr(f, name)) for _, name, _ in COLUMNS}, "sparks": f.sparks}
        if information:
            out |= {"spatial_information": clean(f.spatial), "temporal_information": clean(f.temporal)}
        return out

    return {
        "frames": [row(f) for f in found.frames],
        "sequence": {
            "noise_L": clean(found.noise_L),
            "flicker_L": clean(found.flicker_L),
            "seen_flicker": clean(found.seen_flicker),
            **_of_viewers(found.seen_flicker),
            "seen_noise": clean(found.seen_noise),
            **{f"noise_{name}": value for name, value in _of_viewers(found.seen_noise).items()},
            "sparks_per_megapixel": clean(found.sparks_per_megapixel),
            "sharpness": clean(found.sharpness),
            "percent_flicker": clean(found.percent_flicker),
            "flicker_index": clean(found.flicker_index),
            "noise_from": "two seeds" if found.two_seeds else "one picture, estimated",
            "motion_from": "vectors" if found.report.with_vectors else "optical flow",
        },
    }


def _of_viewers(seen: float) -> dict:
    """What unrest means to viewers; None for all of it where it is not known."""
    loss = loss_of(seen) if np.isfinite(seen) else None
    return {
        "loss_jod": loss,
        "viewers": None if loss is None else share_of_viewers(loss),
        "impairment": None if loss is None else impairment(loss),
    }


def _table(found: SequenceMeasures, information: bool) -> list[str]:
    columns = [*COLUMNS, *((("SI", "spatial", "{:.1f}"), ("TI", "temporal", "{:.1f}")) if information else ())]
    lines = ["frame  " + "  ".join(f"{head:>10}" for head, _, _ in columns)]
    for f in found.frames:
        lines.append(f"{f.frame:>5}  " + "  ".join(f"{_number(getattr(f, name), form):>10}" for _, name, form in columns))
    estimated = "" if found.two_seeds else " (estimated)"
    lines.append(
        f"Sequence: noise {_number(found.noise_L, '{:.2f}')} L*{estimated}, flicker {_number(found.flicker_L, '{:.2f}')} L*, "
        f"{_number(found.seen_flicker, '{:.2f}')} JND, {seen_words(found.seen_flicker)}; {found.sparks_per_megapixel:.0f} sparks a Mpixel"
    )
    if found.two_seeds:
        lines.append(
            f"Of the noise alone, which two seeds tell apart: {_number(found.seen_noise, '{:.2f}')} JND, {seen_words(found.seen_noise)}. "
            "That is what plans promise; the other figure holds ghosts, shimmer and light that changes, too."
        )
    if found.short_words:
        lines.append(found.short_words)
    return lines


def _number(value: float, form: str) -> str:
    return form.format(value) if value == value else "–"
