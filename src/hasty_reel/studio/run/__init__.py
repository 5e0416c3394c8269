"""The models of Run.

final     the final frames of the shot: where they go, how they stand, rendered by the plan
handover  finished frames as a film and as pictures
"""
