"""From evidence to frames not rendered yet: seconds, noise, and what is not proven.

factors       how a setting changes cost and variance, from proofs that vary it
observations  proof frames as observations, alike ones taken together
process       carries a logarithm from proof frames to all frames, with its spread
paths         curves drawn frame by frame, before any proof is known
scan          how the cost changes from frame to frame, from tiny pictures of many
growth        seconds that grow with pixels and samples, told from those that do not
effects       what denoising does at the samples that are planned
effectplaces  how that differs over a shot, by runs in several places
effectsizes   what small runs told, at the level of the largest one
memory        memory that a frame takes, by the sizes of proofs
timefit       a cost model fitted to a table of measured times
tables        noise over sample counts
tablekernels  the same of long shots, compiled
model         all of it for one shot and one recipe, as arrays over frames
"""
