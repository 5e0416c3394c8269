"""Draw the rooms of the program from its code: `python docs/rooms.py` writes docs/rooms.svg.

Layers come from the import contract in pyproject.toml, arrows from the imports themselves (grimp), words from the
first sentence of each room. Arrows that follow from others are left out. A test holds the picture to the code.
"""

from __future__ import annotations

import ast
import html
import tomllib
from pathlib import Path

import grimp

ROOT = Path(__file__).parent.parent
PICTURE = Path(__file__).parent / "rooms.svg"
PACKAGE = "hasty_reel"
SINGLE = "single modules"
WIDTH, MARGIN, LANES, BOX, GAP = 1180, 20, 150, 50, 22
INK, LINE, PAPER, FILL = "#22262b", "#8a929c", "#ffffff", "#f1f3f5"


def layers() -> list[list[str]]:
    """Rooms from top to bottom, those of one layer side by side; the single modules at the bottom are one."""
    contract = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"][0]
    out = []
    for line in contract["layers"]:
        rooms = [name.strip().removeprefix(f"{PACKAGE}.") for name in line.split("|")]
        rooms = [name for name in rooms if (ROOT / "src" / PACKAGE / name / "__init__.py").exists()]
        if rooms:
            out.append(rooms)
    return [*out, [SINGLE]]


def sentence(room: str) -> str:
    """What a room is, in the first sentence of its docstring."""
    if room == SINGLE:
        return "errors, work, whole files, kernels: known to every room"
    text = ast.get_docstring(ast.parse((ROOT / "src" / PACKAGE / room / "__init__.py").read_text())) or ""
    words = " ".join(text.split("\n\n")[0].split())
    return words.split(". ")[0].rstrip(".")


def arrows(rooms: list[list[str]]) -> dict[str, set[str]]:
    """Of each room the rooms it imports, without those that it reaches by way of another."""
    graph = grimp.build_graph(PACKAGE)
    names = [name for row in rooms for name in row if name != SINGLE]
    direct: dict[str, set[str]] = {name: set() for name in names}
    for module in graph.modules:
        room = module.split(".")[1] if "." in module else ""
        if room not in direct:
            continue
        for other in graph.find_modules_directly_imported_by(module):
            target = other.split(".")[1] if "." in other else ""
            if target in direct and target != room:
                direct[room].add(target)
    beyond: dict[str, set[str]] = {}
    for name in reversed(names):
        beyond[name] = set().union(*({n} | beyond.get(n, set()) for n in direct[name]))
    return {name: {n for n in direct[name] if not any(n in beyond[m] for m in direct[name] if m != n)} for name in names}


def drawn() -> str:
    """The picture as SVG."""
    rows = layers()
    places: dict[str, tuple[float, float, float]] = {}
    boxes: list[str] = []
    ways: list[str] = []
    for k, row in enumerate(rows):
        wide = (WIDTH - 2 * MARGIN - LANES - GAP * (len(row) - 1)) / len(row)
        y = MARGIN + k * (BOX + GAP)
        for j, room in enumerate(row):
            x = MARGIN + j * (wide + GAP)
            places[room] = (x, y, wide)
            boxes.append(f'<rect x="{x:.0f}" y="{y}" width="{wide:.0f}" height="{BOX}" rx="4" fill="{FILL}" stroke="{LINE}"/>')
            boxes.append(f'<text x="{x + 12:.0f}" y="{y + 21}" font-weight="bold">{room}</text>')
            room_for = int(wide / 6.3)
            words = sentence(room)
            words = words if len(words) <= room_for else words[: room_for - 1].rsplit(" ", 1)[0].rstrip(",;:") + " ..."
            boxes.append(f'<text x="{x + 12:.0f}" y="{y + 39}" font-size="12">{html.escape(words)}</text>')
    lanes = 0
    right = WIDTH - MARGIN - LANES + 8
    for name, targets in arrows(rows).items():
        x, y, wide = places[name]
        for target in sorted(targets):
            tx, ty, twide = places[target]
            low = y + BOX
            if ty - low <= GAP + 1:  # the next row: straight down
                middle = min(max(x + wide / 2, tx + 30), tx + twide - 30)
                middle = min(max(middle, x + 10), x + wide - 10)
                ways.append(f'<line x1="{middle:.0f}" y1="{low}" x2="{middle:.0f}" y2="{ty - 4}" class="way"/>')
            else:  # past rows in between: a lane of its own at the right
                lane = right + 14 + 13 * (lanes % 21)
                lanes += 1
                up, down = y + BOX / 2 + lanes % 5 * 4 - 8, ty + BOX / 2 + lanes % 7 * 4 - 12
                ends = tx + twide
                ways.append(
                    f'<polyline points="{x + wide:.0f},{up:.0f} {lane:.0f},{up:.0f} '
                    f'{lane:.0f},{down:.0f} {ends + 4:.0f},{down:.0f}" class="way"/>'
                )
    height = MARGIN * 2 + len(rows) * (BOX + GAP) - GAP
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH}" height="{height}" viewBox="0 0 {WIDTH} {height}" '
        f'font-family="sans-serif" font-size="15" fill="{INK}">\n'
        '<defs><marker id="tip" markerWidth="7" markerHeight="7" refX="5" refY="3.5" orient="auto">'
        f'<path d="M0,0 L7,3.5 L0,7 z" fill="{LINE}"/></marker></defs>\n'
        f"<style>.way{{fill:none;stroke:{LINE};stroke-width:1.3;marker-end:url(#tip)}}</style>\n"
        f'<rect width="{WIDTH}" height="{height}" fill="{PAPER}"/>\n'
    )
    return head + "\n".join([*ways, *boxes]) + "\n</svg>\n"


if __name__ == "__main__":
    PICTURE.write_text(drawn())
