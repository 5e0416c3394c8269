"""The artist's own steps of finishing: command lines that take finished-so-far pictures and write others.

A reel may come from anybody; what is started on this machine must not. So a recipe holds the name of
a step alone, and its command is kept on this machine, as the renderer links are.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence

import msgspec

from hasty_reel.errors import WrongInput
from hasty_reel.own.chosenlist import ChosenList, KeptList
from hasty_reel.programs.commands import check_command
from hasty_reel.programs.expressions import compiled
from hasty_reel.settings.finishorder import own_names

FRAME_PLACES = ("input", "output", "frame", "width", "height")
FOLDER_PLACES = ("input", "output", "first", "last", "width", "height")
"""What may stand in braces: in a step on a folder, input and output are folders, and the files have the same names in both."""
NEEDED = {"input": "what is read", "output": "what is written"}
FRAME_FILE = "frame.{:04d}.exr"
"""Name of a frame in the folders of a step, by its number."""


class OwnStep(msgspec.Struct, frozen=True, forbid_unknown_fields=True, kw_only=True):
    """One step of the artist's own.

    command : arguments, the program first; '{input}' and the like are filled in
    timeout : seconds after which a frame, or the folder, is given up
    progress : pattern whose first group is the percentage done; '' for none
    folder : whether it is started once, on a folder with all frames, and not on each frame
    """

    name: str
    command: tuple[str, ...]
    timeout: float = 600.0
    progress: str = ""
    folder: bool = False

    @property
    def fingerprint(self) -> str:
        """What tells this command from others of its name."""
        told = msgspec.json.encode((self.command, self.folder))
        return hashlib.blake2b(told, digest_size=8).hexdigest()


def check_step(step: OwnStep, where: str) -> None:
    """Raise an error where a step cannot be started.

    Parameters
    ----------
    step : the step
    where : the step in words, for the message

    Raises
    ------
    WrongInput
        Says what is wrong and what was expected.
    """
    if any(c in step.name for c in ",>"):
        raise WrongInput(f"{where}: expected a name without commas and '>'.")
    if not 0.1 <= step.timeout <= 30 * 86400:
        raise WrongInput(f"{where}: time-out {step.timeout:g} s; expected 0.1 s to 30 days.")
    if step.progress and compiled(step.progress, f"{where}, progress").groups < 1:
        raise WrongInput(f"{where}: pattern '{step.progress[:60]}' of progress; expected a regular expression with one group.")
    check_command(step.command, FOLDER_PLACES if step.folder else FRAME_PLACES, NEEDED, where)


OWN_STEPS = KeptList("own-steps.json", "steps", OwnStep, "own steps", ChosenList((), optional=True), check_step)
"""The artist's own steps."""


def own_step(name: str, kept: ChosenList[OwnStep] | None = None) -> OwnStep:
    """Return the step of a name.

    Parameters
    ----------
    name : of the step
    kept : the artist's steps; None: as they are kept on this machine

    Raises
    ------
    WrongInput
        When there is none of this name; names those that there are.
    """
    known = (OWN_STEPS.read() if kept is None else kept).items
    for step in known:
        if step.name == name:
            return step
    there = ", ".join(f"'{s.name}'" for s in known) or "none is"
    raise WrongInput(f"Own step '{name[:60]}' is not kept on this machine; expected one that is ({there}).")


def lacking_steps(order: Sequence[str]) -> list[str]:
    """Return what is to be said of steps in an order of finishing that this machine does not keep.

    Parameters
    ----------
    order : names of steps
    """
    here = {step.name for step in OWN_STEPS.read().items}
    return [f"Own step '{name}' is not kept on this machine; finishing needs it." for name in own_names(order) if name not in here]
