"""The finishing chain: despike, denoise over time and space, resize, sharpen, and the artist's own steps, in any order.

despike   single pixels far above their neighbourhood
denoise   denoising over time and space
noise     variance of the noise of a pixel, by the pixels around it and the frames beside
alone     a frame filtered by itself
lag       what time brought, given up where it lags behind the frame's own light
surfaces  what surface a pixel lies on, by its guides
sparkspread  light of rare bright paths, spread over their surroundings
misled    places whose light does not follow the vectors
steps     from each frame to the one beside: where pixels go, and how sure they stay on their surface
gather    light of a frame gathered over its neighbours, along the motion
shelf     what the next frames need, in memory up to a limit and beyond it on the disk
atrous    an edge-aware filter over space, steered by the variance that is left
guides    channels besides light: which denoising uses, and the same at another size
ownstep   steps of the artist's own, by a command on a frame or on a folder
chain     the steps in their order
finisher  finishing frame by frame, each step asking the one before it
sources   what a finished frame was made of, so that a changed picture is noticed
sequence  finishing a sequence from files to files
effect    what denoising, or a chain as a whole, does on a proof run, measured
"""
