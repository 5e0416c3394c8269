"""Keys that do something, as the guide lists them."""

from __future__ import annotations

KEYS = (
    ("Ctrl+1 … Ctrl+7", "Brief, Proofs, Compare, Budget, Finish, Output, Run"),
    ("← →", "one frame; with Shift ten frames"),
    ("Home, End", "first and last frame of the shot"),
    ("Space", "play or stop the loop (Compare) or the film (Run)"),
    ("0, 1, 2, 4, 8, + − in Compare", "all of the picture, 1:1, 2:1 …; nearer, further (or the wheel)"),
    ("↑ ↓ in Compare", "the newer or older pass of the same frames"),
    ("F, [ ], , . in Compare", "flip; turn the wipe line; move it"),
    ("Shift-drag on the reel strip", "select frames; Esc clears"),
    ("Wheel on the reel strip", "zoom"),
    ("Double click on the reel strip", "a proof of that frame"),
    ("↑ ↓, Alt+↑ Alt+↓ in the shots", "another shot; move it in the film"),
    ("F2, Delete in the shots", "rename, remove"),
    ("↑ ↓, Return in the night band", "another machine; all of it"),
    ("↑ ↓ in a value", "one step; Esc leaves it as it was"),
    ("Ctrl+Z, Ctrl+Shift+Z", "undo, redo"),
    ("Ctrl+T", "try settings without changing the reel, until they are kept or dropped"),
    ("Ctrl+S, Ctrl+O, Ctrl+N", "save, open, new reel"),
    ("Ctrl+I, Ctrl+E", "bring in shots, export shots (OpenTimelineIO, CSV)"),
    ("Ctrl+Shift+I", "bring in frames rendered elsewhere, as a proof"),
    ("S, N, Delete in the proof sheet", "star, note, hide"),
    ("Ctrl+K", "find a command, a stage, a setting, a shot or a frame by typing part of it"),
    ("F1", "help for the stage one is in"),
    ("Shift+F1", "what is under the pointer, in a few sentences"),
    ("Ctrl+,", "preferences"),
    ("F10, Alt+M", "the menu of everything"),
)


def keys_html() -> str:
    """The keys as a table."""
    rows = "".join(f"<tr><td style='padding: 3px 24px 3px 0'><b>{k}</b></td><td>{w}</td></tr>" for k, w in KEYS)
    return f"<h1>Keys</h1><table>{rows}</table>"
