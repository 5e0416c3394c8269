"""A page as PDF, with the fonts that ship with the program; nothing is fetched for it."""

from __future__ import annotations

import logging
import os
import subprocess
import sys
from pathlib import Path

from hasty_reel.errors import HastyReelError
from hasty_reel.ownprocess import own_module
from hasty_reel.temporary import temporary_folder

FONTS = Path(__file__).parent.parent / "fonts"
FACES = (("Lato-Medium.ttf", 400), ("Lato-Semibold.ttf", 600), ("Lato-Bold.ttf", 700))
SHEET = """
@page { size: A4; margin: 14mm 14mm 16mm; }
@page { @bottom-right { content: counter(page) " / " counter(pages); font: 11px Lato; color: #6a655d; } }
main { padding: 0; }
body { font-size: 13px; }
h2:first-of-type { break-before: page; }
h2 { margin: 0 0 4px; padding: 0; border: 0; }
.pictures { display: block; }
.pictures figure { display: inline-block; width: 31.5%; margin: 0 1.5% 0 0; }
.pictures img { width: 100%; }
svg { margin: 6px 0 8px; }
"""


LONGEST_SECONDS = 600


def as_pdf(page: str) -> bytes:
    """Return a page as PDF, on A4; laid out in a process of its own, whose files of a moment lie where they are cleared.

    Parameters
    ----------
    page : HTML that stands by itself; what it refers to besides its own data is left out

    Raises
    ------
    HastyReelError
        When it cannot be laid out.
    """
    with temporary_folder("report") as folder:
        try:
            done = subprocess.run(
                own_module("hasty_reel.handover.pdf"), input=page.encode("utf-8"), capture_output=True, cwd="/", check=True,
                timeout=LONGEST_SECONDS, env={**os.environ, "TMPDIR": str(folder)},
            )  # fmt: skip
        except (OSError, subprocess.SubprocessError) as error:
            raise HastyReelError(f"The page could not be laid out as PDF ({type(error).__name__}); as HTML it can be written.") from error
    return done.stdout


def laid_out(page: str) -> bytes:
    """Return a page as PDF, laid out in this process.

    Parameters
    ----------
    page : HTML that stands by itself
    """
    from weasyprint import CSS, HTML  # brings a layout engine along
    from weasyprint.text.fonts import FontConfiguration
    from weasyprint.urls import URLFetcher

    logging.getLogger("weasyprint").setLevel(logging.ERROR)  # it tells of each rule of a graph that it reads as an attribute
    fonts = FontConfiguration()
    faces = "".join(
        f"@font-face {{ font-family: Lato; font-weight: {weight}; src: url('{(FONTS / name).as_uri()}'); }}" for name, weight in FACES
    )
    sheet = CSS(string=faces, font_config=fonts, url_fetcher=URLFetcher(allowed_protocols={"file"}))
    inside = URLFetcher(allowed_protocols={"data"})
    found: bytes = HTML(string=page.replace("</head>", f"<style>{SHEET}</style></head>", 1), url_fetcher=inside).write_pdf(
        stylesheets=[sheet], font_config=fonts
    )
    return found


def main() -> None:
    """Lay out what comes in, and write it out."""
    page = sys.stdin.buffer.read().decode("utf-8")
    out, sys.stdout = sys.stdout, sys.stderr  # what a library prints must not get into the answer
    out.buffer.write(laid_out(page))
    out.buffer.flush()


if __name__ == "__main__":
    main()
