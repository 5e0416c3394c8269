"""Modules of this program started as processes of their own: nothing is imported from the folder that the person is in."""

from __future__ import annotations

import sys


def own_module(name: str) -> list[str]:
    """Return the command that runs a module of this program; arguments may follow.

    The folder one is in is never looked into (`-P`): a file beside a reel that is called as a library must not run.

    Parameters
    ----------
    name : of the module, with its packages
    """
    return [sys.executable, "-P", "-m", name]
