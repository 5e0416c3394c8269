"""Rendering for real: the renderer link, proofs, and the final frames.

proofs       making proofs: two seeds, times by part, the effect of denoising on a run
queue        orders in their order, held, moved, cancelled
sweeps       one setting over several values
picks        frames for a proof
usual        proofs that are made of nearly every shot: a scan, noise at full size, runs that tell what denoising does
yardstick    a tiny frame that is always the same: how fast this machine is just now
forecast     what an order will take
nextproof    the proof that narrows the total most for what it costs
roughpass    all frames, small, to be played
provewithin  the proofs that tell most in a given time
bringin      frames and times from elsewhere
tiles        a frame rendered in tiles and put together
halves       a frame as two pictures of half the samples, whose noise is measured
jobtemplate  the plan of shots as an Open Job Description template
claim        the folder of a new proof: taken by one writer alone, and cleared away when its writer was killed before its first frame
fromframes   a reel from a folder of frames: a shot for each sequence, rate and size as the files say
job          what is asked of a renderer: one frame, in the terms of a recipe and in those of the bench renderer
order        what to render as a proof: frames with a recipe, in which size, with which limits
patternof    the sequence a picture belongs to, by its name, and the sequence that is its other seed
atsamples    the run of a proof as it would look with other samples, as rendered and as finished
keptlooks    finished looks of a proof run, kept on the disk
proofrun     runs of consecutive frames among those of a proof, and what denoising over time does on one
times        seconds of frames rendered elsewhere: from a table, a log, or the heads of the pictures
renderers    every renderer behind one protocol: the bench renderer and the artist's own are used alike
"""
