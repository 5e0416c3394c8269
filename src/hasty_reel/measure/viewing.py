"""From where a film is seen, and from which seen flicker on it is not calm any more: by the eye test that counts, else as the reel says.

How far people sit is common practice, no source: a laptop or monitor of 20 cm at 60 cm, a phone of 6.5 cm at 30 cm, a television of
70 cm at 2.7 m, the middle of a cinema. Beside a monitor's worth of rows a smaller picture stays in its window; the others fill their
screens.
"""

from __future__ import annotations

from dataclasses import replace

from hasty_reel.measure.seen import STANDARD, Eyes
from hasty_reel.reel.calm import LEVELS, Calm, Viewing
from hasty_reel.reel.document import Reel
from hasty_reel.reel.shot import Shot
from hasty_reel.viewers import limit_of, viewers_words

LEVEL_TIPS = {"strict": ", for what is watched often", "usual": "", "relaxed": ", for fast turn-round and small screens"}
"""What a level of calm is for."""
SEATS: dict[Viewing, Eyes] = {
    "laptop": STANDARD,
    "phone": Eyes(4.5, fills=True),
    "television": Eyes(4.0, fills=True),
    "cinema": Eyes(2.0, fills=True),
}
"""Who looks where nobody's eyes were tested."""


def calm_of(reel: Reel, shot: Shot | None = None) -> Calm:
    """Return how many viewers in a hundred may see unrest, or 'eyes'.

    Parameters
    ----------
    reel : the reel
    shot : the shot or layer, which may say it otherwise; None: what the reel says
    """
    return reel.calm if shot is None or shot.calm is None else shot.calm


def eyes_for(reel: Reel, shot: Shot | None = None, tested: Eyes = STANDARD) -> Eyes:
    """Return who looks at a film, from where, and from which seen flicker on it counts as not calm.

    Parameters
    ----------
    reel : says from where it is seen, and how calm it is to be
    shot : the shot or layer, which may say how calm otherwise; None: as the reel says
    tested : of the eye test that counts; the standard observer's where nobody was tested
    """
    seat = SEATS[reel.viewing] if tested == STANDARD else tested
    calm = calm_of(reel, shot)
    return replace(seat, limit=tested.limit if calm == "eyes" else limit_of(calm / 100.0))


def calm_words(calm: Calm) -> str:
    """Return a level of calm in words: 'usual: 1 in 4', '1 in 7', 'own eyes'.

    Parameters
    ----------
    calm : percent of viewers, or 'eyes'
    """
    if calm == "eyes":
        return "own eyes"
    name = next((n for n, share in LEVELS.items() if share == calm), "")
    share = viewers_words(calm / 100.0)
    return f"{name}: {share}" if name else share


def calm_entries() -> list[tuple[Calm, str]]:
    """Return the levels of calm that are offered, with what they are for."""
    named: list[tuple[Calm, str]] = [(share, f"{calm_words(share).capitalize()} may see it{LEVEL_TIPS[n]}") for n, share in LEVELS.items()]
    return [*named, ("eyes", "Nobody, by the eye test")]
