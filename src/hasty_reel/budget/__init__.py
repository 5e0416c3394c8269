"""Solvers: how many samples each frame gets.

scaling    the one root both goals come down to
relax      no pumping between neighbours
samples    seen flicker held, noise held, total held, cap held; whole samples, steps, pins, ratio
stopping   places of a frame that stop where they are clean enough, counted
"""
