"""Each render setting, declared once; ledger, file, hashes, links, sweeps and regressions follow from its declaration.

setting      what a declaration tells of a setting
recipe       the settings that ship, each declared beside its field, and what a recipe of them is
own          settings of the artist's own
finishorder  the order of finishing, steps of the artist's own in it
"""
