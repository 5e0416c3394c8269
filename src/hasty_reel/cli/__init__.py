"""The command line: the same core as the window, one table or one JSON document each.

answers    the group of commands, tables in, answers out
plantables  a plan as a table to read and as a document for programs
planning   estimate, budget, export, bring-in, begin, set
settings   setting: add, change, remove, list; recipe: save, load, list
links      link: add, list, show, choose, remove, try
rendering  proof, bring-proof, run, account, cluster-keys
proving    proof --within
looking    measure, causes
previewing  preview
delivery   finish, own-step, try-finish, handover
checking   check, report
together   compose, film, contact
timing     fit, schedule
machines   yardstick
desktop    desktop: add, remove
windows    the window, the demo, the largest picture that is read
"""

from hasty_reel.cli.answers import main

__all__ = ["main"]
