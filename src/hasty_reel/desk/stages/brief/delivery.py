"""What is delivered: rate and timecode on one line, size on the next."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import field_row
from hasty_reel.measure.viewing import calm_entries, calm_words
from hasty_reel.reel.calm import VIEWINGS
from hasty_reel.reel.rate import CUSTOMARY, can_drop, labels_a_second, rate_text
from hasty_reel.reel.size import PRESETS, preset_name
from hasty_reel.studio.brief.delivery import DeliveryModel, aspect_text, drop_words, film_words
from hasty_reel.studio.session import Session


class DeliveryBar(QWidget):
    """Rate, timecode, film length; size, aspect, 360-degree pictures."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._model = session, DeliveryModel(session)
        model = self._model
        self.rate = self._field("fps", 76, "Frame rate", "Frames a second: 24, 23.976, 12.5, 24000/1001 …", model.type_rate)
        self.rates = PickButton(self._rate_menu, self)
        self.rates.setAccessibleName("Customary rates")
        self.start = self._field("", 92, "Start timecode", "Timecode of the film's first frame (SMPTE ST 12)", model.type_start)
        self.drop = Switch("Drop-frame", model.set_drop_frame, self)
        self.film = QLabel("")
        self.film.setFont(theme.words(13, 600))
        self.film.setFixedHeight(20)
        self.film.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.size_pick = PickButton(self._size_menu, self)
        self.size_pick.setAccessibleName("Size by trade standard")
        self.width_field = self._field("", 46, "Delivered width", "Pixels across", lambda t: model.type_side(t, "width"))
        self.height_field = self._field("", 46, "Delivered height", "Pixels down", lambda t: model.type_side(t, "height"))
        self.swap = PlainButton("Swap", model.swap_sides, parent=self)
        self.swap.setToolTip("Upright instead of level, or back")
        self.keep = Switch("Keep aspect", model.keep_aspect, self)
        self.keep.setToolTip("Keep what the camera sees when one side is set")
        self.pixel = self._field("", 56, "Pixel aspect", "Width / height of one pixel: 1, 2, 64/45 …", model.type_pixel_aspect)
        self.around = Switch("360°", model.set_panorama, self)
        self.around.setToolTip("The delivered picture is the whole sphere, 360 x 180 degrees; only its forward part is rendered")
        self.part = self._field("°", 88, "Forward part", "Degrees across x degrees up of the part that is rendered", model.type_forward)
        self.calm = PickButton(lambda: choice_menu(self, calm_entries(), session.reel.calm, model.set_calm), self)
        self.calm.setAccessibleName("How calm")
        self.calm.setToolTip("How many viewers with a still version of the film beside it may see unrest; a shot may say it otherwise")
        self.viewing = PickButton(lambda: choice_menu(self, [(v, v) for v in VIEWINGS], session.reel.viewing, model.set_viewing), self)
        self.viewing.setAccessibleName("Seen on")
        self.viewing.setToolTip("Where the film is seen: how fine its pixels are to the eye. An eye test that is chosen goes before.")
        first = field_row(
            "Rate", self.rate, self.rates, 14, "Start timecode", self.start, 6, self.drop, 14, "Calm", self.calm, 8, "Seen on",
            self.viewing, None,
        )  # fmt: skip
        second = field_row(
            "Size", self.width_field, "×", self.height_field, self.size_pick, self.swap, 6, self.keep, 14, "Pixel aspect", self.pixel, 14,
            self.around, self.part, None, self.film,
        )  # fmt: skip
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 8, 16, 7)
        column.setSpacing(4)
        column.addLayout(first)
        column.addLayout(second)
        follow(self, session.reel_changed, self.refresh)
        self.refresh()

    def _field(self, unit: str, width: int, name: str, tip: str, act) -> ValueField:
        field = ValueField(unit, self)
        field.setFixedWidth(width)
        field.setAccessibleName(name)
        field.setToolTip(tip)
        field.committed.connect(lambda text: self._then_show(act, text))
        return field

    def _then_show(self, act: Callable[[str], object], text: str) -> None:
        """A value that is refused gives way to the one that counts."""
        act(text)
        self.refresh()

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
        self.drop.setToolTip(drop_words(reel, can_drop(reel.fps)))
        self.film.setText(film_words(reel))
        self.calm.show_value(calm_words(reel.calm))
        self.viewing.show_value(reel.viewing)
        self.size_pick.show_value(preset_name(reel.width, reel.height) or "free")
        self.width_field.show_value(str(reel.width))
        self.height_field.show_value(str(reel.height))
        self.keep.setChecked(reel.camera_aspect is not None)
        self.pixel.show_value(aspect_text(reel))
        self.around.setChecked(reel.panorama is not None)
        self.part.setVisible(reel.panorama is not None)
        if reel.panorama is not None:
            p = reel.panorama
            self.part.show_value(f"{p.width:g} × {p.height:g}")
            w, h = reel.picture_size
            self.part.setToolTip(f"Rendered: {w} × {h} pixels, {100 * p.share:.1f} % of the sphere")

    def _rate_menu(self) -> QMenu:
        return choice_menu(self, [(t, f"{t} fps") for t in CUSTOMARY], rate_text(self._session.reel.fps), self._model.type_rate)

    def _size_menu(self) -> QMenu:
        reel = self._session.reel
        entries = [((w, h), f"{name}   {w} × {h}") for name, w, h in PRESETS]
        return choice_menu(self, entries, (reel.width, reel.height), lambda size: self._model.set_size(*size))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(theme.NEUTRAL_RULE)
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
