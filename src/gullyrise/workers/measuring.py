"""Taking measures beside the interface."""

from __future__ import annotations

from dataclasses import dataclass

from gullyrise.core.measuring.picks import Pick
from gullyrise.core.measuring.subject import Subject
from gullyrise.core.measuring.taking import Taken
from gullyrise.core.progress import Progress
from gullyrise.workers.fencing.task import Task


@dataclass(frozen=True, slots=True, eq=False)
class TakeMeasure(Task):
    """The figures of picks: a Taken. closely : smallest gaps and thickness too, which take longer"""

    picks: tuple[Pick, ...]
    subjects: tuple[Subject, ...]
    closely: bool
    title: str = "measure"

    def run(self, progress: Progress) -> Taken:
        from gullyrise.core.measuring.taking import take

        return take(self.picks, self.subjects, closely=self.closely)
