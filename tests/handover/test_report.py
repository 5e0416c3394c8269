"""The report: one page that stands by itself, with a graph for each quantity and what was really taken."""

from __future__ import annotations

import re
import zlib
from html.parser import HTMLParser
from xml.etree import ElementTree

import numpy as np
import pytest

from hasty_reel.cli import main
from hasty_reel.handover.graph import Graph


class Page(HTMLParser):
    """Everything that opens and closes, and what is referred to."""

    def __init__(self) -> None:
        super().__init__()
        self.open: list[str] = []
        self.links: list[str] = []
        self.count: dict[str, int] = {}

    def handle_starttag(self, tag, attrs):
        self.count[tag] = self.count.get(tag, 0) + 1
        self.links += [v for k, v in attrs if k in ("src", "href")]
        if tag not in ("meta", "img", "line", "circle", "polyline", "polygon", "br"):
            self.open.append(tag)

    def handle_startendtag(self, tag, attrs):
        self.handle_starttag(tag, attrs)
        if self.open and self.open[-1] == tag:
            self.open.pop()

    def handle_endtag(self, tag):
        assert self.open.pop() == tag


def call(*arguments) -> int:
    with pytest.raises(SystemExit) as leave:
        main([str(a) for a in arguments])
    return int(leave.value.code or 0)


def test_the_page_stands_by_itself_and_shows_plan_and_run(small_path, tmp_path, capsys):
    assert call("run", small_path, "--shot", "sh010", "--frames", "1001-1004", "--out", tmp_path / "out") == 0
    out = tmp_path / "report.html"
    assert call("report", small_path, "--out", out, "--run", tmp_path / "out") == 0
    text = out.read_text()
    page = Page()
    page.feed(text)
    assert page.open == [] and page.count["h2"] == 5 and page.count["svg"] == 20
    assert page.links and all(link.startswith("data:image/jpeg;base64,") for link in page.links), "nothing is fetched"
    assert "4 frames rendered, 4 finished" in text and page.count["circle"] == 4
    assert "Tidal Orrery" in text and re.search(r"Ready \w{3} .*9 in 10", text)
    assert "<script" not in text and "http" not in text.replace("http-equiv", "")
    assert call("report", small_path, "--out", out) == 2 and "exists already" in capsys.readouterr().err
    assert call("report", small_path, "--out", tmp_path / "report.txt") == 2


def test_the_report_as_pdf_holds_its_words_pictures_and_fonts(small_path, tmp_path):
    """Looked at through the PDF's own structure (ISO 32000): pages, embedded fonts, pictures."""
    out = tmp_path / "report.pdf"
    assert call("report", small_path, "--out", out) == 0
    data = out.read_bytes()
    assert data.startswith(b"%PDF-1.7") and data.rstrip().endswith(b"%%EOF")
    # a packed stream may end with a byte that looks like the end of a line: its checksum is not asked for
    objects = b"".join([data, *(zlib.decompressobj().decompress(s) for s in streams(data))])
    assert len(re.findall(rb"/Type\s*/Page\b", objects)) >= 5, "a page or more for each shot"
    fonts = {name.decode().split("+")[-1] for name in re.findall(rb"/FontName\s*/([A-Za-z0-9+-]+)", objects)}
    assert fonts and all(name.startswith("Lato") for name in fonts), "none but those that ship"
    assert objects.count(b"/Subtype/Image") + objects.count(b"/Subtype /Image") >= 5


def streams(data: bytes) -> list[bytes]:
    """Those of a PDF that are packed."""
    return [s for s in re.findall(rb"stream\r?\n(.*?)\r?\nendstream", data, re.DOTALL) if s[:1] == b"\x78"]


def test_a_graph_holds_its_values_and_no_markup_of_others():
    frames = np.arange(1001, 1101)
    drawn = Graph(
        "Noise <of> & more", frames, np.linspace(1, 4, 100), np.linspace(0.5, 3, 100), np.linspace(2, 5, 100), 2.5, {1003: 3.0}
    ).drawn()
    tree = ElementTree.fromstring(str(drawn))
    line = tree.find("polyline").get("points").split()
    heights = [float(p.split(",")[1]) for p in line]
    assert len(line) == 100 and heights == sorted(heights, reverse=True), "what grows goes up"
    assert tree.find("text").text == "Noise <of> & more" and len(tree.findall("circle")) == 1
    assert Graph("flat", frames[:1], np.zeros(1)).drawn().startswith("<svg")
