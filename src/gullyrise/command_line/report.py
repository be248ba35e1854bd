"""The report that `check` writes: one HTML page, or the same page laid out as PDF."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from gullyrise import __version__
from gullyrise.command_line.speaking import say, watch
from gullyrise.core.checks.protocol import gravest
from gullyrise.core.errors import WriteError
from gullyrise.core.machines import Limits, Machine
from gullyrise.core.report.dating import date_words
from gullyrise.core.report.job_report import PROCESS, title_of
from gullyrise.core.report.limit_lines import limit_lines
from gullyrise.core.report.report_model import PartChapter, Report
from gullyrise.core.safe_files import ordinary, write_safely

_PORTION = 1 << 20


def write_report(
    path: Path, machine: Machine, given: Limits, checks: Sequence[str], chapters: list[PartChapter],
    errors: list[dict[str, str]], limits_file: str | None,
) -> None:  # fmt: skip
    """Raises WriteError where it cannot be written."""
    from gullyrise.pictures.paper import page_of
    from gullyrise.pictures.pdf import laid_out

    told = [replace(chapter, sha256=_sha256(chapter.file), file=Path(chapter.file).name) for chapter in chapters]
    source = f"the limits file {Path(limits_file).name}" if limits_file is not None else "given"
    report = Report(
        title=title_of([chapter.name for chapter in chapters]),
        machine=machine.name,
        process=PROCESS[machine.process],
        envelope=machine.envelope.words(),
        limits=limit_lines(machine, given, checks, source),
        units="millimetres, degrees",
        date=date_words(),
        version=__version__,
        verdict=gravest([chapter.verdict for chapter in told]),
        parts=tuple(told),
        missing=tuple((Path(error["file"]).name, error["reason"]) for error in errors),
    )
    page = page_of(report)
    data = page.encode("utf-8")
    if path.suffix.lower() == ".pdf":
        data = laid_out(page, watch)
    try:
        write_safely(path, data)
    except OSError as error:
        raise WriteError(f"{path.name} cannot be written ({error.strerror}); choose another place.") from None
    say(f"Report written to {path.name}.")


def _sha256(file: str) -> str:
    try:
        with ordinary(Path(file)) as stream:
            found = hashlib.sha256()
            while portion := stream.read(_PORTION):
                found.update(portion)
            return found.hexdigest()
    except OSError:
        return ""
