"""Models of the stage Finish.

preview   a frame of a proof run before and after the chain, and what the chain took out of it
chain     the order of the steps, and the trial of a chain on proof runs
ownsteps  edits of the artist's own steps
tries     the ways to denoise that were tried on proof runs, each with what it leaves and costs; how much is enough
"""
