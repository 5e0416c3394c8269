"""Compare: two sides seen in motion, measured, and the causes of what is restless.

chosen     which sides, over which frames, and where in them it stands
sides      the bar: which two; wipe, flip, side by side, difference; what is drawn over them
frames     pictures of both sides, read and made ready for the display beside the window's thread
view       the picture: wipe line, zoom and pan together, magnifier, line of the time slice
geometry   where picture, wipe line and slice line lie in the widget
transport  play, frames in memory, the rate reached; loop: filled, played at its true rate, stopped
slice      one line of the picture over time
measured   measures of both, side by side; causes: what it is, where, what helps and its price
eyetest    how much flicker the person sees, on this screen; patch: the loops it shows
study      what is found out beside the window's thread; judged: it on its pages, with what helps; apart: the picture of a difference
maps       noise and flicker of each part, drawn over the picture; paint: marks on pictures
snapshot   the comparison as a PNG with its settings under it
stage      all of it together
"""
