"""Regular expressions that the artist wrote, for what renderers print.

A pattern such as '(a+)+b' keeps a backtracking engine busy for longer than the age of the earth
on a hundred letters, and holds the interpreter's lock meanwhile. RE2 takes time in proportion
to the text whatever the pattern, and a bounded memory; it knows no look-around and no back references.
"""

from __future__ import annotations

from typing import Any

import re2

from hasty_reel.errors import WrongInput

LONGEST_PATTERN = 500
Pattern = Any
"""A compiled pattern: the library has no public name for its kind."""
_QUIET = re2.Options()
_QUIET.log_errors = False


def compiled(pattern: str, where: str) -> Pattern:
    """Compile a pattern.

    Parameters
    ----------
    pattern : the regular expression
    where : whose it is, for the words

    Returns
    -------
    Pattern
        The compiled pattern.

    Raises
    ------
    WrongInput
        When it is no regular expression that RE2 knows, or too long.
    """
    if len(pattern) > LONGEST_PATTERN:
        raise WrongInput(f"{where}: a pattern of {len(pattern)} characters; expected at most {LONGEST_PATTERN}.")
    try:
        return re2.compile(pattern, _QUIET)
    except (re2.error, UnicodeError) as error:
        told = error.args[0] if error.args else error
        words = told.decode("utf-8", "replace") if isinstance(told, bytes) else str(told)
        raise WrongInput(f"{where}: pattern '{pattern[:60]}': {words}; expected a regular expression that RE2 knows.") from error


def last_group(form: Pattern, text: str) -> str | None:
    """Return the first group of the last match of a pattern in a text.

    Parameters
    ----------
    form : the compiled pattern, with at least one group
    text : what is looked through

    Returns
    -------
    str | None
        What the group holds; None without a match.
    """
    found = list(form.finditer(text))
    return found[-1][1] if found else None
