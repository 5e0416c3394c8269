"""Edits of the reel's own fields, and what all edits share."""

from __future__ import annotations

from typing import Any

import msgspec

from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import Reel

replaced = msgspec.structs.replace


def with_fields(reel: Reel, **changes: Any) -> Reel:
    """Return the reel with some of its own fields changed.

    Parameters
    ----------
    reel : the reel; it stays as it was
    **changes : fields and their new values
    """
    return checked_reel(replaced(reel, **changes), reel)
