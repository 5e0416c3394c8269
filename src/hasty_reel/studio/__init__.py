"""The open reel without a window: models that tell of their changes, and know no Qt.

eventloop     where models wait: the next turn, a delay; the window brings its own, tests bring asyncio's
background    work beside the models' thread
ownsettings   the person's renderer links, draft cuts and eyes
openreel      the reel as a file: edits, undo, saving, who may write it
playhead      which shot is looked at, where, and which frames are selected
planner       evidence and plan, read and computed anew when something they rest on changes
preparing     the renderer's machine code
pictures      pictures ready for the display, kept in one place
session       all of these for one open reel
verdicts      how each stage stands
brief, proofs, compare, run    the models of the stages
"""
