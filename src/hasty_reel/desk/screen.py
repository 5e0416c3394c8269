"""Whether there is a screen to draw on, found out before Qt does: Qt ends the process where there is none."""

from __future__ import annotations

import ctypes
import os
import socket
from collections.abc import Mapping
from pathlib import Path

from hasty_reel.errors import WrongInput

WITHOUT = ("offscreen", "minimal", "vnc", "linuxfb", "eglfs")
"""Platforms of Qt that need no display."""


def draw_offscreen() -> None:
    """Have windows drawn into memory where this process has no screen."""
    if not any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")):
        os.environ["QT_QPA_PLATFORM"] = "offscreen"


def need_screen(environment: Mapping[str, str] = os.environ) -> None:
    """Raise an error where no window can be shown.

    Parameters
    ----------
    environment : of the process

    Raises
    ------
    WrongInput
        Says which display was tried.
    """
    platform = environment.get("QT_QPA_PLATFORM", "").partition(":")[0]
    if platform in WITHOUT:
        return
    display, wayland = environment.get("DISPLAY", ""), environment.get("WAYLAND_DISPLAY", "")
    if not display and not wayland:
        raise WrongInput("There is no screen here; give --picture FILE.png to have the window drawn into a file.")
    if (platform != "xcb" and wayland and _wayland_answers(wayland, environment)) or (display and _x_answers(display)):
        return
    raise WrongInput(
        f"The screen '{(display or wayland)[:80]}' does not answer; expected a display that can be reached, or --picture FILE.png."
    )


def _x_answers(display: str) -> bool:
    """Whether an X server takes a connection, with whatever it asks for."""
    try:
        xcb = ctypes.CDLL("libxcb.so.1")
    except OSError:  # without its library Qt says itself what is missing
        return True
    xcb.xcb_connect.restype = ctypes.c_void_p
    xcb.xcb_connect.argtypes = [ctypes.c_char_p, ctypes.c_void_p]
    xcb.xcb_connection_has_error.argtypes = [ctypes.c_void_p]
    xcb.xcb_disconnect.argtypes = [ctypes.c_void_p]
    connection = xcb.xcb_connect(display.encode(), None)
    good = xcb.xcb_connection_has_error(connection) == 0
    xcb.xcb_disconnect(connection)
    return bool(good)


def _wayland_answers(name: str, environment: Mapping[str, str]) -> bool:
    """Whether a Wayland compositor takes a connection."""
    path = Path(environment.get("XDG_RUNTIME_DIR", "/nowhere")) / name
    with socket.socket(socket.AF_UNIX, socket.SOCK_STREAM) as stream:
        stream.settimeout(2.0)
        try:
            stream.connect(str(path))
        except OSError:
            return False
    return True
