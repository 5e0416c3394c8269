"""What is seen in pictures, measured.

plane       a picture as one plane of L*, and what in it is no number
noise       from two renders of a frame with different seeds; from one picture an estimate
motion      where a pixel of one frame stands in the others; flow: motion found in the pictures themselves
flicker     unrest along the motion, in L*
seen        unrest weighted by what the eye can see
sparks      pixels that stand alone in a single frame
content     sharpness, spatial and temporal information, flicker of the mean
difference  where two pictures differ; aside: the part of it that needs a process of its own
walk        along a sequence of any length, three frames in memory; sequence: what is measured of it
causes/     which of nine causes unrest has, where and when
timeslice   one line over time
eyetest     a staircase that finds what a person sees; eyesight: whose limit counts
"""
