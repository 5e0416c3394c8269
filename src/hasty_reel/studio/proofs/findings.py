"""What was found out on the proofs of a shot: sweeps in words, denoising, and what each changed setting accounts for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from psygnal import Signal

from hasty_reel.evidence.attribution import Attribution, SettingEffect, attribute
from hasty_reel.evidence.proof import DenoiseEffect
from hasty_reel.evidence.rows import Evidence
from hasty_reel.evidence.sweep import Sweep, find_sweep, swept_name
from hasty_reel.predict.effects import sure_effects

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session

NOTHING = Attribution((), ())


@dataclass(frozen=True)
class Findings:
    """All that was found about a shot; run : the proofs that denoising was tried on, windows : what it did."""

    sweeps: tuple[Sweep, ...] = ()
    changes: Attribution = NOTHING
    run: str = ""
    windows: tuple[DenoiseEffect, ...] = ()


MOST_RUNS = 2
"""Runs on which denoising was tried that are shown, the newest."""


def find_all(evidence: Evidence, full_width: int) -> Findings:
    """Find what the proofs of a shot say: every sweep, the newest first, and the changes.

    Parameters
    ----------
    evidence : of the shot
    full_width : delivered, in pixels

    Returns
    -------
    Findings
        Sentences in the order of their worth.
    """
    labels = dict.fromkeys(p.sweep for p in reversed(evidence.proofs) if p.sweep)
    sweeps = tuple(find_sweep(evidence, label, label.rpartition(" ")[0], full_width) for label in labels)
    told = {p.id: sure_effects(found) for p in evidence.proofs if (found := evidence.effects_of.get(p.id))}
    told = {name: found for name, found in told.items() if any(e.seen_ratio > 0 for e in found)} or told
    runs = list(told)[-MOST_RUNS:]
    windows = tuple(e for name in runs for e in told[name])
    return Findings(sweeps, attribute([r for r in evidence.frames if not r.scan]), " and ".join(runs), windows)


def percent(factor: float) -> str:
    """Return a factor as a change in percent.

    Parameters
    ----------
    factor : 1 for no change

    Returns
    -------
    str
        Words such as '+12 %'.
    """
    return f"{100 * (factor - 1):+.0f} %".replace("-", "−")


def sweep_title(sweep: Sweep) -> str:
    """Return a sweep and the proofs it consists of, in words.

    Parameters
    ----------
    sweep : the sweep

    Returns
    -------
    str
        Words.
    """
    what = sweep.name if sweep.recipe is None else swept_name(sweep.name, sweep.recipe)
    ids = sorted(p.proof for p in sweep.points)
    return f"Sweep over {what}" + (f", {ids[0]} to {ids[-1]}" if ids else "")


def effect_words(effect: SettingEffect) -> tuple[str, str, str]:
    """Return what a changed setting accounts for.

    Parameters
    ----------
    effect : of the setting

    Returns
    -------
    words
        Of the change
    time, noise
        What it does to each, in percent with its spread; '–' where it is not known
    """
    spread = ""
    if effect.seconds is not None and effect.seconds_range is not None:
        low, high = effect.seconds_range
        spread = f" ±{100 * (high - low) / 2:.0f}"
    time = "–" if effect.seconds is None else percent(effect.seconds) + spread
    noise = "–" if effect.noise is None else percent(effect.noise)
    return effect.words, time, noise


class FindingsModel:
    """Findings of the shot that is looked at, looked for beside everything else when somebody wants to see them.

    changed() : others are there

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.findings = Findings()
        self._outdated, self._looking, self._watched = True, False, False
        for signal in (session.planner.evidence_changed, session.cards.changed, session.playhead.shot_changed):
            signal.connect(self._outdate)

    def watch(self, watched: bool) -> None:
        """Say whether anybody looks at the findings: else they wait.

        Parameters
        ----------
        watched : whether they are in sight
        """
        self._watched = watched
        self._look()

    def _outdate(self) -> None:
        self._outdated = True
        self._look()

    def _look(self) -> None:
        if self._looking or not (self._outdated and self._watched):
            return
        self._outdated, self._looking = False, True
        session = self._session
        evidence = session.evidence.without(session.shot.put_away)
        width, shot = session.reel.picture_size[0], session.playhead.shot_id
        task = session.background.start(lambda task: (shot, find_all(evidence, width)))
        task.done.connect(self._found)
        task.failed.connect(session.said)
        task.ended.connect(self._looked)

    def _found(self, thing: tuple[str, Findings]) -> None:
        shot, findings = thing
        if shot == self._session.playhead.shot_id:
            self.findings = findings
            self.changed.emit()

    def _looked(self) -> None:
        self._looking = False
        self._look()
