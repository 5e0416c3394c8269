"""What is seen in pictures, measured.

Seen flicker is weighed in `seen`, measured in `spectrum`, `seennoise` and `stacks`, less what `masking` hides, and predicted in
`bodysparks` and `grainsight`, `predict/tables` and `plan/shot`. What it means to viewers tells `hasty_reel.viewers`.

plane        a picture as one plane of L*, and what in it is no number
noise        from two renders of a frame with different seeds; from one picture an estimate
bodysparks   noise of a frame as a body and sparks, and what both become with other samples
bandsleft    noise that denoising leaves, band by band, and what must be put back
othersamples  a frame as it would look with other samples, from two renders of it
varianceshares  how unevenly noise lies over a picture
flow         motion found in the pictures themselves
framepair    two frames side by side: what of each is found in the other
flicker      unrest along the motion, in L*
seen         contrast, the eye's sensitivity to it, and who looks from where
twoseeds     what a change does besides noise
spectrum     power of unrest over space and time, weighted by the eye: seen flicker
seennoise    the same of noise alone, by how alike frames are at each distance in time
grainsight  what a picture leaves in sight of the grain of a renderer, seen in several sizes
fields       unrest over a picture as one figure: of the field of view where it is most
masking      what the picture hides of noise, in bands of spatial frequency
trend        what stands still or drifts, taken out of a stack of frames
stacks       frames carried to the middle of their run, and seen flicker of them
sparks       pixels that stand alone in a single frame
content      sharpness, spatial and temporal information, flicker of the mean
difference   where two pictures differ
sequence     what is measured of a sequence
causes       which of nine causes unrest has, where and when
timeslice    one line over time
eyetest      a staircase that finds what a person sees
psychometric  a limit of seeing from answers, by its likelihood
eyesight     whose limit counts
vectorsense  what motion vectors of an unknown renderer mean
viewing      from where a film is seen, and how calm it is to be
flipprocess  FLIP in a process of its own
neighbours   the frames of a sequence of any length one after another, each with its neighbours: three are in memory at a time
worst        what stands for many frames or tiles: nearly the worst of them, since what is bad somewhere for a while is seen
"""
