"""Frames on disk and in memory.

frame      a picture with its guides and attributes; OpenEXR in and out
sequence   numbered files: patterns, what is there
foreign    pictures of other programs: which channel is what
bycontent  which of them may be guides, by what is in them
footage    their sequences
guidesbeside  guides of a finished frame, from the frame it was made of
colour     luminance, lightness, display views
quickview  a costly one through a table, to look at
finite     pixels that are no finite numbers: replaced from their neighbours where they are few, refused where they are many
limits     the largest pictures that are read: a few bytes on disk may unfold to more pixels than there is memory
outputs    pictures for delivery: formats, what each keeps, written in one
colourspaces  colour of delivered files, and how they tag it
writing    pictures written to files: whole under their final name, or not there at all
"""
