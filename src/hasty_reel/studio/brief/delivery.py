"""Edits of what is delivered: rate, timecode, size; what makes no sense is said, and nothing changes."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.measure.viewing import calm_words
from hasty_reel.reel.calm import Calm, Viewing
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits import keeping_aspect, swapped, with_calm, with_fields, with_rate, with_size
from hasty_reel.reel.rate import rate_text, read_rate, seconds_text, timecode
from hasty_reel.reel.size import Panorama, read_aspect, read_size
from hasty_reel.typednumbers import need_whole_number

if TYPE_CHECKING:
    from hasty_reel.studio.context import ShotContext


def film_words(reel: Reel) -> str:
    """Return how long the film is, in words.

    Parameters
    ----------
    reel : the reel

    Returns
    -------
    str
        Words.
    """
    length = reel.length
    return f"Film {length} frames · {seconds_text(length, reel.fps)} · {timecode(length, reel.fps, reel.drop_frame)}"


def drop_words(reel: Reel, may_drop: bool) -> str:
    """Return what drop-frame timecode does, or why there is none.

    Parameters
    ----------
    reel : the reel
    may_drop : whether its rate has it

    Returns
    -------
    str
        A sentence.
    """
    if may_drop:
        return "Leave labels out so that timecode keeps to the clock"
    return f"There is no drop-frame timecode at {rate_text(reel.fps)} fps; 29.97, 59.94 and 119.88 have it"


def aspect_text(reel: Reel) -> str:
    """Return the aspect of a pixel as it is written: '1', '64/45'.

    Parameters
    ----------
    reel : the reel

    Returns
    -------
    str
        Words.
    """
    aspect = Fraction(*reel.pixel_aspect)
    return f"{aspect.numerator}" if aspect.denominator == 1 else f"{aspect.numerator}/{aspect.denominator}"


def read_forward(text: str, now: Panorama | None) -> Panorama:
    """Read the part of a 360-degree picture that is rendered.

    Parameters
    ----------
    text : degrees across x degrees up, as typed
    now : as it is; None for a flat picture

    Returns
    -------
    Panorama
        The 360-degree settings typed so far.

    Raises
    ------
    WrongInput
        When it is not two numbers.
    """
    parts = text.lower().replace("°", "").replace("×", "x").split("x")
    try:
        width, height = (float(p) for p in parts)
    except ValueError as error:
        raise WrongInput(f"Forward part '{text[:40]}'; expected degrees across x degrees up, such as 90 x 90.") from error
    return msgspec.structs.replace(now or Panorama(), width=width, height=height)


class DeliveryModel:
    """Edits of rate, timecode and size.

    Parameters
    ----------
    session : the open reel
    """

    def __init__(self, session: ShotContext) -> None:
        self._do = session.do

    def type_rate(self, text: str) -> None:
        """Set the frame rate as it is typed.

        Parameters
        ----------
        text : frames a second
        """
        self._do("Set rate", lambda reel: with_rate(reel, read_rate(text)))

    def set_calm(self, calm: Calm) -> None:
        """Have the film as calm as that, where its shots do not say it otherwise.

        Parameters
        ----------
        calm : percent of viewers who may see unrest, or 'eyes'
        """
        self._do(f"Calm: {calm_words(calm)}", lambda reel: with_calm(reel, None, calm))

    def set_viewing(self, viewing: Viewing) -> None:
        """Have the film seen elsewhere.

        Parameters
        ----------
        viewing : where
        """
        self._do(f"Seen on: {viewing}", lambda reel: with_fields(reel, viewing=viewing))

    def type_start(self, text: str) -> None:
        """Set the start timecode of the film as it is typed.

        Parameters
        ----------
        text : timecode
        """
        self._do("Set start timecode", lambda reel: with_fields(reel, timecode_start=text))

    def set_drop_frame(self, on: bool) -> None:
        """Leave labels out of timecode so that it keeps to the clock, or not.

        Parameters
        ----------
        on : whether labels are left out
        """
        self._do("Set drop-frame", lambda reel: with_fields(reel, drop_frame=on))

    def set_size(self, width: int, height: int) -> None:
        """Set the delivered size.

        Parameters
        ----------
        width, height : in pixels
        """
        self._do("Set size", lambda reel: with_size(reel, width, height))

    def type_side(self, text: str, side: str) -> None:
        """Set one side of the delivered size as it is typed; a whole size or the name of a standard does too.

        Parameters
        ----------
        text : pixels, 'WxH' or a name
        side : 'width' or 'height'
        """

        def _change(reel: Reel) -> Reel:
            if not text.strip().isdigit():
                return with_size(reel, *read_size(text))
            value = need_whole_number(text, "Size")
            return with_size(reel, value, None) if side == "width" else with_size(reel, None, value)

        self._do("Set size", _change)

    def swap_sides(self) -> None:
        """Upright instead of level, or back."""
        self._do("Swap sides", swapped)

    def keep_aspect(self, on: bool) -> None:
        """Keep what the camera sees when one side is set, or not.

        Parameters
        ----------
        on : whether it is kept
        """
        self._do("Keep aspect", lambda reel: keeping_aspect(reel, on))

    def type_pixel_aspect(self, text: str) -> None:
        """Set the aspect of a pixel as it is typed.

        Parameters
        ----------
        text : width / height of a pixel
        """

        def _change(reel: Reel) -> Reel:
            aspect = read_aspect(text)
            return with_fields(reel, pixel_aspect=(aspect.numerator, aspect.denominator))

        self._do("Set pixel aspect", _change)

    def set_panorama(self, on: bool) -> None:
        """Deliver a 360-degree picture, or a flat one.

        Parameters
        ----------
        on : whether it is 360 degrees
        """
        self._do("360° picture" if on else "Flat picture", lambda reel: with_fields(reel, panorama=Panorama() if on else None))

    def type_forward(self, text: str) -> None:
        """Set the part of a 360-degree picture that is rendered as it is typed.

        Parameters
        ----------
        text : degrees across x degrees up
        """
        self._do("Set forward part", lambda reel: with_fields(reel, panorama=read_forward(text, reel.panorama)))
