"""Arrays of pixels: each formula of light, tiles, sampling and motion once, compiled where kernels need it.

luminance  weights of the Rec. 709 primaries
lightness  CIE L* and its slope, both ways
pixels     both compiled: for kernels, and for whole displayed pictures
srgb       sRGB codes to light and back
plaincodes  8-bit codes of pictures without a tone curve, compiled
tiles      means, sums and root mean squares over square tiles
sharpen    an unsharp mask without halos beside lamps
sampling   bilinear and bicubic sampling between pixels, and what they do to noise
warp       where pixels stand in other frames, along motion vectors
laplacian  the Laplacian residual from which noise of one picture is estimated
finiteplane  planes in which everything is a finite number
resize     windowed sinc, and what it does to noise

Nothing here knows files, frames on disk or the reel.
"""
