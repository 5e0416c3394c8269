"""The models of the Brief.

nights    the night band: time and place, free windows, what is held and dragged
framing   where the frames of a shot come from
layers    the layers of a shot
delivery  rate, timecode and size
shottext  a shot in words
shotlist  edits of the list of shots
machine   the lines of a machine
"""
