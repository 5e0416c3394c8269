"""The models of Compare.

sides         which sides there are, which two are compared, over which frames
presentation  how they are shown: mode, look, difference, overlay, surround
player        which frame of a loop is due
loop          the loop filled into memory and played
difference    the picture of a difference
study         what was found out about the sides, each thing once
measures      the measures of both sides as rows
causes        the causes of one side: which is looked at, and what helps
eyetest       the course of the eye test
geometry      where picture, wipe line and time slice lie
maps          noise or seen flicker of each part of the picture
comparison    all of these for one session
"""
