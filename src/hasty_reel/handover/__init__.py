"""What is delivered: pictures to a video or to another picture format, through a display view.

video    H.264 in an MP4 file, tagged Rec. 709
content  what a frame holds, in figures by which faults are found
foldercheck  a folder of frames checked before it is handed over
deliver  a sequence to its target, frame by frame
"""
