"""What is seen in pictures, measured.

plane        a picture as one plane of L*, and what in it is no number
noise        from two renders of a frame with different seeds; from one picture an estimate
flow         motion found in the pictures themselves
flicker      unrest along the motion, in L*
seen         unrest weighted by what the eye can see
sparks       pixels that stand alone in a single frame
content      sharpness, spatial and temporal information, flicker of the mean
difference   where two pictures differ
sequence     what is measured of a sequence
causes       which of nine causes unrest has, where and when
timeslice    one line over time
eyetest      a staircase that finds what a person sees
eyesight     whose limit counts
flipprocess  FLIP in a process of its own
neighbours   the frames of a sequence of any length one after another, each with its neighbours: three are in memory at a time
worst        what stands for many frames or tiles: nearly the worst of them, since what is bad somewhere for a while is seen
"""
