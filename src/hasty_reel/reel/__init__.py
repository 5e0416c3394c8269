"""What is planned: the reel as a tree of frozen values.

frames   frame sets as text and numbers
recipe   named render settings and the lines they consist of
shot     a run of frames of a scene with its recipe, departures, hold and pins
machine  who renders
document the reel: shots, recipes, machines, size, rate, due time
file     *.reel in and out
history  undo: the list of earlier documents
"""
