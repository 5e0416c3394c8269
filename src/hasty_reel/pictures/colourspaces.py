"""Colour of delivered files: what light is turned into, by the built-in ACES configuration or one of the artist's, and how files tag it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
import PyOpenColorIO as ocio

from hasty_reel.errors import WrongInput
from hasty_reel.pictures.colour import CONFIG, LINEAR, PLAIN, views

REC709 = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)
AP1 = (0.713, 0.293, 0.165, 0.830, 0.128, 0.044, 0.32168, 0.33767)
"""Chromaticities of red, green, blue and white: ITU-R BT.709-6, and ACES S-2014-004 (AP1 of ACEScg)."""
TONE = "ACES 2.0 - SDR 100 nits (Rec.709)"
BT709, SRGB_CURVE, GAMMA_24 = 1, 13, 1
"""Code points of ITU-T H.273: primaries and matrix of BT.709; transfer of sRGB; that of BT.709, shown by the curve of BT.1886."""


@dataclass(frozen=True)
class ColourOutput:
    """What the light of a frame is written as.

    name : on the screen; space : of scene-linear light, None for display codes; display, view : of display codes
    chromaticities : of the primaries and white, for files that tell them; transfer : code point of the curve, for films
    """

    name: str
    space: str | None = None
    display: str = ""
    view: str = ""
    chromaticities: tuple[float, ...] = REC709
    transfer: int = SRGB_CURVE

    @property
    def light(self) -> bool:
        """Whether it stays light, for grading."""
        return self.space is not None


OUTPUTS: tuple[ColourOutput, ...] = (
    ColourOutput("linear Rec. 709", LINEAR),
    ColourOutput("ACEScg", "ACEScg", chromaticities=AP1),
    ColourOutput("sRGB", None, "sRGB - Display", PLAIN),
    ColourOutput("sRGB, tone curve", None, "sRGB - Display", TONE),
    ColourOutput("Rec. 1886", None, "Rec.1886 Rec.709 - Display", PLAIN, transfer=GAMMA_24),
    ColourOutput("Rec. 1886, tone curve", None, "Rec.1886 Rec.709 - Display", TONE, transfer=GAMMA_24),
)


@lru_cache(maxsize=8)
def outputs_of(config: Path | None) -> tuple[ColourOutput, ...]:
    """Return what light can be written as.

    Parameters
    ----------
    config : an OpenColorIO configuration of the artist's, whose displays and views are added; None for the built-in one

    Raises
    ------
    WrongInput
        When the configuration cannot be read, or says nothing of how its light relates to that of other configurations.
    """
    if config is None:
        return OUTPUTS
    found = _read(config)
    more = tuple(
        ColourOutput(f"{display}: {view}", None, display, view) for display in found.getDisplays() for view in found.getViews(display)
    )
    return (*OUTPUTS[:2], *more)


def output_named(name: str, config: Path | None = None) -> ColourOutput:
    """Return what light is written as, by its name.

    Parameters
    ----------
    name : as on the screen
    config : an OpenColorIO configuration of the artist's; None for the built-in one

    Raises
    ------
    WrongInput
        When there is none of that name; lists those there are.
    """
    if config is None and name in views():  # a view of the display, by its own name
        return ColourOutput(name, None, "sRGB - Display", name)
    for output in outputs_of(config):
        if output.name.lower() == name.strip().lower():
            return output
    raise WrongInput(f"Colour '{name[:60]}'; expected one of: {'; '.join(o.name for o in outputs_of(config))}.")


@lru_cache(maxsize=32)
def _processor(output: ColourOutput, config: Path | None) -> ocio.CPUProcessor:
    built_in = ocio.Config.CreateFromBuiltinConfig(CONFIG)
    try:
        if output.space is not None:
            return built_in.getProcessor(LINEAR, output.space).getDefaultCPUProcessor()
        if config is None:
            view = ocio.DisplayViewTransform(src=LINEAR, display=output.display, view=output.view)
            return built_in.getProcessor(view).getDefaultCPUProcessor()
        theirs = _read(config)
        scene = theirs.getRoleColorSpace(ocio.ROLE_SCENE_LINEAR) or theirs.getColorSpace(ocio.ROLE_SCENE_LINEAR).getName()
        into = ocio.Config.GetProcessorFromConfigs(built_in, LINEAR, theirs, scene)
        shown = theirs.getProcessor(ocio.DisplayViewTransform(src=scene, display=output.display, view=output.view))
        both = ocio.GroupTransform([into.createGroupTransform(), shown.createGroupTransform()])
        return ocio.Config.CreateRaw().getProcessor(both).getDefaultCPUProcessor()
    except (ocio.Exception, AttributeError) as error:
        raise WrongInput(f"Colour '{output.name}': {' '.join(str(error).split())[:200]}") from error


def _read(config: Path) -> ocio.Config:
    try:
        found = ocio.Config.CreateFromFile(str(config))
        found.validate()
    except ocio.Exception as error:
        raise WrongInput(f"{config}: no colour configuration ({' '.join(str(error).split())[:160]}).") from error
    return found


def in_colour(rgb: np.ndarray, output: ColourOutput, config: Path | None = None) -> np.ndarray:
    """Return light as it is written: other light, or code values that are nominally 0 to 1 and not clipped.

    Parameters
    ----------
    rgb : (h, w, 3) float32, scene-linear light with the primaries of Rec. 709
    output : what it is written as
    config : an OpenColorIO configuration of the artist's; None for the built-in one

    Raises
    ------
    WrongInput
        When the configuration does not have it.
    """
    if rgb.shape[-1] != 3:
        raise WrongInput(f"A colour output takes three channels; got {rgb.shape[-1]}.")
    out = np.array(rgb, np.float32, order="C", copy=True)
    _processor(output, config).applyRGB(out)
    return out
