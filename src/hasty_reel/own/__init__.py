"""What is kept for a person on this machine, not in a reel.

chosenlist    a list of things of one kind and the one that is chosen, kept in a file
draftcuts     the draft cuts
finishmemory  how much memory finishing may take
ownrecipes    the recipes and own settings that are kept for other reels
logbook       what happened lately: the log, windows that ended badly, details for a report
preferences   how the window is wanted
recentreels   the reels opened lately
jsonfile      small JSON files, read with what ships while none is kept, written whole

Renderer links, own steps of finishing and the eyes that count are such lists too; they stand with what they hold,
in farm, programs and measure.
"""
