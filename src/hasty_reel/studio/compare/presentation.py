"""How two sides are shown: how they are told apart, through which look, with which difference and overlay, on which grey."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from psygnal import Signal

from hasty_reel.errors import WrongInput
from hasty_reel.studio.look import PLAIN_LOOK, Look
from hasty_reel.typednumbers import read_number

Mode = Literal["wipe", "flip", "beside", "difference"]
Difference = Literal["Light", "L*", "FLIP"]
Surround = Literal["dark", "middle", "light"]
MODES: tuple[Mode, ...] = ("wipe", "flip", "beside", "difference")
MODE_WORDS: dict[Mode, str] = {"wipe": "Wipe", "flip": "Flip", "beside": "Side by side", "difference": "Difference"}
DIFFERENCES: tuple[Difference, ...] = ("Light", "L*", "FLIP")
GAINS = (1, 2, 4, 8, 16, 32, 64)
OVERLAYS = ("nothing", "noise", "flicker")
MOST_STOPS = 10.0


class Presentation:
    """How the sides are shown.

    mode : how they are told apart; look : exposure, view and channel; overlay : what is drawn over the pictures
    difference, gain : what the picture of a difference shows; surround : grey around the picture; lens : whether a magnifier is shown
    mode_changed() : they are told apart otherwise; look_changed() : they look otherwise; overlay_changed() : something else is drawn over
    """

    mode_changed = Signal()
    look_changed = Signal()
    overlay_changed = Signal()

    def __init__(self) -> None:
        self.mode: Mode = "wipe"
        self.look: Look = PLAIN_LOOK
        self.difference: Difference = "L*"
        self.gain = 4
        self.overlay = OVERLAYS[0]
        self.surround: Surround = "middle"
        self.lens = False

    def set_mode(self, mode: Mode) -> None:
        """Tell the sides apart otherwise.

        Parameters
        ----------
        mode : one of `MODES`
        """
        self.mode = mode
        self.mode_changed.emit()

    def set_exposure(self, stops: float) -> None:
        """Show both brighter or darker.

        Parameters
        ----------
        stops : 0 for as they are; held within ten
        """
        self._look(exposure=min(max(stops, -MOST_STOPS), MOST_STOPS))

    def type_exposure(self, text: str) -> None:
        """Show both brighter or darker, by a number as it is typed.

        Parameters
        ----------
        text : such as '+1.5' or '-2 stops'

        Raises
        ------
        WrongInput
            When it is no number, or too large a one.
        """
        try:
            value = read_number(text.replace("stops", "").replace("+", "").strip())
        except ValueError as error:
            raise WrongInput(f"Exposure '{text[:40]}' is no number; expected −10 to 10 stops.") from error
        if value is None or not -MOST_STOPS <= value <= MOST_STOPS:
            raise WrongInput(f"Exposure {text[:40]}; expected −10 to 10 stops.")
        self.set_exposure(value)

    def set_view(self, view: str) -> None:
        """Show both through another display view.

        Parameters
        ----------
        view : its name
        """
        self._look(view=view)

    def set_channel(self, channel: str) -> None:
        """Show another channel of both.

        Parameters
        ----------
        channel : one of `look.CHANNELS`
        """
        self._look(channel=channel)

    def _look(self, **changes: object) -> None:
        self.look = replace(self.look, **changes)  # type: ignore[arg-type]
        self.look_changed.emit()

    def show(self, **changes: object) -> None:
        """Show something else around or of the sides.

        Parameters
        ----------
        **changes : any of difference, gain, surround, lens
        """
        for name, value in changes.items():
            setattr(self, name, value)
        self.look_changed.emit()

    def set_overlay(self, overlay: str) -> None:
        """Draw something else over the pictures.

        Parameters
        ----------
        overlay : one of `OVERLAYS`
        """
        self.overlay = overlay
        self.overlay_changed.emit()
