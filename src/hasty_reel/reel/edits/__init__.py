"""Edits: each takes a reel and gives a new one, checked; the old one stays as it was.

bypath    values set by their path, as a command line names them
whole     the reel's own fields
delivery  rate and size
shots     frames, order, layers, holds
recipes   recipes and departures
machines  machines and their free hours
singleframes  samples, weights, light caches of single frames; one held as a plate
ownsettings  declarations of the artist's own settings; recipes from elsewhere
"""

from hasty_reel.reel.edits.bypath import (
    read_due,
    with_value,
)
from hasty_reel.reel.edits.delivery import (
    keeping_aspect,
    swapped,
    with_rate,
    with_size,
)
from hasty_reel.reel.edits.machines import (
    added_machine,
    measured_machine,
    removed_machine,
    with_machine,
)
from hasty_reel.reel.edits.ownsettings import (
    with_brought_recipe,
    with_own_setting,
    without_own_setting,
)
from hasty_reel.reel.edits.recipes import (
    departed,
    duplicated_recipe,
    rejoined,
    removed_recipe,
    renamed_recipe,
    with_finish_order,
    with_line,
    with_recipe_line,
    with_settings,
)
from hasty_reel.reel.edits.shots import (
    added,
    brought_in,
    duplicated,
    moved,
    removed,
    renamed_shot,
    split,
    with_calm,
    with_first,
    with_frames,
    with_hold,
    with_layers,
    with_mark,
    with_move,
    with_shot,
    with_shot_fields,
)
from hasty_reel.reel.edits.singleframes import (
    with_caches,
    with_held,
    with_pin,
    with_weight,
)
from hasty_reel.reel.edits.whole import (
    with_fields,
)

__all__ = [
    "added",
    "added_machine",
    "brought_in",
    "departed",
    "duplicated",
    "duplicated_recipe",
    "keeping_aspect",
    "measured_machine",
    "moved",
    "read_due",
    "rejoined",
    "removed",
    "removed_machine",
    "removed_recipe",
    "renamed_recipe",
    "renamed_shot",
    "split",
    "swapped",
    "with_brought_recipe",
    "with_caches",
    "with_calm",
    "with_fields",
    "with_finish_order",
    "with_first",
    "with_frames",
    "with_held",
    "with_hold",
    "with_layers",
    "with_line",
    "with_machine",
    "with_mark",
    "with_move",
    "with_own_setting",
    "with_pin",
    "with_rate",
    "with_recipe_line",
    "with_settings",
    "with_shot",
    "with_shot_fields",
    "with_size",
    "with_value",
    "with_weight",
    "without_own_setting",
]
