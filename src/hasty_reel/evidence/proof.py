"""A proof on disk: a folder of pictures and a manifest that says how they were made.

The manifest `proof.json` is written after each finished frame, so a proof that
was stopped keeps what it has; a picture without an entry is not evidence.
"""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import msgspec

from hasty_reel.errors import HastyReelError, ReelError, reason
from hasty_reel.programs.ownsteps import OWN_STEPS
from hasty_reel.regularfile import read_regular
from hasty_reel.settings.recipe import Recipe
from hasty_reel.wholefile import write_whole

MANIFEST = "proof.json"
DENOISE = "denoise.json"
LARGEST_BYTES = 64 << 20
"""Bytes of a manifest; one with 100,000 pictures has 30 MB."""

RENDER_PARTS = ("load", "cache", "sample", "write")
"""Parts of the seconds of a rendered picture; the fields of `ProofPicture` are these with `_seconds`."""
SECONDS_FIELDS = tuple(f"{part}_seconds" for part in RENDER_PARTS)

CRAWLS = 0.63
"""Box averages of one-pixel grain at 24 frames a second leave this power of their noise to be seen (the closed integrals)."""

Positive = Annotated[float, msgspec.Meta(ge=0, le=1e9)]


class ProofPicture(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """One picture of a proof and the seconds of its parts.

    samples : a pixel, where pixels got different ones, else 0
    memory_bytes : the most its renderer took; 0 where it is not known
    cache_bytes : of a light cache; 0 where there is none or it is not known
    caches_made : light caches that `cache_seconds` computed; 0 where it is not known: one
    cpu_seconds : of processors, of the renderer's process; 0 where it is not known
    one_number : `sample_seconds` hold seconds that do not grow with pixels and samples, too: the renderer told one number
    history_seconds : of going through `history_frames` before it, in none of the others; 0 where there were none or it is not known
    """

    frame: int | float
    seed: int
    file: str
    load_seconds: Positive
    cache_seconds: Positive = 0.0
    sample_seconds: Positive
    write_seconds: Positive
    samples: Positive = 0.0
    memory_bytes: int = 0
    cache_bytes: int = 0
    caches_made: int = 0
    cpu_seconds: Positive = 0.0
    one_number: bool = False
    history_seconds: Positive = 0.0
    history_frames: int = 0


class Cropped(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """Where the pictures of a proof lie in the whole frame, whose pixels are as dense: the left and top pixel, and the frame's size."""

    left: Annotated[int, msgspec.Meta(ge=0, le=65536)]
    top: Annotated[int, msgspec.Meta(ge=0, le=65536)]
    frame_width: Annotated[int, msgspec.Meta(ge=1, le=65536)]
    frame_height: Annotated[int, msgspec.Meta(ge=1, le=65536)]


class Proof(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """Test frames rendered with a recipe.

    width, height : size rendered, in pixels
    samples : per pixel, of every picture
    offset : of the shot's frame numbers against the scene's when it was made
    draft : name of the draft cut it was made under; '' for none
    small : how many pixels a side one of its pictures, as they are kept, stands for; their noise was measured before
    scan : it is tiny and cheap, of many frames: it tells how the cost changes from frame to frame
    tiles : across and down, in which its frames were rendered; seconds before the first sample and memory are those of one
    yardstick : seconds of the yardstick on this machine around and within it; 0 where it was not taken
    yardstick_spread : standard deviation of the logarithm of the short ones it is the mean of; 0 where it was not taken
    parent : id of the proof it varies; sweep : name of the sweep it belongs to; '' for none
    crop : only a part of each frame was rendered: it tells what denoising does, and nothing of seconds and noise; None for whole frames
    """

    proof_format: int = 1
    id: str
    shot: str
    made: str
    recipe: Recipe
    width: Annotated[int, msgspec.Meta(ge=1, le=65536)]
    height: Annotated[int, msgspec.Meta(ge=1, le=65536)]
    samples: Annotated[int, msgspec.Meta(ge=1, le=1 << 20)]
    offset: int = 0
    draft: str = ""
    scan: bool = False
    yardstick: Positive = 0.0
    yardstick_spread: Positive = 0.0
    small: Annotated[int, msgspec.Meta(ge=1, le=64)] = 1
    tiles: Annotated[int, msgspec.Meta(ge=1, le=16)] = 1
    parent: str = ""
    sweep: str = ""
    crop: Cropped | None = None
    pictures: tuple[ProofPicture, ...] = ()

    @property
    def as_rendered(self) -> bool:
        """Whether its pictures are there as they were rendered: no scan, and not kept small."""
        return not self.scan and self.small == 1

    @property
    def whole(self) -> bool:
        """Whether its pictures are there as they were rendered, and show whole frames."""
        return self.as_rendered and self.crop is None

    @property
    def frame_size(self) -> tuple[int, int]:
        """Pixels of a whole frame, across and down."""
        return (self.width, self.height) if self.crop is None else (self.crop.frame_width, self.crop.frame_height)

    @property
    def size_words(self) -> str:
        """Size of its pictures: '240 × 135', or '256 × 144 of 960 × 540'."""
        words = f"{self.width} × {self.height}"
        return words if self.crop is None else f"{words} of {self.crop.frame_width} × {self.crop.frame_height}"

    def by_frame(self) -> dict[int | float, list[ProofPicture]]:
        """Return the pictures of each frame, by seed."""
        out: dict[int | float, list[ProofPicture]] = {}
        for picture in sorted(self.pictures, key=lambda p: (p.frame, p.seed)):
            out.setdefault(picture.frame, []).append(picture)
        return out


FILTER = 11
"""Goes up when denoising changes, or how its effect is measured: what another filter did says nothing of this one."""


class DenoiseEffect(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """What denoising over a window did on a proof run, measured.

    filter : number of the filter that was measured
    window : frames denoised over, 1 for none; despike : sparks were taken out first; thorough : with more care
    samples : of the run; 0 where it was not kept
    noise_ratio, flicker_ratio, seen_ratio : after / before; a seen ratio of 0 was not measured
    flicker_L : of the run as rendered, in L*; 0 where it was not kept
    seconds_per_pixel : of reading a frame with its guides, the filter and writing, per rendered pixel and frame
    resize_seconds_per_pixel : of resizing, per delivered pixel and frame
    noise_half, seen_half : as the ratios, of a picture that is half as rendered and half denoised; 0 was not measured
    detail : contrast of edges after / before, both without noise; 0 was not measured
    bias_L : root mean square of what denoising changed besides noise, in L*: ghosts and lost detail
    chain : where a whole chain was tried, its words as `finishorder.chain_words` gives them; then the ratios are to the frames
        resized alone, and the seconds are of all of it
    seconds_per_frame : of a whole chain, what every frame takes however small it is
    own : by name of the artist's own steps in it, the fingerprint of the command that was tried
    frame : in the middle of the run, as the proof numbers it; None where it was not kept
    width : of the run's pictures in pixels, as its proof says; 0 where there is none
    """

    filter: int = 1
    window: int
    despike: bool = False
    thorough: bool = False
    noise_ratio: Positive
    flicker_ratio: Positive
    seconds_per_pixel: Positive
    seen_ratio: Positive = 0.0
    samples: Positive = 0.0
    flicker_L: Positive = 0.0
    resize_seconds_per_pixel: Positive = 0.0
    noise_half: Positive = 0.0
    seen_half: Positive = 0.0
    detail: Positive = 0.0
    bias_L: Positive = 0.0
    chain: str = ""
    seconds_per_frame: Positive = 0.0
    own: dict[str, str] = {}
    frame: float | None = None
    width: int = 0

    @property
    def seen(self) -> float:
        """Seen flicker of the noise after / before; from the noise where it was not measured: what is left crawls, and is seen more."""
        return self.seen_ratio or self.noise_ratio**CRAWLS


def read_proof(folder: Path) -> Proof:
    """Read the manifest of a proof.

    Parameters
    ----------
    folder : of the proof

    Raises
    ------
    ReelError
        Names the file, the field and what was expected.
    """
    path = folder / MANIFEST
    try:
        proof = msgspec.json.decode(read_regular(path, LARGEST_BYTES, "the manifest of a proof", ReelError), type=Proof)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise ReelError(f"{path}: {error}.") from error
    for picture in proof.pictures:
        if Path(picture.file).name != picture.file:
            raise ReelError(f"{path}: picture '{picture.file}'; expected a file name in the proof's own folder.")
    return proof


def write_proof(folder: Path, proof: Proof) -> None:
    """Write the manifest of a proof, never half.

    Parameters
    ----------
    folder : of the proof
    proof : the proof
    """
    _write(folder / MANIFEST, msgspec.json.format(msgspec.json.encode(proof), indent=1))


def read_effects(folder: Path, outdated: bool = False) -> list[DenoiseEffect]:
    """Return what was measured of denoising on a proof; empty where nothing was, or of another filter than today's.

    Chains with a step of the artist's own count while its command is the one that was tried.

    Parameters
    ----------
    folder : of the proof
    outdated : with those of another filter
    """
    path = folder / DENOISE
    if not path.exists():
        return []
    try:
        found = msgspec.json.decode(read_regular(path, LARGEST_BYTES, "what denoising did", ReelError), type=list[DenoiseEffect])
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise ReelError(f"{path}: {error}.") from error
    found = [e for e in found if outdated or e.filter == FILTER]
    if any(e.own for e in found):
        try:
            now = {step.name: step.fingerprint for step in OWN_STEPS.read().items}
        except HastyReelError:
            now = {}  # told where they are edited; what was measured of them counts no more
        found = [e for e in found if all(now.get(name) == tried for name, tried in e.own.items())]
    return found


def write_effects(folder: Path, effects: list[DenoiseEffect]) -> None:
    """Keep what was measured of denoising beside the proof.

    Parameters
    ----------
    folder : of the proof
    effects : what denoising did, by window
    """
    _write(folder / DENOISE, msgspec.json.format(msgspec.json.encode(effects), indent=1))


def proof_folders(root: Path, shot: str) -> list[Path]:
    """Return the folders of a shot's finished or stopped proofs, oldest first.

    Parameters
    ----------
    root : folder of the proofs
    shot : id of the shot whose proofs they are
    """
    base = root / shot
    if not base.is_dir():
        return []
    return sorted(p for p in base.iterdir() if (p / MANIFEST).is_file())


def _write(path: Path, raw: bytes) -> None:
    try:
        write_whole(path, raw + b"\n", make=True)
    except OSError as error:
        raise ReelError(f"{path}: cannot be written ({reason(error)}).") from error
