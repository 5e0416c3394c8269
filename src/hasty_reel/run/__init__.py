"""The final frames of a shot, through the night.

framestate  how a frame stands
state      the rules of a run, frozen: what happened in, the next state and what is to be done out
loop       a run at work: frames handed to the crew, what came of them told to the state, what it asks for carried out
telling  what happens in a run, written into its journal and told to who listens
events  what somebody who listens to a run is told, and when it is to be ready
lateness  a run that slips, and the samples with which it would not
space  whether the folder of a run takes another frame
shotrun    one run of a shot: its frames, its folder, how long it still takes
folder     the frames of a run on disk and the state each is in
journal    what happened in a run, line by line on disk, and the right to render into its folder
order      which frame is rendered first
crew       who renders the frames of a run: the workers of this machine
cluster    a crew of many machines, by dask.distributed
clusterkeys  certificates of a cluster
wire       a rendered frame as plain bytes, checked when it comes back
simulated  a crew of simulated machines, in accelerated time
bound      how long a frame may take before its renderer counts as hung
control    a run paused, gone on with, ended after the frames under way
around     the frame that stands around a crop
cachepass  light caches, each computed once before the frames that blend it
finishes   frames finished from their rendered pictures, and written
slowness   a run that goes slower than planned, noticed while it goes
asproof    the frames of a run kept as a proof: what they really took is evidence then
account    what a run did, by its journal
"""
