"""The bench renderer: a small real path tracer that stands in for the artist's own.

shapes       rays against spheres, planes, rings, tubes, capsules and boxes; the bounding hierarchy
surfaces     what light does at a surface, and the procedural colours
lightgrid    bounced light on a grid, looked up
transport    paths through the scene to the light
sampling     camera samples into pixels, rays into the points of a light cache
settings     how a frame is rendered
adaptive     how many samples each pixel is to have next
lightcache   the light caches of frames that own one
fog          fog and smoke in a box, marched through
hierarchy    the boxes around the shapes of a scene, built or fitted
scene        scenes as objects with poses over time, packed into arrays for one frame
render       one frame: passes, progress, guides, times, the picture
orrery       the machine of brass: scenes of the demo reel
harbour      a harbour and its sea: scenes of the demo reel
library      the scenes it has: the demo shots and small ones with known answers
cli          `hasty-bench`: the bench renderer by itself
directlight  light that comes straight from a lamp: looked for at every meeting of a path, or met by the path itself
guides       colour, normal, depth and motion of what a camera path meets first
lamps        which point of one a path looks at, and how likely that point was
layout       where everything stands in the packed arrays of one frame: names for their rows and columns
moment       where a frame stands in its shot, for what depends on other frames
packing      a scene at one frame as the arrays that the kernels read (see `layout`)
picture      a rendered frame as a picture file: channels, and what the file says about itself
scatter      one meeting of a path with a surface or with fog: what is reflected towards a lamp, and where the path goes on
tracing      a ray against all shapes of a scene: the nearest one, or whether any stands in the way
"""
