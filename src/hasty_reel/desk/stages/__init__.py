"""The stages of the work, a folder each: Brief, Proofs, Compare, Budget, Run.

brief    what is due, on which machines, by when
budget   what each frame gets
compare  two sides seen in motion, measured, and the causes of what is restless
proofs   test frames chosen, rendered and kept as evidence
run      the final frames by the plan, and what is made of them
"""
