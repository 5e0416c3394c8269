"""A time that is given to proofs, offered or typed."""

from __future__ import annotations

from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.errors import WrongInput
from hasty_reel.farm.provewithin import LEAST, MOST
from hasty_reel.reel.durations import read_duration, spoken

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


def read_given(text: str, what: str) -> float:
    """Return seconds that are given to something; a number alone is minutes.

    Parameters
    ----------
    text : 2 min, 90 s, 1 h
    what : names it in the message

    Raises
    ------
    WrongInput
        When it is no time of ten seconds to a day.
    """
    text = text.strip()
    try:
        seconds = read_duration(f"{text} min" if text.replace(".", "", 1).isdigit() else text, what)
    except WrongInput:
        seconds = 0.0  # said below, with what was expected
    if not LEAST <= seconds <= MOST:
        raise WrongInput(f"{what}: '{text[:40]}'; expected {spoken(LEAST)} to {MOST / 3600:g} h, as in 2 min.")
    return seconds


class GivenTime:
    """What may take so long. changed() : the time is another, or what it is given to.

    seconds : that are given

    Parameters
    ----------
    session : the open reel
    seconds : at first
    what : names it in messages
    """

    changed = Signal()

    def __init__(self, session: Session, seconds: float, what: str) -> None:
        self._session = session
        self.seconds = seconds
        self._what = what

    def type_time(self, text: str) -> None:
        """Give another time; what is none is said.

        Parameters
        ----------
        text : 2 min, 90 s, 1 h; a number alone is minutes
        """
        try:
            self.seconds = read_given(text, self._what)
        except WrongInput as error:
            self._session.said.emit(str(error))
        self.changed.emit()

    def give(self, seconds: float) -> None:
        """Give another time.

        Parameters
        ----------
        seconds : on the clock
        """
        self.seconds = seconds
        self.changed.emit()
