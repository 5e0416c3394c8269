"""Brief: what is due, on which machines, by when.

stage       the stage as a whole
delivery    rate, timecode, size
shots       the table of shots
filmband    the film beside it in true proportion
shotpane    all of the chosen shot
framing     where its frames come from: a range, viewpoints, a turntable, a loop
layers      its layers
nightband   machines as lanes over the next days, the due flag
nightpaint  its picture
machine     all of a machine
"""
