"""The finishing chain: despike, denoise over time and space, resize, sharpen.

despike   single pixels far above their neighbourhood
denoise   denoising over time and space
surfaces  what surface a pixel lies on, by its guides
sparkspread  light of rare bright paths, spread over their surroundings
gather    light of a frame gathered over its neighbours, along the motion
atrous    an edge-aware filter over space, steered by the variance that is left
chain     the steps in order over a sequence, streaming
effect    what denoising does on a proof run, measured
"""
