"""What is delivered: frames checked, named, weighed, and written as films or as pictures of another format and colour.

content      what a frame holds, in figures by which faults are found
foldercheck  a folder of frames checked before it is handed over
names        names of delivered files, filled in and checked
weigh        what a shot weighs in a format, measured
films        kinds of films: H.264, H.265, AV1, ProRes, FFV1
sound        the sound of a film
threadpriority  keeps a coder's threads from going before everyone else's
video        a film written frame by frame, tagged with its colour
clips        a short loop to show somebody
graph        graphs over the frames as vector graphics
report       a report of a reel as one page that stands by itself
pdf          a page as PDF
contactsheet  frames as small pictures with their numbers, on one
parts        layers and crops put together into whole frames
deliver      a sequence to its target, frame by frame
"""
