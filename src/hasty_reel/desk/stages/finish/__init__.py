"""Finish: what the chain does to a proof run, what it is worth, and where it harms.

stage     the stage: picture, chain and tries
picture   a frame before and after with a line between them that is dragged, or what was taken out of it
chain     the steps of the chain in their order, each switched, set and moved where it stands
step      one step: its place, what it does, its settings
ownsteps  the page of the artist's own steps
tries     the ways to denoise that were tried, one of them chosen
"""
