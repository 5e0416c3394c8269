"""The plan: a pure function of the reel and its evidence. Everything shown, priced or written reads it.

shot         the plan of one shot, arrays over its frames
heldback     each proof and run left out in turn, and predicted from the rest
outlook      the plans of all shots of a reel, each made anew only when something it rests on changed
answer       the plan of a shot in one sentence
frames       how the frames of a shot are rendered and finished
compare      settings compared: prices, what helps, what buys time, bundles
time         when frames are ready, before a run and while it goes
"""
