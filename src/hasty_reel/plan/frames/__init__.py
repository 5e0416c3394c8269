"""How the frames of a shot are rendered and finished, and what there is around them.

chunks       stretches that a worker renders on end: reading the scene whole and pre-roll at their starts
finishing    what finishing does to the frames of a shot: denoising over time, then resizing to the delivered size
rendered     what is rendered of each frame: all, or a crop
memory       the memory of a shot against what each machine has
caches       where light caches belong: one whenever a share of the picture is new
stopmap      the samples each place of a frame takes that stops at noise
crops        shots of which only a part moves: a crop, and one frame around it
plates       layers that could be held as plates
shutter      motion blur, the gaps that shutter steps leave in it, and the steps that close them
"""
