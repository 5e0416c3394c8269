"""Proofs: test frames chosen, rendered and kept as evidence.

stage     the stage as a whole: the picture, and what is beside it
firststeps  proving a shot in two minutes, and the rough pass
orderbar  what to render: frames, samples, size, cap, a sweep; with which renderer
sheet     the proof sheet: cards that are filtered, sorted, starred, noted, put away
plot      seconds against noise or seen flicker, the best trade-offs joined
queue     orders in their order, held, moved, cancelled
bringing  frames rendered elsewhere, brought in
renderer  the renderer link: its command, and the test of it
trialview  what the trial of a link came to
learnlog  patterns of its seconds from pasted lines
findings  sweeps with their findings in words, and what each changed setting accounts for
"""
