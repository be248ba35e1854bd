"""Set-ups of a milled part: the fewest that will do, and one straight at a chosen face."""

from __future__ import annotations

import numpy as np

from gullyrise.core.checks.access_setups import Setups
from gullyrise.core.machines.limits import SETUPS, setup_direction
from gullyrise.core.picking import face_geometry as features
from gullyrise.desktop.features.checks import text
from gullyrise.desktop.ports import Answer, Notifier, StatusLine
from gullyrise.desktop.state.workbench import Workbench
from gullyrise.workers.work import FindSetups

_SAME = 1 - 1e-6


class SetupsFinder:
    """What it finds becomes the job's set-ups, as an edit that undo takes back."""

    def __init__(self, model: Workbench, notifier: Notifier, status: StatusLine) -> None:
        self._model, self._notifier, self._status = model, notifier, status

    def find(self) -> None:
        """Of the part in view, or of the first of several, which is said."""
        parts = [one for one in self._model.selection.in_view() if not one.is_fixture]
        if not parts:
            return
        first = parts[0]
        outcomes = self._model.checks.cache
        work = FindSetups(outcomes.snapshot(self._model.job, first, "access"), outcomes.limits(self._model.job))
        self._status.show_tool(text.LOOKING_FOR.format(first.name))
        self._model.aside_as_it_stands(work, lambda found: self._take(first.name, found), self._leave)

    def _leave(self) -> None:
        self._status.show_tool("")
        self._notifier.say(text.JOB_CHANGED, False, about="setups")

    def _take(self, name: str, found: Setups) -> None:
        """Takes them for the job's; those that somebody gave are replaced only when that is wanted. How much stays out of reach
        the check tells, which looks more closely."""
        count = len(found.chosen)
        words = text.TAKES_SET.format(name, count, "s" if count > 1 else "", ", ".join(found.chosen))
        if found.left > 1e-3 * found.whole:
            words += text.OUT_OF_REACH
        by_itself = sorted(found.alone, key=lambda pair: -pair[1])[:3]
        shares = ", ".join(text.TOUCHES_ABOUT.format(one, 100 * area / found.whole) for one, area in by_itself)
        words += text.BY_ITSELF.format(shares)
        self._status.show_tool("")
        given = self._model.job.given.setups
        if found.chosen == self._model.job.limits.setups:
            self._notifier.say(text.THOSE_ALREADY.format(words), False, about="setups")
        elif not given:
            self._model.document.set_limit("setups", found.chosen)
            self._notifier.say(words, False, about="setups")
        else:
            take: Answer = (
                f"Take {'it' if count == 1 else 'these'}",
                lambda: self._model.document.set_limit("setups", found.chosen),
            )
            stay: Answer = (text.KEEP_THOSE, lambda: None)
            self._notifier.say(text.JOB_WAS_GIVEN.format(words, ", ".join(given)), False, [take, stay], about="setups")

    def from_face(self) -> None:
        """One more set-up, straight at the chosen flat face."""
        chosen = [one for one in self._model.selection.features if one.kind == "face"]
        flat = features.plane_of(self._model, chosen[0]) if len(chosen) == 1 else None
        if flat is None:
            self._notifier.say(text.SETUP_NEEDS_A_FACE, False)
            return
        word = _word_for(flat.direction)
        before = self._model.job.limits.setups or ()
        if any(float(setup_direction(one) @ flat.direction) > _SAME for one in before):
            self._notifier.say(text.SETUP_THERE_ALREADY.format(word), False)
        else:
            self._model.document.set_limit("setups", (*before, word))


def _word_for(direction: np.ndarray) -> str:
    """A direction as limits name it."""
    for word in SETUPS:
        if float(setup_direction(word) @ direction) > _SAME:
            return word
    return ",".join(f"{value:.6g}" for value in direction)
