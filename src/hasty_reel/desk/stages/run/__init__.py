"""Run: the final frames by the plan, and what is made of them.

stage     folder, frames, rendering, the picture
wall      every frame as a cell by its state
handover  film and PNG pictures of finished frames
film      playing it
"""
