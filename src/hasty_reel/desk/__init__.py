"""The window: thin Qt views over the session, which holds the reel, its evidence and its plan.

theme    colours, type, lines; marks: ring, triangle, diamond, traces, tags
session  the open reel, its history, its evidence and plan, computed beside the window's thread
own      the artist's own settings: renderer links, draft cuts, whose eyes count
jobs     work beside the window's thread
window   the frame of it all: header and strip (frames), clock, ledger and total (price)
fields   values edited in place, buttons, switches; rows: names and values in a row; picture: a picture with its scale, caption: what it is
strip    frames, flicker, proofs and the playhead; clock: the deadline
ledger   settings and what they cost, with recipes and total
files    opening, saving, shots in and out; drafts: draft cuts; thumbs: small pictures of proofs
notice   what happened, in a line at the top
stages/  one module or more for each stage: brief, proofs, compare, budget, run
"""
