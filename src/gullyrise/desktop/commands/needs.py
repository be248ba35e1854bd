"""What an action needs to be there before it can run."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Present:
    """What there is just now. parts : placed;  bodies : chosen;  cuts : open;  mill : whether the job's machine is one"""

    parts: int
    bodies: int
    cuts: int
    mill: bool


@dataclass(frozen=True, slots=True)
class Need:
    """missing : what is said where it is not met: {label} is the action's, {opens} are the keys that open parts"""

    met: Callable[[Present], bool]
    missing: str


A_PART = Need(lambda present: present.parts > 0, "{label} needs a part: open one first ({opens}).")
A_SELECTION = Need(lambda present: present.bodies > 0, "{label} needs a selection: click a part first.")
A_CUT = Need(lambda present: present.cuts > 0, "“{label}” needs a cut: X, Y or Z in the strip opens one.")
A_MILL = Need(lambda present: present.mill, "“{label}” is for a mill; choose one in the machine plate first.")
ONE_BODY = Need(lambda present: present.bodies == 1, "{label} needs one chosen body; {bodies} are chosen.")
