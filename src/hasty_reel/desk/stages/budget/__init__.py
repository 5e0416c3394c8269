"""Budget: what each frame gets.

stage   the solution in words and values
charts  noise and samples over the frames
"""
