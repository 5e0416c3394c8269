"""Rendering for real: the renderer link, proofs, and the final frames.

link    what is asked of a renderer, and the bench renderer behind it
links   command lines with named places, kept for the artist
command a linked renderer: started without a shell, watched, its picture looked at before it counts
door    the one door to every renderer
proofs  making proofs: two seeds, times by part, the effect of denoising on a run
queue   orders in their order, held, moved, cancelled
sweeps  one setting over several values; picks: frames for a proof; forecast: what an order will take
bringin frames and times from elsewhere
folder  the frames of a run on disk and the state each is in
run     the final frames by the plan: rendered, finished, gone on with
"""
