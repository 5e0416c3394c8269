"""Frames on disk and in memory.

frame     a picture with its guides and attributes; OpenEXR in and out
sequence  numbered files: patterns, what is there
foreign   pictures of other programs: which channel is what; footage: their sequences
colour    luminance, lightness, display views; quickview: a costly one through a table, to look at
resize    windowed-sinc resizing
"""
