"""Questions about files that stand in the way: asked once the name is whole, never before."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget


def ask_target(parent: QWidget, title: str, start: Path, kinds: dict[str, str], mine: Path | None = None) -> Path | None:
    """Ask where to write a file; an ending that is left out is added, and only then it is asked whether a file may be replaced.

    Parameters
    ----------
    parent : the window that asks
    title : of the dialog
    start : name proposed
    kinds : words of a kind of file by its ending
    mine : a file that may be written without a question, since it is what is open

    Returns
    -------
    The place; None where nothing is to be written.
    """
    words = {f"{text} (*{ending})": ending for ending, text in kinds.items()}
    # the dialog's own question would be about the name without its ending
    name, chosen = QFileDialog.getSaveFileName(parent, title, str(start), ";;".join(words), options=QFileDialog.Option.DontConfirmOverwrite)
    if not name:
        return None
    path = with_ending(Path(name), words.get(chosen, next(iter(kinds))), kinds)
    return path if path == mine or may_replace(parent, path) else None


def with_ending(path: Path, ending: str, endings: dict[str, str]) -> Path:
    """Return a path with an ending, unless it has one of those that do.

    Parameters
    ----------
    path : as it was typed
    ending : added where none is there
    endings : those that do
    """
    return path if path.suffix.lower() in endings else path.with_name(path.name + ending)


def may_replace(parent: QWidget, path: Path) -> bool:
    """Whether a file may be written: it is not there yet, or the person says it may be replaced.

    Parameters
    ----------
    parent : the window that asks
    path : the file
    """
    if not path.exists():
        return True
    button = QMessageBox.StandardButton
    answer = QMessageBox.question(
        parent, "Replace the file?", f"'{path.name}' is in {path.parent} already. Replace it?", button.Yes | button.No, button.No
    )
    return bool(answer == button.Yes)
