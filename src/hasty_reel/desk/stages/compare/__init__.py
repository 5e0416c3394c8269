"""Compare: two sides seen in motion, measured, and the causes of what is restless.

sides      the bar: which two; wipe, flip, side by side, difference; what is drawn over them
view       the picture: wipe line, zoom and pan together, magnifier, line of the time slice
transport  play, frames in memory, the rate reached
slice      one line of the picture over time
measured   measures of both, side by side
causes     what it is, where, what helps and its price
eyetest    how much flicker the person sees, on this screen
patch      the loops the eye test shows
paint      marks on pictures
snapshot   the comparison as a PNG with its settings under it
stage      all of it together
"""
