"""The final frames of a shot, through the night.

folder     the frames of a run on disk and the state each is in
journal    what happened in a run, line by line on disk, and the right to render into its folder
order      which frame is rendered first
crew       who renders the frames of a run: the workers of this machine
cluster    a crew of many machines, by dask.distributed
clusterkeys  certificates of a cluster
wire       a rendered frame as plain bytes, checked when it comes back
simulated  a crew of simulated machines, in accelerated time
bound      how long a frame may take before its renderer counts as hung
control    a run held, gone on with, ended after the frames under way
atwork     a run at work: frames handed to the crew, what came of them written, tried again or set aside
around     the frame that stands around a crop
cachepass  light caches, each computed once before the frames that blend it
finishes   finishing beside rendering, as soon as neighbours are there
run        the frames of a shot rendered by a crew, finished, gone on with
slowness   a run that goes slower than planned, noticed while it goes
asproof    the frames of a run kept as a proof: what they really took is evidence then
account    what a run did, by its journal
"""
