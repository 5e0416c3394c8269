"""Nine causes planted one at a time at three strengths by the bench renderer, and clean reference renders.

Prints which cause comes first on the scenes the finder was not tuned on; `tuned` as argument: on those it was.
Takes about ten minutes.
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "measure"))


def main() -> None:
    """Print the table."""
    from planted import CAUSES, CLEAN, COUNT, HELD_BACK, STRENGTHS, TUNED, clean, planted, reader

    from hasty_reel.measure.causes import find_causes

    family = TUNED if "tuned" in sys.argv[1:] else HELD_BACK
    right, seconds = 0, 0.0
    for cause in CAUSES:
        for strength in STRENGTHS:
            pictures = planted(cause, family, strength)
            began = time.perf_counter()
            found = find_causes(range(COUNT), reader(pictures)).causes
            seconds += time.perf_counter() - began
            right += found[0].name == cause
            others = ", ".join(f"{c.words} {c.score:.2f}" for c in found[1:4] if c.score >= 0.1)
            verdict = "first" if found[0].name == cause else "NOT FIRST"
            print(f"{cause:15} {strength}  {verdict}  {found[0].words} {found[0].score:.2f}  {others}")
    for which in CLEAN:
        found = find_causes(range(COUNT), reader(clean(which, family))).causes
        print(f"clean {which:9}    highest {found[0].words} {found[0].score:.2f}")
    count = len(CAUSES) * len(STRENGTHS)
    print(f"{right} of {count} first; {1000 * seconds / (count * COUNT):.0f} ms a frame of 192x108")


if __name__ == "__main__":
    main()
