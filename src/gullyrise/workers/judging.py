"""One file from its bytes to its verdicts in one process, so that of many files no arrays cross and none stops the rest."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from gullyrise.core.checks.protocol import Outcome, Snapshot
from gullyrise.core.errors import GullyriseError
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.progress import Progress, silent
from gullyrise.core.reading import ReadOptions
from gullyrise.core.report.report_model import PartChapter
from gullyrise.workers.batch import Watch, run_all
from gullyrise.workers.fencing import Grants
from gullyrise.workers.fencing.task import Task
from gullyrise.workers.process import Report
from gullyrise.workers.work import Read, RunCheck, Work, reads_of, ready_to_read


@dataclass(frozen=True, slots=True)
class Question:
    """What all files are asked.

    checks : ids
    limits : every limit settled
    largest : side of any machine, mm, for unit doubts
    """

    options: ReadOptions
    machine: Machine
    library: tuple[Machine, ...]
    limits: Limits
    checks: tuple[str, ...]
    largest: float


@dataclass(frozen=True, slots=True, eq=False)
class JudgedFile:
    """figures : in the shape of the `info` contract
    outcomes : without arrays
    error : a sentence where it could not be used
    """

    file: str
    figures: dict[str, Any] | None
    outcomes: tuple[Outcome, ...]
    error: str | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Seen:
    """What was judged. centre : of the part's mass, mm, None where a body encloses nothing"""

    snapshot: Snapshot
    centre: tuple[float, float, float] | None


@dataclass(frozen=True, slots=True, eq=False)
class Pictured:
    """A judged file with its pictures. forms : of each outcome, of each of its findings, what the contract says of its picture;
    none where none were written
    chapter : of the report, where one is wanted
    """

    judged: JudgedFile
    forms: tuple[tuple[dict[str, Any] | None, ...], ...]
    chapter: PartChapter | None


@dataclass(frozen=True, slots=True)
class JudgeFile(Task):
    """Reads one file and runs all checks on it: gives a JudgedFile."""

    path: str
    question: Question

    @property
    def title(self) -> str:
        return Path(self.path).name

    def beforehand(self, progress: Progress) -> JudgeFile:
        ready_to_read(Path(self.path))
        return self

    def grants(self) -> Grants:
        return reads_of(Path(self.path))

    def run(self, progress: Progress) -> JudgedFile:
        return without_colours(judge_file(self.path, self.question, progress)[0])


def without_colours(judged: JudgedFile) -> JudgedFile:
    """The same without what is large and only for pictures."""
    return replace(judged, outcomes=tuple(replace(one, field=None) for one in judged.outcomes))


def judge_file(path: str, question: Question, progress: Progress = silent) -> tuple[JudgedFile, Seen]:
    """The whole way of one file, its outcomes with their colours, and what was judged. Raises ReadError for one that cannot be
    read; a check that fails is not run, with the reason."""
    from gullyrise.core.placing.bed import in_the_middle

    found = Read(path, question.options, question.largest).run(progress)
    part = found.part
    snapshot = Snapshot(part, in_the_middle(part.box, question.machine), question.machine, question.library)
    outcomes: list[Outcome] = []
    for done, name in enumerate(question.checks):
        progress(f"checking {name}", done, len(question.checks))
        try:
            outcomes += RunCheck(name, snapshot, question.limits, colours=True).run(silent)
        except GullyriseError as error:
            outcomes.append(not_run(name, part.name, error))
    return JudgedFile(path, found.figures, tuple(outcomes)), Seen(snapshot, found.centre)


def judge_files(files: list[str], question: Question, watch: Watch | None = None) -> list[JudgedFile]:
    """Every file on all cores, in their order. One that cannot be used gives a sentence; where a check brings its process down,
    the others of that file are run again by themselves."""
    reports = run_all([JudgeFile(name, question) for name in files], watch)
    return [
        report.value if report.kind == "done" else judge_apart(name, question, watch)[0]
        for name, report in zip(files, reports, strict=True)
    ]


def judge_apart(name: str, question: Question, watch: Watch | None, *, colours: bool = False) -> tuple[JudgedFile, Seen | None]:
    """One file with each check in a process of its own, so that one that brings its process down costs no other its verdict; and
    what was judged, None for a file that cannot be used. colours : whether the outcomes come with theirs"""
    from gullyrise.core.placing.bed import in_the_middle

    (read,) = run_all([Read(name, question.options, question.largest)], watch)
    if read.kind != "done":
        return JudgedFile(name, None, (), str(read.value)), None
    part = read.value.part
    snapshot = Snapshot(part, in_the_middle(part.box, question.machine), question.machine, question.library)
    work: list[Work] = [RunCheck(check, snapshot, question.limits, colours=colours) for check in question.checks]
    reports: list[Report] = run_all(work, watch)
    outcomes: list[Outcome] = []
    for check, report in zip(question.checks, reports, strict=True):
        outcomes += report.value if report.kind == "done" else [not_run(check, part.name, report.value)]
    return JudgedFile(name, read.value.figures, tuple(outcomes)), Seen(snapshot, read.value.centre)


def not_run(check: str, subject: str, error: GullyriseError) -> Outcome:
    """What stands in place of a check that could not be finished."""
    return Outcome(check, subject, "not-run", str(error), None, {}, (), "", None)
