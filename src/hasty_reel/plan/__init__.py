"""The plan: a pure function of the reel and its evidence. Everything shown, priced or written reads it.

shot       the plan of one shot, arrays over its frames
chunks     stretches that a worker renders on end: reading the scene whole and pre-roll at their starts
heldback   each proof and run left out in turn, and predicted from the rest
spread     how sure its seconds are, by draws
baseline   what every comparison of settings is made against
prices     what each line of a recipe costs or saves, and what it does to flicker
levers     what helps against a cause of unrest, and what that costs
schedule   when frames are ready that cannot be divided: each free worker takes the next chunk
playing    the runs of a schedule, in compiled code
machinehours  machines as a table tells them, and their free hours
units      what the machines take one by one: frames, or whole chunks
capacity   what the machines can do by when, in their free hours
deadline   all shots against the due time
finishing  what finishing does to the frames of a shot: denoising over time, then resizing to the delivered size
calm       what denoising is worth: the samples it stands for, and how much of it is enough
wouldhelp  what would have the reel ready sooner, each with its time
outlook    the plans of all shots of a reel, each made anew only when something it rests on changed
memory     the memory of a shot against what each machine has
bundles    settings that together play clean: the sharpest, the calmest, the fastest
reelbundle  one bundle for each shot, so that the reel is in time and loses least
savings    what buys the most time, a change at a time
caches     where light caches belong: one whenever a share of the picture is new
stopmap    the samples each place of a frame takes that stops at noise
rendered   what is rendered of each frame: all, or a crop
crops      shots of which only a part moves: a crop, and one frame around it
plates     layers that could be held as plates
shutter    motion blur, the gaps that shutter steps leave in it, and the steps that close them
sizes      what rendering smaller or larger does, at equal seen flicker and in equal time
timeleft   how long a run still takes: its pace, learnt frame by frame
slip       a run that slips, and fewer samples for the frames not rendered yet
lanes      which machine has which shot when, in its free hours
answer     the plan of a shot in one sentence
remedies   what helps against each cause of unrest, in the order of the trade (common practice, no source)
"""
