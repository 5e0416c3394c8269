"""The eye test in the window: whose eyes, which screen, and two loops of which one is restless."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import Choice, PickButton, PlainButton, ValueField
from hasty_reel.desk.follow import follow
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.rows import caption, field_row
from hasty_reel.desk.stages.compare.patch import StairsCurve
from hasty_reel.studio.compare.eyetest import KINDS, USUAL_ROWS, EyeTest, limit_words
from hasty_reel.studio.session import Session

STANDARD_WORDS = "The standard observer at 3 picture heights"


class EyeTestPage(QWidget):
    """Whose eyes, which screen, the test, and what came out."""

    def __init__(self, session: Session, model: EyeTest, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self.model = session, model
        self.pick = PickButton(self._menu, self)
        self.pick.setAccessibleName("Whose eyes count")
        self.person = self._field("", 150, "Person", partial(model.type_name, "person"))
        self.screen_name = self._field("", 150, "Screen", partial(model.type_name, "screen"))
        self.distance = self._field("cm", 74, "Distance of the eyes", partial(model.type_size, "distance_cm"))
        self.tall = self._field("cm", 74, "Height of the picture", partial(model.type_size, "screen_cm"))
        self.kinds = [Choice(name, self) for name, _, _ in KINDS]
        self.grounds = [Choice(name, self) for name in ("on even grey", "on the frames of A")]
        for k, choice in enumerate(self.kinds):
            choice.clicked.connect(lambda _=False, k=k: model.choose(kind=k))
        for k, choice in enumerate(self.grounds):
            choice.clicked.connect(lambda _=False, k=k: model.choose(on_picture=bool(k)))
        self.start_button = PlainButton("Begin", self.begin, main=True)
        self.stop_button = PlainButton("Stop", model.stop)
        self.keep_button = PlainButton("Use this limit", model.keep, main=True)
        self.answers = [PlainButton(f"The {word}", partial(model.answer, k)) for k, word in enumerate(("first", "second"))]
        self.curve = StairsCurve(self)
        self.verdict, self.about = QLabel(""), QLabel("")
        self.verdict.setFont(theme.words(15, 700))
        self.about.setFont(theme.words(12))
        for label, colour in ((self.verdict, theme.MAT_INK), (self.about, theme.MAT_INK2)):
            label.setWordWrap(True)
            label.setStyleSheet(f"color: {colour.name()}")
        self._lay_out()
        follow(self, model.changed, self.refresh)
        self.refresh()

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 4, 12, 8)
        column.setSpacing(4)
        column.addLayout(field_row("Eyes that count", self.pick, None))
        column.addSpacing(6)
        column.addWidget(self.verdict)
        column.addWidget(self.about)
        column.addSpacing(4)
        for name, field in (
            ("Person", self.person),
            ("Screen", self.screen_name),
            ("Eyes away", self.distance),
            ("Picture high", self.tall),
        ):
            label = caption(name)
            label.setFixedWidth(84)
            column.addLayout(field_row(label, field, None))
        for row in ((*self.kinds, None), (*self.grounds, None),
                    (self.start_button, self.stop_button, self.keep_button, None), (*self.answers, None)):  # fmt: skip
            column.addLayout(field_row(*row))
        column.addSpacing(6)
        column.addWidget(self.curve)
        column.addStretch(1)

    def _field(self, unit: str, width: int, name: str, act: Callable[[str], object]) -> ValueField:
        field = ValueField(unit, self)
        field.setFixedWidth(width)
        field.setAccessibleName(name)
        field.setToolTip(name)
        field.committed.connect(act)
        if not unit:
            field.setAlignment(Qt.AlignmentFlag.AlignLeft)
        return field

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.MAT)

    def _menu(self) -> QMenu:
        watchers = self._session.own.watchers
        current = "" if watchers.choice is None else watchers.choice.name
        entries = [("", STANDARD_WORDS), *((w.name, f"{w.name}: {limit_words(w)}") for w in watchers.items)]
        menu = choice_menu(self, entries, current, self.model.let_count)
        if current:
            menu.addSeparator()
            menu.addAction(f"Forget {current}").triggered.connect(lambda _=False: self.model.forget_current())
        return menu

    def begin(self) -> None:
        """Begin the test, on a screen of so many rows."""
        screen = self.screen()
        self.model.begin(round(screen.size().height() * screen.devicePixelRatio()) if screen is not None else USUAL_ROWS)

    def refresh(self) -> None:
        """Show where the test stands."""
        model, stairs = self.model, self.model.stairs
        current, watcher = self._session.own.watchers.choice, model.watcher
        self.pick.show_value("the standard observer" if current is None else current.name)
        for field, text in ((self.person, watcher.person), (self.screen_name, watcher.screen),
                            (self.distance, f"{watcher.distance_cm:g}"), (self.tall, f"{watcher.screen_cm:g}")):  # fmt: skip
            field.show_value(text)
            field.setEnabled(stairs is None)
        for k, choice in enumerate(self.kinds):
            choice.setChecked(KINDS[k] == model.kind)
            choice.setEnabled(stairs is None)
        for k, choice in enumerate(self.grounds):
            choice.setChecked(bool(k) == model.on_picture)
            choice.setEnabled(stairs is None)
        running = model.running
        self.start_button.setVisible(not running)
        self.start_button.setText("Begin" if stairs is None else "Begin again")
        self.start_button.set_main(stairs is None)
        self.stop_button.setVisible(running)
        self.keep_button.setVisible(stairs is not None and stairs.limit is not None)
        for button in self.answers:
            button.setVisible(running)
            button.setEnabled(model.asking)
        self.curve.show_stairs(stairs)
        head, body = model.words
        self.verdict.setText(head)
        self.about.setText(body)
