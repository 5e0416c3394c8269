"""Programs of the artist's that this one starts: renderers, and steps of finishing.

expressions  regular expressions that the artist wrote, for what programs print
commands     command lines with named places, filled in without a shell
processgroup  processes started with all that they start, and ended with it
watched      a process that is watched until it ends: time-out, cancel, progress, memory
ownsteps     the artist's own steps of finishing, kept on this machine
"""
