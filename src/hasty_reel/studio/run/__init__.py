"""The models of Run.

final      the final frames of the shot: where they go, how they stand
atwork     final frames being rendered, or a night rehearsed: begun, paused, gone on with, ended
shotqueue  shots rendered one after another
record     a run as it goes, to be drawn: lanes, time left as it was told, messages
rehearsal  a night rehearsed by simulated machines, in accelerated time
morning    what follows from a run: measured, kept as evidence, its pace taken
handover   finished frames as a film and as pictures
"""
