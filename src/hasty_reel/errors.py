"""The one family of errors a person may meet: each says what, where, and what was expected."""

from __future__ import annotations


class HastyReelError(Exception):
    """Something the person can act on; its text is one plain sentence."""


class WrongInput(HastyReelError):
    """A file, field or argument that cannot be used as it is."""


class ReelError(WrongInput):
    """A reel file that cannot be read, or an edit that would make it contradict itself."""


class PictureError(WrongInput):
    """A picture that is missing, broken, or of the wrong size."""


class RendererFault(HastyReelError):
    """A renderer that failed, hung, or gave something that cannot be used; the text says which frame and what."""


class CannotSolve(HastyReelError):
    """The plan asked for does not exist; the text says by how much it fails."""


class Stopped(HastyReelError):
    """The work was cancelled on request; what was finished stays."""
