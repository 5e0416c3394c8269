"""Causes of unrest: which of nine it is, where, in which frames, and what helps.

gathered  one walk along the sequence: unrest split by where it arises, tile by tile
copies    edges that come back along the motion
scores    from there to an amplitude of each cause, and how plain it is to see
found     the causes in order, with frames, region and lever
"""

from hasty_reel.measure.causes.found import CAUSES, WORDS, Cause, Causes, find_causes

__all__ = ["CAUSES", "WORDS", "Cause", "Causes", "find_causes"]
