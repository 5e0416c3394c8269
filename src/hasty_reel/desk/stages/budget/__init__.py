"""Budget: what each frame gets.

stage    the solution in words and values
bundles  settings that play clean, three side by side
charts   noise and samples over the frames
"""
