"""What an action needs to be there before it can run."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Present:
    """What there is just now. parts : placed;  bodies : chosen;  cuts : open;  mill : whether the job's machine is one
    undo, redo : steps of the job;  work : whether something runs beside the window;  recent : jobs that were open before
    """

    parts: int
    bodies: int
    cuts: int
    mill: bool
    undo: bool = False
    redo: bool = False
    work: bool = False
    recent: int = 0


@dataclass(frozen=True, slots=True)
class Need:
    """word : what is wanted, as it stands beside the action on its card
    missing : what is said where it is not met: {label} is the action's, {opens} are the keys that open parts
    """

    met: Callable[[Present], bool]
    word: str
    missing: str


A_PART = Need(lambda present: present.parts > 0, "no part", "{label} needs a part: open one first ({opens}).")
A_SELECTION = Need(lambda present: present.bodies > 0, "nothing selected", "{label} needs a selection: click a part first.")
A_CUT = Need(lambda present: present.cuts > 0, "no cut", "“{label}” needs a cut: X, Y or Z in the cut line opens one.")
A_MILL = Need(lambda present: present.mill, "no mill", "“{label}” is for a mill; choose one in the machine plate first.")
ONE_BODY = Need(lambda present: present.bodies == 1, "not one body", "{label} needs one selected body; {bodies} are selected.")
TO_UNDO = Need(lambda present: present.undo, "nothing", "There is nothing to undo.")
TO_REDO = Need(lambda present: present.redo, "nothing", "There is nothing to redo.")
WORK = Need(lambda present: present.work, "nothing runs", "Nothing runs in the background.")


def recent_job(number: int) -> Need:
    """number : the latest is 1"""
    return Need(lambda present: present.recent >= number, "none", "There is no such recent job yet.")
