"""The report of the reel, and a contact sheet of the shot, written beside everything else."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from hasty_reel.errors import WrongInput, reason
from hasty_reel.evidence.rows import Evidence
from hasty_reel.pictures.footage import Footage
from hasty_reel.plan.outlook import Outlook
from hasty_reel.reel.document import Reel
from hasty_reel.reel.frames import evenly
from hasty_reel.run.account import account_of
from hasty_reel.run.framestate import FINISHED
from hasty_reel.run.journal import read_journal
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.wholefile import write_whole

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

SHOWN = 24
"""Frames of a contact sheet."""


def write_report(session: Session, target: Path, now: datetime) -> BackgroundTask:
    """Write a report of the reel as it is planned, and of what its runs did.

    Parameters
    ----------
    session : the open reel
    target : the page
    now : the time of the report

    Returns
    -------
    BackgroundTask
        Done with the path of the page.
    """
    reel, outlook, evidence, folder = session.reel, session.planner.outlook, dict(session.planner.evidence), session.final.folder

    def _write(task: BackgroundTask) -> Path:
        write_report_page(target, reel, outlook, evidence, folder, now)
        return target

    return session.background.start(_write)


def write_report_page(
    target: Path, reel: Reel, outlook: Outlook, evidence: Mapping[str, Evidence], folder: Path | None, now: datetime
) -> None:
    """Write the report of a reel, with what its runs did by their journals.

    Parameters
    ----------
    target : the page; one that ends in .pdf becomes a PDF
    reel : the reel
    outlook : plans by shot or layer, and the deadline
    evidence : by shot or layer, for the pictures
    folder : of the runs; None: the plan alone
    now : the time of the report

    Raises
    ------
    WrongInput
        When it cannot be written.
    """
    from hasty_reel.handover.report import ShotRun, report_page  # brings the template engine along

    runs = {}
    for name in outlook.plans:
        account = account_of([] if folder is None else read_journal(folder / name))
        runs[name] = ShotRun(account.words, {f: real for f, (real, _) in account.rendered.items()})
    page = report_page(reel, outlook, evidence, runs, now)
    if target.suffix.lower() == ".pdf":
        from hasty_reel.handover.pdf import as_pdf

        made = as_pdf(page)
    else:
        made = page.encode()
    try:
        write_whole(target, made)
    except OSError as error:
        raise WrongInput(f"{target}: cannot be written ({reason(error)}).") from error


def write_sheet(session: Session, target: Path) -> BackgroundTask:
    """Write a contact sheet of the finished frames of the shot that is looked at.

    Parameters
    ----------
    session : the open reel
    target : the picture

    Returns
    -------
    BackgroundTask
        Done with the path of the picture.
    """
    run = session.final.run

    def _write(task: BackgroundTask) -> Path:
        from hasty_reel.handover.contactsheet import contact_sheet, write_contact_sheet

        frames = [] if run is None else [f for f, s in run.states.items() if s == FINISHED]
        if run is None or not frames:
            raise WrongInput("No frame of this shot is finished yet: a contact sheet shows finished frames.")
        write_contact_sheet(target, contact_sheet(Footage(run.folder.final), evenly(frames, SHOWN), progress=task.tell, cancel=task.cancel))
        return target

    return session.background.start(_write)
