"""What is planned: the reel as a tree of frozen values.

rate       frame rates, time and timecode
frames     frame sets as text and numbers
size       delivered sizes and the trade's presets
moves      frames of viewpoints, turntables and loops
hours      free hours of a machine over the days
resolved   what a recipe comes to in one shot: size, window, chain
recipefile  one recipe in a file of its own, from reel to reel
draftcut   reductions for quick looks; the reel does not know them
caching    which frames own a light cache
calm       how calm a film is to be, and from where it is seen
shot       a run of frames of a scene with its recipe, departures, hold, pins and layers
machine    who renders
document   the reel: shots, recipes, machines, size, rate, due time
checked    a reel that does not contradict itself
edits      one reel in, another out
file       *.reel in and out
timeline   shots from and to OpenTimelineIO
shottable  shots from and to CSV
incoming   shots from files, told apart by their ending
history    undo: the list of earlier documents
fresh      a new reel
clips      the clips of an OpenTimelineIO file, read by the library in a process that may die of it
bytewords  numbers of bytes in words
durations  durations in words: as they are read aloud, and as a difference of price
saves      what is kept beside a reel file: the autosave with what is not saved yet, and the last five saves
untitled   reels that have no name yet: kept whole in a place of their own, until they are saved where the artist wants them
writer     one writer for each reel: a lock beside its file, held by the window that may save it, and who holds it in words
"""
