"""The models of Output.

outputs      what finished frames are handed over as: format, colour, options, name, and what it weighs
weighing     what the shot weighs in each format, measured on its proofs
reportfile   the report of the reel, written
foldercheck  the finished frames checked before they are handed over
"""
