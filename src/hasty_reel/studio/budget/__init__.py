"""Models of the stage Budget.

hold          what the budget of the shot holds: the promises, and edits of them
alternatives  bundles that play clean, and single changes that buy time, looked for beside everything else
motionsize    shutter steps and render scale: what motion asks for, what each size takes
reelbundle    one bundle for each shot, so that all are clean and in time
shottable     the shots of the reel with their hours and how they play
"""
