"""The finishing chain as steps in their order, each switched and set where it stands."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PickButton, PlainButton, Switch, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import field_row
from hasty_reel.reel.recipe import LINE
from hasty_reel.studio.finish.tries import FinishTries
from hasty_reel.studio.ledger import LedgerModel
from hasty_reel.studio.session import Session

WINDOWS = (("3", "over 3 frames"), ("5", "over 5 frames"), ("7", "over 7 frames"))
CARE = (("0", "quick"), ("1", "thorough"))
USUAL_WINDOW, USUAL_SHARPEN = 5, 0.1


class Step(QWidget):
    """One step: its place in the chain, its name and what it does, its settings."""

    def __init__(self, number: int, name: str, words: str, settings: list[QWidget], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._number = number
        head = QLabel(name)
        head.setFont(theme.words(14, 700))
        about = QLabel(words)
        about.setWordWrap(True)
        about.setMinimumWidth(120)
        about.setFont(theme.words(12))
        about.setStyleSheet(f"color: {theme.INK2.name()}")
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(head)
        row.addStretch(1)
        for setting in settings:
            row.addWidget(setting)
        column = QVBoxLayout(self)
        column.setContentsMargins(42, 7, 14, 7)
        column.setSpacing(2)
        column.addLayout(row)
        column.addWidget(about)
        self.about = about

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(theme.RULE)
        painter.drawLine(14, self.height() - 1, self.width() - 14, self.height() - 1)
        painter.setFont(theme.figures(15, 600))
        painter.setPen(theme.INK3)
        painter.drawText(QRectF(14, 7, 22, 24), Qt.AlignmentFlag.AlignCenter, str(self._number))


class ChainCards(QWidget):
    """Despike, denoise, resize, sharpen."""

    def __init__(self, session: Session, tries: FinishTries, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._lines = session, LedgerModel(session)
        self.despike = Switch("", lambda on: session.set_line("despike", int(on)), self)
        self.despike.setAccessibleName("Despike")
        self.denoise = Switch("", self._switch_denoise, self)
        self.denoise.setAccessibleName("Denoise")
        self.window_pick = PickButton(self._windows, self)
        self.care_pick = PickButton(self._care, self)
        self.strength = self._field("denoise_strength", "%", 62)
        self.enough = PlainButton("Just enough", tries.enough, parent=self)
        self.enough.setToolTip("The least strength with which the shot plays clean at its samples")
        self.sharpen_switch = Switch("", self._switch_sharpen, self)
        self.sharpen_switch.setAccessibleName("Sharpen")
        self.sharpen = self._field("sharpen", "", 52)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self.steps = {
            "despike": Step(1, "Despike", LINE["despike"].meaning, [self.despike]),
            "denoise": Step(2, "Denoise", LINE["denoise_window"].meaning, [self.denoise]),
            "resize": Step(3, "Resize", "", []),
            "sharpen": Step(4, "Sharpen", LINE["sharpen"].meaning, [self.sharpen, self.sharpen_switch]),
        }
        layout = self.steps["denoise"].layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addLayout(field_row(self.window_pick, self.care_pick, None))
        layout.addLayout(field_row("Strength", self.strength, self.enough, None))
        for step in self.steps.values():
            column.addWidget(step)
        follow(self, session.reel_changed, self.refresh)
        follow(self, session.playhead.shot_changed, self.refresh)
        self.refresh()

    def _field(self, line: str, unit: str, width: int) -> ValueField:
        field = ValueField(unit, self)
        field.setFixedWidth(width)
        field.setAccessibleName(LINE[line].words)
        field.setToolTip(LINE[line].meaning)
        field.committed.connect(partial(self._lines.type_value, LINE[line]))
        field.stepped.connect(partial(self._lines.step, LINE[line]))
        return field

    def refresh(self) -> None:
        """Show what the recipe says."""
        recipe = self._session.recipe
        on = recipe.denoise_window > 1
        self.despike.setChecked(bool(recipe.despike))
        self.denoise.setChecked(on)
        self.window_pick.show_value(dict(WINDOWS).get(str(recipe.denoise_window), "off"))
        self.care_pick.show_value(dict(CARE)[str(recipe.denoise_thorough)])
        self.strength.show_value(LINE["denoise_strength"].text(recipe.denoise_strength))
        self.sharpen.show_value(LINE["sharpen"].text(recipe.sharpen))
        self.sharpen_switch.setChecked(recipe.sharpen > 0)
        for widget in (self.window_pick, self.care_pick, self.strength, self.enough):
            widget.setEnabled(on)
        width, height = self._session.reel.picture_size
        scale = recipe.render_scale
        size = f"Rendered at {scale:g} %, {'shrunk' if scale > 100 else 'enlarged'} to {width} × {height} with a windowed sinc"
        self.steps["resize"].about.setText(f"Rendered at {width} × {height}, as delivered: nothing to do" if scale == 100 else size)

    def _switch_denoise(self, on: bool) -> None:
        self._session.set_line("denoise_window", USUAL_WINDOW if on else 1)

    def _switch_sharpen(self, on: bool) -> None:
        self._session.set_line("sharpen", USUAL_SHARPEN if on else 0.0)

    def _windows(self):
        now = str(self._session.recipe.denoise_window)
        return choice_menu(self, list(WINDOWS), now, lambda value: self._session.set_line("denoise_window", int(value)))

    def _care(self):
        now = str(self._session.recipe.denoise_thorough)
        return choice_menu(self, list(CARE), now, lambda value: self._session.set_line("denoise_thorough", int(value)))
