"""Models of the stage Budget.

hold          what the budget of the shot holds: the promises, and edits of them
alternatives  three bundles of settings that play clean, looked for beside everything else
"""
