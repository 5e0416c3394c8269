"""What is known of a shot: its proofs on disk, what was measured on them, and what they say side by side.

proof         a proof on disk: its manifest and pictures
measured      what was measured on the pictures of a proof, kept beside them
seentable     seen flicker of the noise of a frame over sample counts, less what the picture hides
rows          the evidence of a shot: a row for each proof frame
quiet         times of proofs as on a quiet machine, by the yardstick kept with them
settings      the settings that change a sample: their axes, and levels taken out of a regression
looks         what a setting changes in the picture besides noise
places        the noise of each place of a picture, and the samples it took
motion        how fast the picture moves and how much of it is new, by the vectors of proofs
sizepairs     what a render size does to sharpness and shimmer, from pairs of proofs
pictureparts  what coarse parts of a proof picture show, and where it moves: told once
relight       how much the light of a picture changes from frame to frame
moving        what moves or changes in a shot, as one box
sheet         proofs as cards: what changed, filtered, sorted, the best trade-offs
sweep         what a sweep over one setting found
attribution   which change did that, over all proofs of a shot
sides         the two sides of a comparison, their loop, the verdict
percent       change in percent: of what was there before
"""
