"""From evidence to frames not rendered yet: seconds, noise, and what is not proven.

factors        how a setting changes cost and variance, from proofs that vary it
model          all of it for one shot and one recipe, as arrays over frames
interpolation  carry a positive quantity from proof frames to all frames of a shot
"""
