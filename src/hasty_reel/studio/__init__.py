"""The open reel without a window: models that tell of their changes, and know no Qt.

eventloop      where models wait: the next turn, a delay; the window brings its own, tests bring asyncio's
background     work beside the models' thread
ownsettings    the person's renderer links, draft cuts and eyes
openreel       the reel as a file: edits, undo, saving, who may write it
playhead       which shot is looked at, where, and which frames are selected
planner        evidence and plan, read and computed anew when something they rest on changes
preparing      the renderer's machine code
pictures       pictures ready for the display, kept in one place
context        what a model of a stage may know of the open reel
session        all of these for one open reel
verdicts       how each stage stands
machinespeed   how fast this machine is now, and what several workers do on it together
trial          settings that are only tried, beside the plan as it stood
livetry        a small picture of what is tried, better from pass to pass
lookedfor      what is looked for beside everything else, while somebody looks at it
trust          how far the plan can be trusted, and which proof would make it surer
brief          the models of the stages
proofs         the models of the stages
compare        the models of the stages
finish         what the chain does to a proof run, and what it is worth
budget         the models of the stages
output         the models of the stages
run            the models of the stages
bringing       frames rendered elsewhere: what they are, where their times are told, brought in as a proof
declaring      a setting of the artist's own while it is declared
travelling     recipes saved to files, kept for the person, taken into the reel
draftcuts      edits of the draft cuts: values as they are typed, copies, removal
ledger         the ledger of the recipe: values as they are typed and stepped, prices on all machines, each line in words
look           how a picture is looked at, and a picture made ready for the display that way: exposure, channel, display view
reelfiles      files of an open reel: an earlier save taken up, shots brought in and exported, frames looked at for a proof
commandlist    edits of a list of command lines that is kept for the person
finder         anything found by typing part of it
rendererlinks  edits of the renderer links, and the trial of one
standing       what stands in a stage and what to do next, in a sentence
tour           a guided tour: seven steps, each asking for one thing that is really done
guide          the guide: its pages, what is found in them, what a word on the screen means
"""
