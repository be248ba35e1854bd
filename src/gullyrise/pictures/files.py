"""Part files from their bytes to verdicts with pictures, each in a process of its own."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from gullyrise.core.progress import Progress
from gullyrise.core.report.album import Album
from gullyrise.core.report.part_chapter import chapter_of
from gullyrise.pictures.at_hand import studio
from gullyrise.pictures.findings import Illustrate, Wish, illustrated, stems_of
from gullyrise.workers.batch import Watch, run_all
from gullyrise.workers.fencing import Grants
from gullyrise.workers.fencing.task import Task
from gullyrise.workers.judging import JudgedFile, Pictured, Question, Seen, judge_apart, judge_file, without_colours
from gullyrise.workers.work import Work, reads_of, ready_to_read


@dataclass(frozen=True, slots=True)
class JudgeAndIllustrate(Task):
    """Reads one file, runs all checks on it and draws what they found: gives a Pictured."""

    path: str
    question: Question
    wish: Wish
    material: str

    @property
    def title(self) -> str:
        return Path(self.path).name

    def beforehand(self, progress: Progress) -> JudgeAndIllustrate:
        ready_to_read(Path(self.path))
        studio()
        return self

    def grants(self) -> Grants:
        return replace(reads_of(Path(self.path)), writes=(self.wish.folder,) if self.wish.folder else ())

    def run(self, progress: Progress) -> Pictured:
        judged, seen = judge_file(self.path, self.question, progress)
        album = illustrated(seen.snapshot, judged.outcomes, self.wish, progress)
        return _pictured(judged, seen, album, self.question, self.wish, self.material)


def judge_and_illustrate(
    files: list[str], question: Question, folder: Path | None, watch: Watch | None, *, report: bool, material: str
) -> list[Pictured]:
    """Every file with pictures of what was found, in their order. Of one file the checks run side by side, of many the files do;
    one whose process was brought down is judged again check by check, and drawn by itself."""
    wishes = [Wish("" if folder is None else str(folder), stem, report) for stem in stems_of(files)]
    out: list[Pictured | None] = [None] * len(files)
    if len(files) > 1:
        asked = zip(files, wishes, strict=True)
        work: list[Work] = [JudgeAndIllustrate(name, question, wish, material) for name, wish in asked]
        out = [found.value if found.kind == "done" else None for found in run_all(work, watch)]
    both = zip(out, files, wishes, strict=True)
    return [found or _apart(name, question, wish, watch, material) for found, name, wish in both]


def _apart(name: str, question: Question, wish: Wish, watch: Watch | None, material: str) -> Pictured:
    judged, seen = judge_apart(name, question, watch, colours=True)
    if seen is None:
        return Pictured(judged, (), None)
    (report,) = run_all([Illustrate(seen.snapshot, judged.outcomes, wish)], watch)
    if report.kind != "done":
        raise report.value
    return _pictured(judged, seen, report.value, question, wish, material)


def _pictured(judged: JudgedFile, seen: Seen, album: Album, question: Question, wish: Wish, material: str) -> Pictured:
    chapter = None
    if wish.report and judged.figures is not None:
        chapter = chapter_of(
            seen.snapshot.part, judged.figures, seen.centre, material, judged.outcomes, question.limits, shown=album.shown,
            picture=album.part,
        )  # fmt: skip
    return Pictured(without_colours(judged), album.forms if wish.folder else (), chapter)
