"""What is seen in pictures, measured.

noise    from two renders of a frame with different seeds
motion   where a pixel of one frame stands in the others
flicker  unrest along the motion, in L*
seen     unrest weighted by what the eye can see
"""
