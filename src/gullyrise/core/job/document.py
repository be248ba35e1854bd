"""The document: the job as it is, and the way back and forth."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from gullyrise.core.job.job import Job


@dataclass(frozen=True, slots=True)
class Step:
    """One edit.

    name : in words, for who undoes it
    opens : whether it only brought in what is safe in files
    job : as it was on the other side of it
    """

    name: str
    opens: bool
    job: Job


class Document:
    """The job as it is, with the way back and forth."""

    def __init__(self, job: Job) -> None:
        self._job = job
        self._back: list[Step] = []
        self._merging: object = None
        self._forth: list[Step] = []
        self._forgotten = 0
        self._worked_before = False

    @property
    def job(self) -> Job:
        """The state of now."""
        return self._job

    def edit(self, name: str, change: Callable[[Job], Job], merging: object = None, *, opens: bool = False) -> bool:
        """Makes the next job; False where the change changed nothing.

        merging : edits in a row that have an equal one are undone together, under the last name
        opens : as Step has it.
        """
        changed = change(self._job)
        if changed.says_the_same(self._job):
            return False
        if merging is not None and merging == self._merging and self._back:
            self._back[-1] = replace(self._back[-1], name=name)
        else:
            self._back.append(Step(name, opens, self._job))
        self._merging = merging
        self._forth.clear()
        self._job = changed
        return True

    def amend(self, change: Callable[[Job], Job]) -> None:
        """Changes the job in all its states, before and after: for what is no edit of it, such as the library of machines."""
        self._job = change(self._job)
        self._back = [replace(step, job=change(step.job)) for step in self._back]
        self._forth = [replace(step, job=change(step.job)) for step in self._forth]

    def states(self) -> Iterator[Job]:
        """The job in all its states, the present one first."""
        yield self._job
        for step in (*self._back, *self._forth):
            yield step.job

    def forget_beyond(self, most: int) -> int:
        """Keeps only the last `most` steps back: how many are forgotten."""
        count = max(len(self._back) - max(most, 0), 0)
        self._worked_before |= any(not step.opens for step in self._back[:count])
        del self._back[:count]
        self._forgotten += count
        return count

    @property
    def steps(self) -> int:
        """How many edits made the job what it is, with those that are forgotten."""
        return self._forgotten + len(self._back)

    @property
    def can_undo(self) -> int:
        """How many edits can be undone."""
        return len(self._back)

    @property
    def worked(self) -> bool:
        """Whether anything was done to what was opened."""
        return self._worked_before or any(not step.opens for step in self._back)

    @property
    def undo_name(self) -> str | None:
        """What undo would take back, None for nothing."""
        return self._back[-1].name if self._back else None

    @property
    def redo_name(self) -> str | None:
        """What redo would do again, None for nothing."""
        return self._forth[-1].name if self._forth else None

    def undo(self) -> bool:
        """Back by one step; False where there is none."""
        return self._step(self._back, self._forth)

    def redo(self) -> bool:
        """On by one step; False where there is none."""
        return self._step(self._forth, self._back)

    def _step(self, source: list[Step], target: list[Step]) -> bool:
        if not source:
            return False
        self._merging = None
        step = source.pop()
        target.append(replace(step, job=self._job))
        self._job = step.job
        return True
