"""Pictures of what the checks found on a part, drawn in a worker process."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from gullyrise.core.checks.protocol import Finding, Outcome, Snapshot
from gullyrise.core.errors import WriteError
from gullyrise.core.evidence.composing import compose
from gullyrise.core.evidence.room import Room
from gullyrise.core.machines.library import default_machine
from gullyrise.core.progress import Progress
from gullyrise.core.report.picture_form import picture_form
from gullyrise.pictures.at_hand import studio
from gullyrise.workers.batch import Watch, run_all
from gullyrise.workers.fencing import Grants
from gullyrise.workers.fencing.task import Task
from gullyrise.workers.judging import JudgedFile, Question, judge_apart, judge_file, without_colours
from gullyrise.workers.work import Work, reads_of, ready_to_read

Forms = tuple[tuple[dict[str, Any] | None, ...], ...]
"""Of each outcome, of each of its findings: its picture as the contract has it; None where none could be drawn."""
_LONGEST = 60


def stem_of(words: str) -> str:
    """Words as a file's name may hold them."""
    return re.sub(r"[^\w-]+", "-", words).strip("-_")[:_LONGEST].strip("-_") or "part"


@dataclass(frozen=True, slots=True, eq=False)
class Illustrate(Task):
    """Draws a picture of each finding: gives what the contract says of them.

    outcomes : with their colours;  folder : that is there;  stem : what the pictures' names begin with
    """

    snapshot: Snapshot
    outcomes: tuple[Outcome, ...]
    folder: str
    stem: str

    @property
    def title(self) -> str:
        return f"pictures of {self.snapshot.part.name}"

    def beforehand(self, progress: Progress) -> Illustrate:
        studio()
        return self

    def grants(self) -> Grants:
        return Grants((), (self.folder,))

    def run(self, progress: Progress) -> Forms:
        return illustrated(self.snapshot, self.outcomes, Path(self.folder), self.stem, progress)


@dataclass(frozen=True, slots=True)
class JudgeAndIllustrate(Task):
    """Reads one file, runs all checks on it and draws what they found: gives the judged file and its pictures."""

    path: str
    question: Question
    folder: str
    stem: str

    @property
    def title(self) -> str:
        return Path(self.path).name

    def beforehand(self, progress: Progress) -> JudgeAndIllustrate:
        ready_to_read(Path(self.path))
        studio()
        return self

    def grants(self) -> Grants:
        return replace(reads_of(Path(self.path)), writes=(self.folder,))

    def run(self, progress: Progress) -> tuple[JudgedFile, Forms]:
        judged, snapshot = judge_file(self.path, self.question, progress)
        forms = illustrated(snapshot, judged.outcomes, Path(self.folder), self.stem, progress)
        return without_colours(judged), forms


def judge_and_illustrate(
    files: list[str], question: Question, folder: Path, watch: Watch | None
) -> list[tuple[JudgedFile, Forms]]:
    """Every file with pictures of what was found, in their order. Of one file the checks run side by side, of many the files do;
    one whose process was brought down is judged again check by check, and drawn by itself."""
    stems = stems_of(files)
    out: list[tuple[JudgedFile, Forms] | None] = [None] * len(files)
    if len(files) > 1:
        asked = zip(files, stems, strict=True)
        work: list[Work] = [JudgeAndIllustrate(name, question, str(folder), stem) for name, stem in asked]
        out = [report.value if report.kind == "done" else None for report in run_all(work, watch)]
    return [found or _apart(name, question, folder, stem, watch) for found, name, stem in zip(out, files, stems, strict=True)]


def _apart(name: str, question: Question, folder: Path, stem: str, watch: Watch | None) -> tuple[JudgedFile, Forms]:
    judged, snapshot = judge_apart(name, question, watch, colours=True)
    if snapshot is None:
        return judged, ()
    (report,) = run_all([Illustrate(snapshot, judged.outcomes, str(folder), stem)], watch)
    if report.kind != "done":
        raise report.value
    return without_colours(judged), report.value


def stems_of(files: list[str]) -> list[str]:
    """What the names of each file's pictures begin with: like the file's, and no two alike."""
    out: list[str] = []
    for name in files:
        stem = stem_of(Path(name).stem)
        # Letters that differ in case alone are one file in many a folder.
        taken = {one.casefold() for one in out}
        tries = (stem, *(f"{stem}-{number}" for number in range(2, len(files) + 2)))
        out.append(next(one for one in tries if one.casefold() not in taken))
    return out


def illustrated(snapshot: Snapshot, outcomes: tuple[Outcome, ...], folder: Path, stem: str, progress: Progress) -> Forms:
    """Draws them here. Raises WriteError where the folder takes no picture."""
    from gullyrise.drawing.evidence_picture import Shot, items_of, picture, saved
    from gullyrise.drawing.palette import LIMESTONE

    part, machine = snapshot.part, snapshot.machine or default_machine()
    total = sum(len(outcome.findings) for outcome in outcomes)
    if not total:
        return tuple(() for _ in outcomes)
    room = Room.of_part(part, snapshot.placement, machine)
    back = snapshot.placement.inverse()
    done, out = 0, []
    for outcome in outcomes:
        forms: list[dict[str, Any] | None] = []
        items = items_of(part, snapshot.placement, LIMESTONE, 0, outcome.field)
        for finding in outcome.findings:
            progress("drawing", done, total)
            done += 1
            here = finding.placed(snapshot.placement)
            view = compose(here, room, tuple(machine.tool))
            name = f"{stem}-{outcome.check}-{done}.png"
            image = picture(studio(), items, machine, Shot(view, here, here.figure, title_of(finding, part.name)))
            if not saved(image, str(folder / name)):
                raise WriteError(f"{name} cannot be written into {folder}; choose another folder.")
            forms.append(picture_form(view, part, back, name))
        out.append(tuple(forms))
    return tuple(out)


def title_of(finding: Finding, part: str) -> str:
    """What stands over its picture."""
    return finding.what if finding.names(part) else f"{finding.what} · {part}"
