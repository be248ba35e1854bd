"""The job that is open, and its edits: what every room reads and listens to."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from pydantic import ValidationError
from PyQt6.QtCore import QObject, pyqtSignal

from gullyrise.core.checks.protocol import Check
from gullyrise.core.checks.registry import applies, checks
from gullyrise.core.job import Document, Job
from gullyrise.core.job.record import dated
from gullyrise.core.machines import Machine
from gullyrise.core.machines.library import default_machine, library_told
from gullyrise.core.report.dating import now
from gullyrise.desktop.state import text


class DocumentModel(QObject):
    """history : the job with its steps;  left_out : a sentence for each machine file that is ignored

    An edit is told three times over: `replaced` where another job is open now, whose parts may have the same numbers; `edited` to
    what has to be right before anybody looks; `changed` to all.
    """

    replaced = pyqtSignal()
    edited = pyqtSignal()
    changed = pyqtSignal()
    said = pyqtSignal(str, bool)

    def __init__(self, machine: Machine | None = None, usual: str = "") -> None:
        """machine : on which the first job stands;  usual : the id of the one where none is given, if the library has it"""
        super().__init__()
        found, self.left_out = library_told()
        known = next((one for one in found if one.id == usual), None)
        self.history = Document(Job(machine or known or default_machine(), tuple(found)))
        self._last_job = self._seen_job = 0
        self._next_title = ""

    @property
    def job(self) -> Job:
        return self.history.job

    @property
    def present(self) -> frozenset[int]:
        """Ids of the parts that are in the job."""
        return frozenset(placed.id for placed in self.job.parts)

    def active_checks(self) -> list[tuple[str, Check]]:
        return [(name, check) for name, check in checks().items() if applies(check, self.job.machine)]

    def edit(self, name: str, change: Any, merging: object = None, *, opens: bool = False) -> None:
        def numbered(job: Job) -> Job:
            made: Job = change(job)
            if not opens:
                # What an older job did not date was not said now.
                made = made.with_record(dated(made.record, len(job.record), now().strftime("%Y-%m-%dT%H:%M")))
            if made.number == job.number and bool(made.parts) != bool(job.parts):
                title, self._next_title = (made.title or self._next_title if made.parts else ""), ""
                return replace(made, number=self.fresh_job(), title=title)
            return made

        if self.history.edit(name, numbered, merging, opens=opens):
            self._tell()

    def undo(self) -> None:
        if self.history.undo():
            self._tell()

    def redo(self) -> None:
        if self.history.redo():
            self._tell()

    def _tell(self) -> None:
        if self.job.number != self._seen_job:
            self._seen_job = self.job.number
            self.replaced.emit()
        self.edited.emit()
        self.changed.emit()

    @property
    def title(self) -> str:
        """What the job is called: by its own title, else after its parts, which may come one after another."""
        stands = self.job.parts
        return self.job.title or (
            text.NEW_JOB if not stands else stands[0].part.name if len(stands) == 1 else f"{len(stands)} parts"
        )

    def entitle_opened(self, title: str) -> None:
        """Gives a title to a job whose files are to be opened. A bench that is empty stays a new job: that is what undo leads
        back to."""
        if self.job.parts:
            self.entitle(title)
        else:
            self._next_title = title

    def entitle(self, title: str, number: int | None = None) -> Callable[[Job], Job]:
        """Gives a title to all states of a job, as that is no step. number : of the job, by default the present one
        Gives what makes of any state of it the one that it is then.
        """
        of = self.job.number if number is None else number
        known: dict[int, tuple[Job, Job]] = {}

        def entitled(job: Job) -> Job:
            if job.number != of or job.title == title:
                return job
            return known.setdefault(id(job), (job, replace(job, title=title)))[1]

        self.history.amend(entitled)
        self.changed.emit()
        return entitled

    def fresh_job(self) -> int:
        """The number of a job that begins."""
        self._last_job += 1
        return self._last_job

    def set_limit(self, name: str, value: object, stroke: int | None = None) -> bool:
        """Sets a limit by hand; False, with a sentence, for a value that it cannot take. stroke : edits of one are undone
        together"""
        merging = None if stroke is None else ("limit", name, stroke)
        try:
            self.edit(text.SET.format(name.replace("_", " ")), lambda job: job.with_limit(name, value), merging)
        except ValidationError as error:
            self.said.emit(text.IS_NO_LIMIT.format(value, name.replace("_", " "), error.errors()[0]["msg"].lower()), True)
            return False
        return True

    def set_machine(self, machine: Machine) -> None:
        if machine.id != self.job.machine.id or self.job.unknown is not None:
            self.edit(text.MACHINE.format(machine.name), lambda job: job.on(machine))

    def put_library(self, shelf: tuple[Machine, ...]) -> None:
        """Another library of machines: no edit of the job, and there before any undo too."""
        self.history.amend(lambda job: replace(job, library=shelf))
        self._tell()

    def remove(self, numbers: set[int]) -> None:
        if numbers:
            self.edit(text.REMOVE, lambda job: job.without(numbers))
