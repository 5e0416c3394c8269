"""Budget: what each frame gets.

stage      the solution in words and values
holdchoice  one of the promises, as it stands in the bar
watched    a page whose model looks while it is in sight
bundles    settings that play clean, three side by side
steps      the smallest steps to a calm shot, in time, or calmer, a button each
charts     noise and samples over the frames
seeit      the loop of a proof run at so many samples, and the dial that sets them
savings    what buys the most time, a change at a time
motion     motion blur, the gaps its steps leave, and what closes them
lightcache  where light caches belong
stopmap    the samples each place takes where a frame stops at noise
sure       the held-back check over the frames, and memory
sizes      the sizes a shot can be rendered at
shottable  all shots of the reel: where its hours go
"""
