"""When frames are ready: machines and their free hours, before a run and while it goes.

spread       how sure its seconds are, by draws
schedule     when frames are ready that cannot be divided: each free worker takes the next chunk
playing      the runs of a schedule, in compiled code
machinehours  machines as a table tells them, and their free hours
units        what the machines take one by one: frames, or whole chunks
capacity     what the machines can do by when, in their free hours
deadline     all shots against the due time
timeleft     how long a run still takes: its pace, learnt frame by frame
slip         a run that slips, and fewer samples for the frames not rendered yet
lanes        which machine has which shot when, in its free hours
"""
