"""The bench renderer: a small real path tracer that stands in for the artist's own.

shapes    rays against spheres, planes, rings, tubes, capsules and boxes; the bounding hierarchy
surfaces  what light does at a surface, and the procedural colours
transport paths from the camera through the scene to the light
fog       fog and smoke in a box, marched through
scene     scenes as objects with poses over time, packed into arrays for one frame
render    one frame: passes, progress, guides, times, the picture
orrery, harbour  the scenes of the demo reel
library   the scenes it has: the demo shots and small ones with known answers
"""
