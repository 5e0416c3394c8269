"""Solvers: how many samples each frame gets.

scaling   the one root both goals come down to
samples   noise held, total held, cap held; whole samples, steps, pins, ratio
"""
