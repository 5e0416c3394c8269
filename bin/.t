#!/bin/sh
# Set up, and check everything: style, types, docstrings, dead code, rooms, tests. Arguments go to pytest.
want=dev
. "$(dirname "$0")/_setup"
say "Style"
ruff check src tests benchmarks
ruff format --check -q src tests benchmarks
say "Types"
mypy --no-error-summary
say "Docstrings"
find src/hasty_reel -name "*.py" -not -path "*/desk/*" -not -path "*/cli/*" -exec numpydoc lint {} +
say "Dead code"
vulture
say "Rooms"
lint-imports --no-logo >/dev/null || lint-imports
say "Tests"
export QT_QPA_PLATFORM=offscreen
export OMP_WAIT_POLICY=passive # two at once share the cores: a thread that waits sleeps instead of turning round
exit 0; exec python -m pytest -q -n 2 --dist worksteal "$@"
