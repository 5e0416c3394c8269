"""From proofs to frames not rendered yet: seconds, noise, and what is not proven.

proof     a proof on disk: its manifest and pictures
evidence  what the proofs of a shot say, measured
seconds   the cost model fitted to times
percent   change in percent: of what was there before
sheet     proofs as cards: what changed, filtered, sorted, the best trade-offs
sides     the two sides of a comparison, their loop, the verdict
sweep     what a sweep over one setting found
attribution  which change did that, over all proofs of a shot
carry     between proof frames, with the error of leaving one out
factors   how a setting changes cost and variance, from proofs that vary it
model     all of it for one shot and one recipe, as arrays over frames
"""
