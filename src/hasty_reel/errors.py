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


def reason(error: BaseException) -> str:
    """Return why something failed in a few words on one line, never empty.

    Parameters
    ----------
    error : what was raised

    Returns
    -------
    str
        What the system says of it, else its own text, else its kind.
    """
    told = getattr(error, "strerror", None) or str(error) or ("out of memory" if isinstance(error, MemoryError) else type(error).__name__)
    return " ".join(str(told).split()).rstrip(".")


LONGEST_MESSAGE = 300


def one_line(words: str) -> str:
    """Return a message as one line of at most 300 characters; what is cut is cut from its middle, where long names stand.

    Parameters
    ----------
    words : the message, of any length and with any line breaks

    Returns
    -------
    str
        The message without line breaks and characters that a terminal would obey.
    """
    plain = " ".join("".join(c if c.isprintable() else " " for c in words).split())
    if len(plain) <= LONGEST_MESSAGE:
        return plain
    head = LONGEST_MESSAGE // 2
    return f"{plain[:head]} … {plain[-(LONGEST_MESSAGE - head - 3) :]}"
