"""Denoising over time and space.

1. Sparks are spread over their surroundings; their light is kept.
2. A pilot: each frame averaged with the frames beside it where geometry allows, then filtered over space. Its noise is
   told by what the frames beside leave of it, so that a clean sequence is taken for clean.
3. The frames of the window gathered along the motion, each fetched once, as far as their pilots agree within the noise. Where that lies
   further from the frame's own light than noise explains, it is given up again (`lag`).
4. What time leaves is filtered over space, steered by the variance that is left.
5. With and without the albedo divided out, and not filtered at all: mixed by the error that each is estimated to have.
6. Results averaged with those of the frames beside, as far as they agree: what crawls is left behind.
7. Where light does not follow the vectors (`misled`) it follows motion found in the pictures: what is seen through glass moves otherwise.

Where there are no guides, light alone decides, and motion is found in pictures that were filtered by themselves.
"""

from __future__ import annotations

from collections.abc import Callable, Container, Iterator
from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np

from hasty_reel.finish.alone import alone, lightness_alone
from hasty_reel.finish.atrous import Lit, atrous_together
from hasty_reel.finish.gather import Mean, Way, add_candidate, add_frame, divide, ways
from hasty_reel.finish.lag import share_of_lag, without_lag
from hasty_reel.finish.misled import MisledPlaces
from hasty_reel.finish.noise import NEAR, albedo_noise, noise_of, unevenness
from hasty_reel.finish.shelf import Shelf
from hasty_reel.finish.sparkspread import TIMES, TIMES_ALONE, spread_sparks
from hasty_reel.finish.steps import Step, against, step_between
from hasty_reel.finish.surfaces import Surfaces, surfaces_of
from hasty_reel.image.luminance import luminance
from hasty_reel.measure.flow import optical_flow
from hasty_reel.pictures.frame import Picture

BEYOND = 3
"""Frames beyond the window that are looked at: for the pilots at its ends, for their sparks, and by which motion that was found proves
itself; one more for the results beside. With fewer a frame would come out otherwise where a run goes on where it stopped."""
PILOT = 14.0
"""Standard deviations apart at which light still agrees for the better part, in the pilot."""
FINAL, FINAL_QUICK, FINAL_ALONE = (3.0, 6.0), (4.5,), (3.0, 6.0)
"""The same in the results that are mixed: little, where there is detail, and more; of a frame by itself, too."""
KEEPS = np.float32(0.5)
"""Power of the frames that a pixel is worth after time, by which light may differ more in the last filter: else it would grow weaker as
the variance falls, and give back part of what time gained. Eight frames: 1.7 times as many deviations."""
AGREE, AGREE_UNGUIDED = np.float32(1.0), np.float32(6.0)
"""Variances of a pixel that a squared difference of pilots may be; of frames beside by themselves, where there are no guides."""
ALBEDO_COUNTS = np.float32(1.0)
"""How much of the noise of the albedo itself counts against dividing it out."""
LEAST_ERROR = np.float32(0.2)
"""Share of its variance that an estimated error is at least: the estimate may come out below nothing."""
SETTLED = np.float32(0.5)
"""Share of a pixel's variance by which results of frames beside may differ."""
_NONE = np.zeros((1, 1), np.float32)


@dataclass(frozen=True)
class Denoising:
    """How frames are denoised.

    reach : frames before and after that are averaged; 0 denoises each by itself
    thorough : also with the albedo divided out, filtered twice as it ends, results averaged with those beside: up to twice the seconds
    """

    reach: int = 2
    thorough: bool = True

    @property
    def needs(self) -> int:
        """Frames before and after that are looked at."""
        return 0 if self.reach == 0 else self.reach + BEYOND + (1 if self.thorough else 0)


def _seen(light: np.ndarray) -> np.ndarray:
    return np.ascontiguousarray(luminance(light), np.float32)


class Denoiser:
    """Denoises frames one after another; keeps what the next ones need.

    Parameters
    ----------
    how : reach and effort
    picture : gives the picture of a frame
    shelf : keeps what the next frames need; None for one of its own, without a limit
    """

    def __init__(self, how: Denoising, picture: Callable[[int], Picture], shelf: Shelf | None = None) -> None:
        self.how = how
        self._picture = picture
        self._reach = how.reach
        self._shelf = Shelf() if shelf is None else shelf
        self._shape = (0, 0)
        self._frames: Container[int] = ()
        self._misled = MisledPlaces(picture)

    def denoise(self, frame: int, frames: Container[int], reach: int | None = None) -> np.ndarray:
        """Return a frame, denoised, (h, w, 3) float32.

        Parameters
        ----------
        frame : its number
        frames : that there are, this one among them
        reach : frames before and after that are averaged, at most those it was made for; None for these
        """
        self._frames = frames
        self._reach = self.how.reach if reach is None else reach
        self._shape = self._picture(frame).rgb.shape[:2]
        for key in [k for k in self._shelf.kept if k[0] == id(self) and abs(k[2] - frame) > self.how.needs]:
            self._shelf.drop(key)
        return self._settled(frame) if self.how.thorough else self._mixed(frame, self._reach)

    # -- of a frame: kept while it is within reach

    def _memo(self, act: Callable, *of):
        return self._shelf.get((id(self), act.__name__, *of), lambda: act(*of))

    def _surfaces(self, k: int) -> Surfaces:
        return surfaces_of(self._picture(k))

    def _motion(self, k: int) -> tuple[np.ndarray | None, np.ndarray | None]:
        """Motion from a frame to the next one, None where nothing moves; and where it was found in the pictures, None for nowhere."""
        if self._picture(k).vectors is None:  # in both pictures, each filtered by itself
            flow = optical_flow(self._memo(self._calm, k), self._memo(self._calm, k + 1))
            return flow, None
        moves, found = self._misled.moves(k, self._frames)
        return (moves if moves.any() else None), found

    def _calm(self, k: int) -> np.ndarray:
        return lightness_alone(self._picture(k).rgb)

    def _steps(self, k: int) -> tuple[Step, Step]:
        """From a frame to the next one, and back."""
        here, there = self._memo(self._surfaces, k), self._memo(self._surfaces, k + 1)
        shape = self._shape
        moves, found = self._motion(k)
        if self._picture(k).vectors is None:
            found = np.ones(shape, np.bool_)
        back = None if moves is None else against(moves)
        return step_between(here, there, moves, back, found, shape), step_between(there, here, back, moves, found, shape)

    def _step(self, k: int, way: int) -> Step:
        """From a frame to the one beside."""
        return self._memo(self._steps, min(k, k + way))[0 if way > 0 else 1]

    def _light(self, k: int, plain: bool) -> np.ndarray:
        """Light of a frame without sparks, and without its texture where it is divided out."""
        if not plain:
            return np.ascontiguousarray(self._memo(self._light, k, True) / self._memo(self._surfaces, k).albedo)
        beside = []
        for n, x, y, _ in self._along(k, 1):
            near = cv2.blur(_seen(self._picture(n).rgb), (3, 3))
            beside.append(cv2.remap(near, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))
        return spread_sparks(self._picture(k).rgb, beside, TIMES if self.how.reach else TIMES_ALONE)

    def _along(self, k: int, reach: int) -> Iterator[Way]:
        """Ways to the frames before and after."""
        frames = self._frames if self.how.reach else ()
        return ways(k, reach, frames, self._step, self._shape)

    def _alone(self, k: int) -> np.ndarray:
        """Luminance of a frame filtered by itself, where no guides tell which light may be averaged."""
        return alone(self._memo(self._light, k, True), 3, self._memo(self._uneven, k))

    def _uneven(self, k: int) -> np.ndarray:
        return unevenness(_seen(self._memo(self._light, k, True)))

    def _first(self, k: int, lights: tuple[bool, ...]) -> list[tuple[Mean, np.ndarray]]:
        """A frame averaged with those beside it, where geometry allows, and the variance of a pixel of its light.

        Without guides they count as far as both, filtered by themselves, agree.
        """

        def unguided(n: int, plain: bool) -> tuple[np.ndarray, np.ndarray]:
            return self._memo(self._alone, n), self._memo(self._uneven, n)

        guided, light = self._memo(self._surfaces, k).known, partial(self._memo, self._light)
        out = []
        for plain, mean in zip(lights, self._gathered(k, 1, lights, light, None if guided else unguided, AGREE_UNGUIDED)):
            own = light(k, plain)
            lum = _seen(own)
            uneven = unevenness(lum)
            noise = noise_of(lum, uneven, _seen(mean.light), mean.weights)
            out.append((mean if guided else without_lag(mean, own, noise), noise))
        return out

    def _pilots(self, k: int) -> list[tuple[np.ndarray, np.ndarray]]:
        """Luminance of a frame's pilot, and the variance of a pixel of its light: as it is, and with the albedo divided out."""
        surfaces = self._memo(self._surfaces, k)
        both = self._plainly(surfaces)
        first = self._first(k, both)
        filtered = atrous_together([Lit(mean.light, noise / mean.worth, PILOT) for mean, noise in first], surfaces)
        out = []
        for plain, (_, noise), (calm, _) in zip(both, first, filtered):
            lum = _seen(calm)
            residual = cv2.blur((_seen(self._memo(self._light, k, plain)) - lum) ** 2, NEAR)
            out.append((lum, np.ascontiguousarray(np.minimum(noise, residual))))
        surfaces.forget_span()
        return out

    def _pilot(self, k: int, plain: bool) -> tuple[np.ndarray, np.ndarray]:
        return self._memo(self._pilots, k)[0 if plain else 1]

    def _plainly(self, surfaces: Surfaces) -> tuple[bool, ...]:
        """Whether light is taken as it is, and whether also with the albedo divided out."""
        return (True, False) if self.how.thorough and surfaces.known else (True,)

    def _gathered(self, k: int, reach: int, lights: tuple[bool, ...], light, judged, agree) -> list[Mean]:
        """Lights of a frame, as it is or without its albedo, averaged with those of others; `judged` gives pilots that must agree."""
        sums = [(light(k, plain).copy(), *np.ones((2, *self._shape), np.float32)) for plain in lights]
        for n, x, y, trust in self._along(k, reach):
            strict = self._step(k, 1 if n > k else -1).strict
            for plain, (total, weights, squares) in zip(lights, sums):
                here, there = (judged(k, plain), judged(n, plain)) if judged else ((_NONE, _NONE), (_NONE, _NONE))
                add_frame(
                    total, weights, squares, x, y, trust, light(n, plain), strict, there[0], here[0], there[1], here[1],
                    agree if judged else np.float32(0.0),
                )  # fmt: skip
        for total, weights, _ in sums:
            divide(total, weights)
        return [Mean(total, weights, weights * weights / squares) for total, weights, squares in sums]

    # -- the result

    def _over_time(self, k: int, reach: int) -> list[tuple[Mean, np.ndarray]]:
        """Lights gathered over the window, and the variance that is left of their luminance."""
        both = self._plainly(self._memo(self._surfaces, k))
        light = partial(self._memo, self._light)
        out = []
        for plain, mean in zip(both, self._gathered(k, reach, both, light, self._pilot, AGREE)):
            noise = self._pilot(k, plain)[1]
            mean = without_lag(mean, light(k, plain), noise)
            out.append((mean, noise / mean.worth))
        return out

    def _settled(self, k: int) -> np.ndarray:
        """The result averaged with those of the frames beside."""

        def mixed(n: int, plain: bool) -> np.ndarray:
            return self._memo(self._mixed, n, self._reach)

        def judged(n: int, plain: bool) -> tuple[np.ndarray, np.ndarray]:
            return _seen(mixed(n, plain)), self._pilot(n, plain)[1] * SETTLED

        settled, own = self._gathered(k, 1, (True,), mixed, judged, AGREE)[0].light, mixed(k, True)
        lag = share_of_lag(settled, self._memo(self._light, k, True), self._pilot(k, True)[1])
        return settled + lag[..., None] * (own - settled)

    def _mixed(self, k: int, reach: int) -> np.ndarray:
        """Candidates weighed by their estimated error: filtered light, the same with the albedo divided out, and light as time left it."""
        surfaces = self._memo(self._surfaces, k)
        strengths = FINAL_ALONE if reach == 0 else FINAL if self.how.thorough else FINAL_QUICK
        both = self._plainly(surfaces)
        over_time = self._over_time(k, reach)
        lights = [Lit(mean.light, left * mean.worth**KEEPS, strength) for mean, left in over_time for strength in strengths]
        filtered = iter(atrous_together(lights, surfaces))
        del lights
        uneven_albedo = ALBEDO_COUNTS * self._albedo_noise(k) if len(both) > 1 else np.float32(0.0)
        total, whole = np.zeros_like(over_time[0][0].light), np.zeros_like(over_time[0][1])
        for plain, (mean, spread) in zip(both, over_time):
            light = mean.light
            if not plain:
                light, spread = light * surfaces.albedo, spread * luminance(surfaces.albedo) ** 2
            least, before = LEAST_ERROR * cv2.blur(spread, NEAR), _seen(light)
            for _strength in strengths:
                calm, centre = next(filtered)
                if not plain:
                    calm *= surfaces.albedo
                seen = _seen(calm)
                error = cv2.blur(np.asarray((seen - before) ** 2 + (2.0 * centre - 1.0) * spread, np.float32), NEAR)
                if not plain:
                    error = error + uneven_albedo * cv2.blur(seen**2, NEAR)
                add_candidate(total, whole, calm, np.maximum(error, least))
            if plain:
                add_candidate(total, whole, light, cv2.blur(spread, NEAR))
        surfaces.forget_span()
        divide(total, whole)
        return np.maximum(total, np.float32(0.0), out=total)

    def _albedo_noise(self, k: int) -> np.ndarray:
        """Variance of the luminance of the albedo, relative to its square."""
        albedo = self._memo(self._surfaces, k).albedo
        mean = self._gathered(k, 1, (False,), lambda n, plain: self._memo(self._surfaces, n).albedo, None, None)[0]
        return albedo_noise(_seen(albedo), _seen(mean.light), mean.weights)
