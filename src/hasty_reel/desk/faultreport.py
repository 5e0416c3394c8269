"""When something went wrong: said in the window, kept in the log, and copied as details for a report."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, Qt, Signal, qVersion
from PySide6.QtWidgets import QApplication, QDialog, QHBoxLayout, QLabel, QPlainTextEdit, QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.fields import PlainButton, Switch
from hasty_reel.own.logbook import EndedBadly, keep_faults, log_path, report_details


class FaultTeller(QObject):
    """Says faults of the program in the window that is open, from whatever thread they come."""

    told = Signal(str)

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        self._app = app
        self.told.connect(self._say)
        keep_faults(self.told.emit)

    def _say(self, words: str) -> None:
        for window in (self._app.property("open_window"), *self._app.topLevelWidgets()):
            notice = getattr(window, "notice", None)
            if isinstance(window, QWidget) and notice is not None and window.isVisible():
                notice.ask(words, {"Details for a report …": partial(show_details, window), "Go on": notice.hide})
                return


def ended_words(ended: list[EndedBadly]) -> str:
    """What is said of windows that ended badly; '' for none."""
    if not ended:
        return ""
    last = ended[-1]
    what = f" with '{Path(last.reel).stem}' open" if last.reel else ""
    return f"The window of {last.since[:16].replace('T', ' ')} ended without being closed{what}. What was edited was kept as it went."


def graphics_words() -> list[str]:
    """Lines about Qt and the screens."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    screens = [
        f"{s.size().width()}x{s.size().height()} at {s.devicePixelRatio():g}x, {s.logicalDotsPerInch():.0f} dots an inch"
        for s in app.screens()
    ]
    return [f"Qt {qVersion()}, {app.platformName()}, style {app.style().name()}", "Screens: " + "; ".join(screens)]


def show_details(window: QWidget) -> DetailsPage:
    """Open the details for a report."""
    page = DetailsPage(window)
    page.open()
    return page


class DetailsPage(QDialog):
    """What is copied is shown first; names of files are in it only where one agrees."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Details for a report")
        self.resize(760, 480)
        words = QLabel(f"Versions, graphics and the last lines of the log. Nothing is sent anywhere. The whole log: {log_path()}")
        words.setWordWrap(True)
        words.setFont(theme.words(13))
        self.text = QPlainTextEdit(self)
        self.text.setReadOnly(True)
        self.text.setFont(theme.figures(12))
        self.text.setAccessibleName("Details for a report")
        self.names = Switch("With names of files", lambda on: self.refresh(), self)
        self.copy = PlainButton("Copy", self._copy, main=True, parent=self)
        foot = QHBoxLayout()
        foot.addWidget(self.names)
        foot.addStretch(1)
        foot.addWidget(self.copy)
        foot.addWidget(PlainButton("Close", self.accept, parent=self))
        column = QVBoxLayout(self)
        column.addWidget(words)
        column.addWidget(self.text, 1)
        column.addLayout(foot)
        self.refresh()

    def refresh(self) -> None:
        """Show what would be copied."""
        self.text.setPlainText(report_details(graphics_words(), self.names.isChecked()))

    def _copy(self) -> None:
        QApplication.clipboard().setText(self.text.toPlainText())
        self.copy.setText("Copied")
