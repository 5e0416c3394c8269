"""The finishing chain: despike, denoise over time, resize.

despike   single pixels far above their neighbourhood
overtime  denoising along the motion, trusted by the guides
chain     the steps in order over a sequence, streaming
effect    what denoising does on a proof run, measured
"""
