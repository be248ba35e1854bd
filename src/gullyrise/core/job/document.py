"""The document: the job as it is, and the way back and forth."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gullyrise.core.job.job import Job


class Document:
    """The job as it is, with the way back and forth."""

    def __init__(self, job: Job) -> None:
        self._job = job
        self._back: list[tuple[str, Job]] = []
        self._merging: object = None
        self._forth: list[tuple[str, Job]] = []
        self._forgotten = 0

    @property
    def job(self) -> Job:
        return self._job

    def edit(self, name: str, change: Callable[[Job], Job], merging: object = None) -> bool:
        """Makes the next job; False where the change changed nothing. merging : edits in a row that have an equal one are undone
        together, under the last name.
        """
        changed = change(self._job)
        if changed.says_the_same(self._job):
            return False
        if merging is not None and merging == self._merging and self._back:
            self._back[-1] = (name, self._back[-1][1])
        else:
            self._back.append((name, self._job))
        self._merging = merging
        self._forth.clear()
        self._job = changed
        return True

    def amend(self, change: Callable[[Job], Job]) -> None:
        """Changes the job in all its states, before and after: for what is no edit of it, such as the library of machines."""
        self._job = change(self._job)
        self._back = [(name, change(job)) for name, job in self._back]
        self._forth = [(name, change(job)) for name, job in self._forth]

    def states(self) -> Iterator[Job]:
        """The job in all its states, the present one first."""
        yield self._job
        for _, job in (*self._back, *self._forth):
            yield job

    def forget_beyond(self, most: int) -> int:
        """Keeps only the last `most` steps back: how many are forgotten."""
        count = max(len(self._back) - max(most, 0), 0)
        del self._back[:count]
        self._forgotten += count
        return count

    @property
    def steps(self) -> int:
        """How many edits made the job what it is, with those that are forgotten."""
        return self._forgotten + len(self._back)

    @property
    def done_names(self) -> list[str]:
        """Names of the edits that made the job what it is, oldest first."""
        return [name for name, _ in self._back]

    @property
    def undo_name(self) -> str | None:
        return self._back[-1][0] if self._back else None

    @property
    def redo_name(self) -> str | None:
        return self._forth[-1][0] if self._forth else None

    def undo(self) -> bool:
        return self._step(self._back, self._forth)

    def redo(self) -> bool:
        return self._step(self._forth, self._back)

    def _step(self, source: list[tuple[str, Job]], target: list[tuple[str, Job]]) -> bool:
        if not source:
            return False
        self._merging = None
        name, job = source.pop()
        target.append((name, self._job))
        self._job = job
        return True
