"""Models of the stage Budget.

hold          what the budget of the shot holds: the promises, and edits of them
alternatives  bundles that play clean, and single changes that buy time, looked for beside everything else
lightcaches   where light caches belong by how fast the view changes
motionsize    shutter steps and render scale: what motion asks for, what each size takes
sampledial    the loop of a proof run at so many samples, and 'this is calm enough'
dialprice     what the samples of the dial come to
dialfinished  finished frames of the run that the dial shows, at a few sample counts
stopmap       where a frame stops at noise: the samples of each place
reelbundle    one bundle for each shot, so that all are clean and in time
shottable     the shots of the reel with their hours and how they play
"""
