"""The window: thin Qt views over the session, which holds the reel, its evidence and its plan.

theme    colours, type, lines; marks: ring, triangle, diamond, traces, tags
session  the open reel, its history, its evidence and plan, computed beside the window's thread
jobs     work beside the window's thread
window   the frame of it all: header and strip (frames), clock, ledger and total (price)
stages/  one module or more for each stage: proofs, budget, run
"""
