"""What is delivered: rate and timecode on one line, size on the next."""

from __future__ import annotations

from fractions import Fraction

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.rows import field_row
from hasty_reel.desk.session import Session
from hasty_reel.errors import WrongInput
from hasty_reel.reel.document import Reel
from hasty_reel.reel.edits import keeping_aspect, swapped, with_fields, with_rate, with_size
from hasty_reel.reel.rate import CUSTOMARY, can_drop, labels_a_second, rate_text, read_rate, seconds_text, timecode
from hasty_reel.reel.size import PRESETS, Panorama, preset_name, read_aspect, read_size


def whole_number(text: str, what: str) -> int:
    """A whole number as it is typed.

    Raises
    ------
    WrongInput
        When it is none.
    """
    try:
        return int(text.strip())
    except ValueError as error:
        raise WrongInput(f"{what}: '{text[:40]}' is no whole number.") from error


class DeliveryBar(QWidget):
    """Rate, timecode, film length; size, aspect, all-round pictures."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.rate = self._field("fps", 76, "Frame rate", "Frames a second: 24, 23.976, 12.5, 24000/1001 …", self._set_rate)
        self.rates = PickButton(self._rate_menu, self)
        self.rates.setAccessibleName("Customary rates")
        self.start = self._field("", 92, "Timecode of the first frame", "Timecode of the film's first frame (SMPTE ST 12)", self._set_start)
        self.drop = Switch("Drop-frame", lambda on: self._do("Set drop-frame", lambda r: with_fields(r, drop_frame=on)), self)
        self.drop.setToolTip("Leave labels out so that timecode keeps to the clock: 29.97 and its multiples")
        self.film = QLabel("")
        self.film.setFont(theme.words(13, 600))
        self.film.setFixedHeight(20)
        self.film.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.size_pick = PickButton(self._size_menu, self)
        self.size_pick.setAccessibleName("Size by trade standard")
        self.width_field = self._field("", 46, "Delivered width", "Pixels across", lambda t: self._set_side(t, "width"))
        self.height_field = self._field("", 46, "Delivered height", "Pixels down", lambda t: self._set_side(t, "height"))
        self.swap = PlainButton("Swap", lambda: self._do("Swap sides", swapped), parent=self)
        self.swap.setToolTip("Upright instead of level, or back")
        self.keep = Switch("Keep aspect", lambda on: self._do("Keep aspect", lambda r: keeping_aspect(r, on)), self)
        self.keep.setToolTip("Keep what the camera sees when one side is set")
        self.pixel = self._field("", 56, "Pixel aspect", "Width / height of one pixel: 1, 2, 64/45 …", self._set_pixel)
        self.around = Switch("All round", self._set_around, self)
        self.around.setToolTip("The delivered picture is the whole sphere, 360 x 180 degrees; only its forward part is rendered")
        self.part = self._field("°", 88, "Forward part", "Degrees across x degrees up of the part that is rendered", self._set_part)
        first = field_row(
            "Rate", self.rate, self.rates, 14, "Film starts at", self.start, 6, self.drop, None, self.film
        )  # fmt: skip
        second = field_row(
            "Size", self.width_field, "×", self.height_field, self.size_pick, self.swap, 6, self.keep, 14, "Pixel", self.pixel, 14,
            self.around, self.part, None,
        )  # fmt: skip
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 8, 16, 7)
        column.setSpacing(4)
        column.addLayout(first)
        column.addLayout(second)
        session.reel_changed.connect(self.refresh)
        self.refresh()

    def _field(self, unit: str, width: int, name: str, tip: str, act) -> ValueField:
        field = ValueField(unit, self)
        field.setFixedWidth(width)
        field.setAccessibleName(name)
        field.setToolTip(tip)
        field.committed.connect(act)
        return field

    def refresh(self) -> None:
        """Show what the reel says."""
        reel = self._session.reel
        timed = labels_a_second(reel.fps) is not None
        self.rate.show_value(rate_text(reel.fps))
        self.rates.show_value("")
        self.start.show_value(reel.timecode_start if timed else "none")
        self.start.setEnabled(timed)
        self.drop.setChecked(reel.drop_frame and can_drop(reel.fps))
        self.drop.setEnabled(can_drop(reel.fps))
        self.drop.setToolTip(
            "Leave labels out so that timecode keeps to the clock"
            if can_drop(reel.fps)
            else f"There is no drop-frame timecode at {rate_text(reel.fps)} fps; 29.97, 59.94 and 119.88 have it"
        )
        length = reel.length
        self.film.setText(f"Film {length} frames · {seconds_text(length, reel.fps)} · {timecode(length, reel.fps, reel.drop_frame)}")
        self.size_pick.show_value(preset_name(reel.width, reel.height) or "free")
        self.width_field.show_value(str(reel.width))
        self.height_field.show_value(str(reel.height))
        self.keep.setChecked(reel.camera_aspect is not None)
        aspect = Fraction(*reel.pixel_aspect)
        self.pixel.show_value(f"{aspect.numerator}" if aspect.denominator == 1 else f"{aspect.numerator}/{aspect.denominator}")
        self.around.setChecked(reel.panorama is not None)
        self.part.setVisible(reel.panorama is not None)
        if reel.panorama is not None:
            p = reel.panorama
            self.part.show_value(f"{p.width:g} × {p.height:g}")
            w, h = reel.picture_size
            self.part.setToolTip(f"Rendered: {w} × {h} pixels, {100 * p.share:.1f} % of the sphere")

    def _do(self, name: str, change) -> None:
        self._session.do(name, change)
        self.refresh()

    def _rate_menu(self) -> QMenu:
        menu = QMenu(self)
        now = rate_text(self._session.reel.fps)
        for text in CUSTOMARY:
            entry = menu.addAction(f"{text} fps")
            entry.setCheckable(True)
            entry.setChecked(text == now)
            entry.triggered.connect(lambda _=False, t=text: self._set_rate(t))
        return menu

    def _size_menu(self) -> QMenu:
        menu = QMenu(self)
        reel = self._session.reel
        for name, width, height in PRESETS:
            entry = menu.addAction(f"{name}   {width} × {height}")
            entry.setCheckable(True)
            entry.setChecked((width, height) == (reel.width, reel.height))
            entry.triggered.connect(lambda _=False, w=width, h=height: self._do("Set size", lambda r: with_size(r, w, h)))
        return menu

    def _set_rate(self, text: str) -> None:
        self._do("Set rate", lambda reel: with_rate(reel, read_rate(text)))

    def _set_start(self, text: str) -> None:
        self._do("Set timecode start", lambda reel: with_fields(reel, timecode_start=text))

    def _set_side(self, text: str, side: str) -> None:
        def change(reel: Reel) -> Reel:
            if not text.strip().isdigit():  # a whole size or the name of a preset does too
                return with_size(reel, *read_size(text))
            value = whole_number(text, "Size")
            return with_size(reel, value, None) if side == "width" else with_size(reel, None, value)

        self._do("Set size", change)

    def _set_pixel(self, text: str) -> None:
        def change(reel: Reel) -> Reel:
            aspect = read_aspect(text)
            return with_fields(reel, pixel_aspect=(aspect.numerator, aspect.denominator))

        self._do("Set pixel aspect", change)

    def _set_around(self, on: bool) -> None:
        self._do("All round" if on else "Flat picture", lambda reel: with_fields(reel, panorama=Panorama() if on else None))

    def _set_part(self, text: str) -> None:
        def change(reel: Reel) -> Reel:
            parts = text.lower().replace("°", "").replace("×", "x").split("x")
            try:
                width, height = (float(p) for p in parts)
            except ValueError as error:
                raise WrongInput(f"Forward part '{text[:40]}'; expected degrees across x degrees up, such as 90 x 90.") from error
            return with_fields(reel, panorama=msgspec.structs.replace(reel.panorama or Panorama(), width=width, height=height))

        self._do("Set forward part", change)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(theme.NEUTRAL_RULE)
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
