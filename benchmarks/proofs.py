"""The proof sheet with 2,000 proofs: laying the cards out, marking one, painting a screenful.

Without a screen the window is drawn offscreen.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from pathlib import Path

import msgspec

from hasty_reel.demo import NAME, SOURCE, copy_demo
from hasty_reel.evidence.attribution import attribute
from hasty_reel.evidence.rows import EvidenceReader
from hasty_reel.evidence.sheet import chosen, marked, unmarked
from hasty_reel.reel.edits import with_mark
from hasty_reel.reel.file import read_reel

PROOFS = 2000


def timed(act: Callable[[], object], rounds: int = 5) -> float:
    """Median milliseconds of an act."""
    out = []
    for _ in range(rounds):
        began = time.perf_counter()
        act()
        out.append((time.perf_counter() - began) * 1000)
    return statistics.median(out)


def main() -> None:
    """Print the figures."""
    reel = read_reel(SOURCE / NAME)
    evidence = EvidenceReader().read(SOURCE / "proofs", reel.shot("sh010"))
    base = evidence.proofs[0]
    recipes = [msgspec.structs.replace(base.recipe, bounces=k % 9, shutter_angle=float(k % 5) * 45) for k in range(PROOFS)]
    proofs = tuple(msgspec.structs.replace(base, id=f"p{k:04d}", recipe=r, pictures=()) for k, r in enumerate(recipes))
    rows = tuple(replace(evidence.frames[0], proof=p.id, recipe=p.recipe) for p in proofs)
    many = replace(evidence, frames=rows, proofs=proofs)
    found = unmarked(many, reel)
    shot = with_mark(reel, "sh010", "p0100", star=True).shot("sh010")
    print(f"{PROOFS} proofs: cards laid out {timed(lambda: unmarked(many, reel)):.0f} ms")
    print(f"marked {timed(lambda: marked(found, shot)):.1f} ms, filtered {timed(lambda: chosen(found, 'bounces 3', by='noise')):.1f} ms")
    print(f"attribution {timed(lambda: attribute(rows), 1):.0f} ms")
    from PySide6.QtWidgets import QApplication

    from hasty_reel.desk import theme
    from hasty_reel.desk.eventloop import QtEventLoop
    from hasty_reel.desk.screen import draw_offscreen
    from hasty_reel.desk.stages.proofs.sheet import ProofSheet
    from hasty_reel.studio.session import Session

    draw_offscreen()
    app = QApplication(sys.argv[:1])
    theme.apply(app)
    with tempfile.TemporaryDirectory() as name:
        session = Session(copy_demo(Path(name), datetime.now().astimezone()), QtEventLoop(app))
        sheet = ProofSheet(session)
        sheet.resize(408, 440)
        sheet.model_.show_cards(found)
        sheet.show()
        app.processEvents()
        took = []
        bar = sheet.verticalScrollBar()
        for k in range(60):
            began = time.perf_counter()
            bar.setValue(bar.maximum() * k // 60)
            app.processEvents()
            took.append((time.perf_counter() - began) * 1000)
        print(f"a step of scrolling: median {statistics.median(took):.1f} ms, longest {max(took):.1f} ms")
        session.background.stop_all()


if __name__ == "__main__":
    main()
