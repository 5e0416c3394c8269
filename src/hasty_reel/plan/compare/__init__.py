"""Settings compared: what each costs, what helps, what buys time, and which go together.

baseline     what every comparison of settings is made against
prices       what each line of a recipe costs or saves, and what it does to flicker
levers       what helps against a cause of unrest, and what that costs
remedies     what helps against each cause of unrest, in the order of the trade (common practice, no source)
savings      what buys the most time, a change at a time
bundles      settings that together play clean: the sharpest, the calmest, the fastest
reelbundle   one bundle for each shot, so that the reel is in time and loses least
dial         the same samples in every frame: their hours, what is seen, where that meets the limits
steps        the smallest steps: calm where it is not, in time where it is late, calmer where time is spare
flat         the same samples in every frame against even noise
sizes        what rendering smaller or larger does, at equal seen flicker and in equal time
wouldhelp    what would have the reel ready sooner, each with its time
calm         what denoising is worth: the samples it stands for, and how much of it is enough
"""
