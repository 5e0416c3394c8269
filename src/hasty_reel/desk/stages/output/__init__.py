"""Output: the right files, named right, complete.

stage      hand-over, folder check
formats    formats as rows, with what they keep and what the shot weighs in them
handover   format, colour, options, names, room, and the button
checkpage  the folder check with its list to render again
"""
