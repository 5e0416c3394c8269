"""What finishing does to each frame: its steps in their order, and how many frames they look at."""

from __future__ import annotations

from collections.abc import Container, Iterable, Sequence
from dataclasses import dataclass

from hasty_reel.errors import WrongInput
from hasty_reel.finish.denoise import Denoising
from hasty_reel.programs.ownsteps import OwnStep
from hasty_reel.reel.resolved import ResolvedRecipe
from hasty_reel.settings.finishorder import DENOISE, DESPIKE, RESIZE, SHARPEN, USUAL, checked_order, own_names
from hasty_reel.settings.recipe import DENOISE_WINDOWS

FINISH = "hr:finish"
"""Attribute of a finished picture: what was done to it."""


@dataclass(frozen=True)
class Chain:
    """What is done to each frame.

    window : frames denoised over, odd; 1 is off. size : delivered width and height; None keeps the size
    per_frame : denoise each frame by itself (for stills; in motion it boils)
    thorough : denoise with more care, in up to twice the seconds
    strength : share of the denoised picture in the result, 0 to 1; the rest is as rendered
    sharpen : share of the detail of a pixel's width that is added, 0 for none; 0.1 after enlarging (common practice, no source)
    order : names of the steps; own : those of the artist's own that stand in it
    loop : first and last frame of a sequence that goes on with its first frame after its last one; None where it ends
    """

    window: int = 1
    size: tuple[int, int] | None = None
    despike: bool = False
    per_frame: bool = False
    thorough: bool = True
    strength: float = 1.0
    sharpen: float = 0.0
    order: tuple[str, ...] = USUAL
    own: tuple[OwnStep, ...] = ()
    loop: tuple[int, int] | None = None

    @classmethod
    def of(cls, resolved: ResolvedRecipe, size: tuple[int, int] | None, own: Sequence[OwnStep]) -> Chain:
        """Return what a recipe asks for.

        Parameters
        ----------
        resolved : recipe of the shot
        size : delivered width and height; None where nothing is resized
        own : the artist's own steps that the recipe names

        Returns
        -------
        Chain
            Chain
        """
        return cls(
            window=resolved.window,
            size=size,
            despike=resolved.despike,
            thorough=resolved.thorough,
            strength=resolved.strength,
            sharpen=resolved.recipe.sharpen,
            order=resolved.recipe.finish_order,
            own=tuple(own),
            loop=resolved.loop,
        )

    def checked(self) -> Chain:
        """This chain, if it makes sense.

        Raises
        ------
        WrongInput
            Names what is out of bounds.
        """
        if self.window not in (1, *DENOISE_WINDOWS):
            raise WrongInput(f"Denoise over time: window is {self.window}; expected 1, 3, 5, 7, 9 or 11 frames.")
        if not 0 <= self.strength <= 1:
            raise WrongInput(f"Denoise: strength {100 * self.strength:g} %; expected 0 to 100 %.")
        if not 0 <= self.sharpen <= 2:
            raise WrongInput(f"Sharpen: {self.sharpen:g}; expected 0 to 2.")
        if self.size is not None and not all(1 <= side <= 16384 for side in self.size):
            raise WrongInput(f"Size {self.size[0]}x{self.size[1]}; expected 1 to 16384 pixels a side.")
        checked_order(self.order, "Finish")
        lacking = set(own_names(self.order)) - {step.name for step in self.own}
        if lacking:
            raise WrongInput(f"Finish: own step '{sorted(lacking)[0][:60]}' has no command; expected one that is kept on this machine.")
        return self

    @property
    def reach(self) -> int:
        """How many frames before and after a frame it looks at: despiking looks one further, to see what they contradict."""
        return self.denoising.needs + (1 if self.despike else 0)

    @property
    def loops(self) -> bool:
        """Whether anything it does looks beyond the ends of a loop."""
        return self.loop is not None and (self.despike or (self.denoises and self.window > 1))

    @property
    def denoising(self) -> Denoising:
        """How frames are denoised."""
        return Denoising(self.window // 2, self.thorough)

    @property
    def denoises(self) -> bool:
        """Whether frames are denoised at all."""
        return (self.window > 1 or self.per_frame) and self.strength > 0

    @property
    def steps(self) -> tuple[str, ...]:
        """Names of the steps that do anything, in their order."""
        done = {DESPIKE: self.despike, DENOISE: self.denoises, RESIZE: self.size is not None, SHARPEN: self.sharpen > 0}
        return tuple(name for name in self.order if done.get(name, True))

    @property
    def on_folders(self) -> bool:
        """Whether a step of the artist's own takes a folder with all frames, so that no frame can be finished by itself."""
        return any(step.folder for step in self.own if step.name in self.order)

    @property
    def words(self) -> str:
        """What it does, for the head of the pictures.

        Examples
        --------
        >>> Chain(window=5, despike=True, sharpen=0.1, size=(1920, 1080)).words
        'despike > denoise 5 100 % > resize 1920x1080 > sharpen 0.1'
        """
        over = "each frame" if self.per_frame and self.window == 1 else f"{self.window}"
        told = {DENOISE: f"denoise {over}{'' if self.thorough else ' quick'} {100 * self.strength:g} %"}
        told[SHARPEN] = f"sharpen {self.sharpen:g}"
        if self.size is not None:
            told[RESIZE] = f"resize {self.size[0]}x{self.size[1]}"
        own = {step.name: f"{step.name} ({step.fingerprint})" for step in self.own}
        return " > ".join(told.get(name, own.get(name, name)) for name in self.steps) + (" in a loop" if self.loops else "")

    def needed(self, frame: int, frames: Container[int]) -> list[int]:
        """Return the frames of a shot that must be there before this one can be finished: motion leads over no gap between them.

        Parameters
        ----------
        frame : that is to be finished
        frames : of the shot
        """
        before, after, reach = frame, frame, self.reach
        if self.loop is not None:  # no frame stands on both sides
            reach = min(reach, (self.loop[1] - self.loop[0]) // 2)
        while before > frame - reach and self.actual(before - 1) in frames:
            before -= 1
        while after < frame + reach and self.actual(after + 1) in frames:
            after += 1
        return [self.actual(k) for k in range(before, after + 1)]

    def actual(self, frame: int) -> int:
        """Return the frame that stands at a place before the first or after the last frame of a loop; the frame itself elsewhere.

        Parameters
        ----------
        frame : a place, as the shot numbers it
        """
        if self.loop is None:
            return frame
        first, last = self.loop
        return first + (frame - first) % (last - first + 1)

    def near(self, frame: int) -> set[int]:
        """Return the frames that look at a frame.

        Parameters
        ----------
        frame : its number
        """
        return {self.actual(k) for k in range(frame - self.reach, frame + self.reach + 1)}

    def places(self, frame: int, neighbours: Iterable[int]) -> list[int]:
        """Return the places of neighbours of a frame, in order: in a loop they go on beyond its ends.

        Parameters
        ----------
        frame : its number
        neighbours : of it, as `needed` gives them
        """
        if self.loop is None:
            return sorted(neighbours)
        length = self.loop[1] - self.loop[0] + 1
        return sorted(n + length * round((frame - n) / length) for n in neighbours)

    def parts(self) -> list[Chain | OwnStep]:
        """Return chains that stream, and between them the steps on folders; the last one streams, and may do nothing."""
        if not self.on_folders:
            return [self]
        out: list[Chain | OwnStep] = []
        own = {step.name: step for step in self.own}
        so_far: list[str] = []
        for name in self.steps:
            if name in own and own[name].folder:
                out.extend(self._only(so_far))
                out.append(own[name])
                so_far = []
            else:
                so_far.append(name)
        return [*out, *(self._only(so_far) or [Chain()])]

    def _only(self, names: Sequence[str]) -> list[Chain]:
        """A chain of these steps alone; none of no steps."""
        if not names:
            return []
        return [
            Chain(
                window=self.window if DENOISE in names else 1,
                size=self.size if RESIZE in names else None,
                despike=DESPIKE in names,
                per_frame=self.per_frame and DENOISE in names,
                thorough=self.thorough,
                strength=self.strength,
                sharpen=self.sharpen if SHARPEN in names else 0.0,
                order=tuple(name for name in self.order if name in USUAL or name in names),
                own=tuple(step for step in self.own if step.name in names),
                loop=self.loop,
            )
        ]
