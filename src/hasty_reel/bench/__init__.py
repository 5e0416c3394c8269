"""The bench renderer: a small real path tracer that stands in for the artist's own.

shapes    rays against spheres, planes, rings, tubes, capsules and boxes; the bounding hierarchy
surfaces  what light does at a surface, and the procedural colours
lightgrid bounced light on a grid, looked up
transport paths through the scene to the light
sampling  camera samples into pixels, rays into the points of a light cache
settings  how a frame is rendered
adaptive  how many samples each pixel is to have next
lightcache which frames own a cache, and the caches themselves
fog       fog and smoke in a box, marched through
hierarchy the boxes around the shapes of a scene, built or fitted
scene     scenes as objects with poses over time, packed into arrays for one frame
render    one frame: passes, progress, guides, times, the picture
orrery, harbour  the scenes of the demo reel
library   the scenes it has: the demo shots and small ones with known answers
"""
