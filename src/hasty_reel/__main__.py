"""`python -m hasty_reel` is the command line."""

from hasty_reel.cli import main

main()
