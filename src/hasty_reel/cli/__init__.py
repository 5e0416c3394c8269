"""The command line: the same core as the window, one table or one JSON document each.

answers    the group of commands, tables in, answers out
planning   estimate, budget, export, bring-in
rendering  proof, run
looking    measure, causes
delivery   finish, handover
windows    the window and the demo
"""

from hasty_reel.cli import delivery, looking, planning, rendering, windows
from hasty_reel.cli.answers import main

__all__ = ["delivery", "looking", "main", "planning", "rendering", "windows"]
