"""From evidence to frames not rendered yet: seconds, noise, and what is not proven.

carry     between proof frames, with the error of leaving one out
factors   how a setting changes cost and variance, from proofs that vary it
model     all of it for one shot and one recipe, as arrays over frames
"""
