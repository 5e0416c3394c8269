"""Run: the final frames by the plan, and what is made of them.

stage     folder, frames, rendering, the picture
wall      every frame as a cell by its state
handover  film and PNG pictures of finished frames
film      playing it
lanes     machines as lanes, planned and real
fan       the end as it was told on the way
messages  what the run said
account   what was done, what failed and why
awake     the machine kept awake, and a notice when frames are done
controls  how the run is begun, paused and ended
"""
