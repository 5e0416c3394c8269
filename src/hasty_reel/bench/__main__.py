"""`python -m hasty_reel.bench` is `hasty-bench`."""

from hasty_reel.bench.cli import main

main()
