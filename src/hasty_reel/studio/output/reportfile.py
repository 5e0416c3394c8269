"""The report of the reel, written beside everything else."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING

from hasty_reel.errors import WrongInput, reason
from hasty_reel.farm.finals.account import account_of
from hasty_reel.farm.finals.journal import read_journal
from hasty_reel.studio.background import BackgroundTask
from hasty_reel.wholefile import write_whole

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


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
        from hasty_reel.handover.report import ShotRun, report_page  # brings the template engine along

        runs = {}
        for name in outlook.plans:
            account = account_of(read_journal(folder / name))
            runs[name] = ShotRun(account.words, {f: real for f, (real, _) in account.rendered.items()})
        try:
            write_whole(target, report_page(reel, outlook, evidence, runs, now).encode())
        except OSError as error:
            raise WrongInput(f"{target}: cannot be written ({reason(error)}).") from error
        return target

    return session.background.start(_write)
