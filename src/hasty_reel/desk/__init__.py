"""The window: thin Qt views that mirror the models of studio.

theme      colours, type, lines
marks      ring, triangle, diamond, traces, tags
window     the frame of it all: header and strip (frames), clock, ledger and total (price)
fields     values edited in place, buttons, switches
rowtable   a table of rows that are painted and picked
rows       names and values in a row
picture    a picture with its scale
caption    what it is
strip      frames, flicker, proofs and the playhead
clock      the deadline
ledger     settings and what they cost, with recipes and total
files      opening, saving, shots in and out
drafts     draft cuts
notice     what happened, in a line at the top
tabs       pages behind choices
stages     one module or more for each stage: brief, proofs, compare, budget, run
app        starting the application
asking     questions about files that stand in the way: asked once the name is whole, never before
eventloop  the event loop of the models, as the window has it: Qt's own
follow     how widgets follow the models of studio: for as long as they are there, and without ending what the model does
header     the header over the frames: reel and shot at the left, the stage line in the middle
trust      the held-back check as a small plot, and the next best proof with its button
clip       loops to show somebody, with or without words under them
preferences  how the window is wanted, and the limits of what is read and kept in memory
keys       keys that do something, as the guide lists them
helpwindow  the guide, searched by typing, and what a thing on the screen is
windowmenu  the menu of everything, and of a frame
faultreport  when something went wrong: said, kept, and copied for a report
standing   the first line of a stage: what stands, and what to do next
plotting   the plotting library, set up where the first chart is made
placement  windows that fit their screen
menus      menus that offer choices, the one that counts ticked
ownsetting  a setting of the artist's own: declared, changed, taken out
recipes    the recipe of the shot and the draft-cut switch, above the ledger; recipes compared line by line
screen     whether there is a screen to draw on, found out before Qt does: Qt ends the process where there is none
stack      the stages of the window, each made when it is first needed: a window opens with one of them
stagesof   a window with the stages of a reel, each made when it is first looked at, and the rest ahead while nobody waits
start      the window while no reel is open: what one can do next, and the demo reel's film along the bottom
finder     a field and a list: anything found by typing part of it
desktop    the desktop around the window: kept awake, and told when frames are done
trial      over every stage while settings are only tried: what they come to, kept or dropped
tour       the guided tour over the stages: what to do, and a way on or out
total      the foot of the right column: what the whole shot takes, and its worst frames
"""
