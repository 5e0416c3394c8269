"""Edits of the reel's own fields, and what all edits share."""

from __future__ import annotations

from typing import Any

import msgspec

from hasty_reel.reel.checked import checked_reel
from hasty_reel.reel.document import Reel

replaced = msgspec.structs.replace


def with_fields(reel: Reel, **changes: Any) -> Reel:
    """The reel with some of its own fields changed."""
    return checked_reel(replaced(reel, **changes), reel)
