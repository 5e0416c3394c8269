"""The stages of the work, a folder each: Brief, Proofs, Compare, Budget, Finish, Output, Run.

brief    what is due, on which machines, by when
budget   what each frame gets
compare  two sides seen in motion, measured, and the causes of what is restless
proofs   test frames chosen, rendered and kept as evidence
finish   what the chain does to a proof run, and what it is worth
output   the right files, named right, complete
run      the final frames by the plan, and what is made of them
"""
