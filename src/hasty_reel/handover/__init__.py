"""What is delivered: pictures to a video or to another picture format, through a display view.

video    H.264 in an MP4 file, tagged Rec. 709
deliver  a sequence to its target, frame by frame
"""
