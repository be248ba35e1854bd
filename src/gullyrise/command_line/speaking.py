"""What the commands share: where JSON goes, what progress looks like, how files are read."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Annotated, Any

import typer

from gullyrise.core.errors import GullyriseError, WriteError
from gullyrise.core.intake.units import factor_of
from gullyrise.core.machines.library import library
from gullyrise.core.part import Part
from gullyrise.core.reading import ReadOptions
from gullyrise.core.report.contract import as_json
from gullyrise.workers.batch import run_all
from gullyrise.workers.work import Read, Work

Json = Annotated[str | None, typer.Option("--json", metavar="PATH", help="Write JSON there; - for standard output alone.")]
Unit = Annotated[str | None, typer.Option("--unit", help="mm, cm, m, inch, foot or micron: overrules the file.")]
MachineWord = Annotated[str | None, typer.Option("--machine", metavar="M", help="Id in the library, or a machine file.")]


def say(words: str) -> None:
    """A message for a person: standard error."""
    print(words, file=sys.stderr)


def options_for(unit: str | None) -> ReadOptions:
    """Raises LimitsError for a word that is no unit."""
    if unit is not None:
        factor_of(unit)
    return ReadOptions(unit=unit)


def put_json(document: dict[str, Any], where: str | None) -> None:
    """Writes a document to a path or to standard output. Raises WriteError."""
    if where is None:
        return
    if where == "-":
        sys.stdout.write(as_json(document) + "\n")
        sys.stdout.flush()
        return
    try:
        Path(where).write_text(as_json(document) + "\n", encoding="utf-8")
    except OSError as error:
        raise WriteError(f"{where} cannot be written ({error.strerror}); choose another place.") from None


def watch(work: Work, stage: str, done: int, total: int) -> None:
    """A line of progress that overwrites itself, only where somebody looks at a terminal."""
    if sys.stderr.isatty():
        share = f" {done}/{total}" if total else ""
        sys.stderr.write(f"\r\033[K{work.title}: {stage}{share}")
        if total and done >= total:
            sys.stderr.write("\r\033[K")
        sys.stderr.flush()


def read_one(file: str, options: ReadOptions) -> Part:
    """The part in a file. Raises the ReadError of one that cannot be used."""
    report = run_all([Read(file, options)], watch)[0]
    if report.kind != "done":
        raise report.value
    part: Part = report.value.part
    return part


def error_of(name: str, error: GullyriseError) -> dict[str, str]:
    say(f"gullyrise: {error}")
    return {"file": name, "reason": str(error)}


def largest_machine() -> float:
    """The longest side of any machine in the library, mm; what unit doubts are weighed against."""
    return max(float(machine.envelope.box.size.max()) for machine in library())
