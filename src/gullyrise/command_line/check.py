"""`gullyrise check`: the checks on each file, one verdict a check."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from gullyrise.command_line.speaking import Json, MachineWord, Unit, options_for, put_json, read_all, say, watch
from gullyrise.core.checks.protocol import Outcome, Snapshot
from gullyrise.core.checks.registry import chosen
from gullyrise.core.errors import WriteError
from gullyrise.core.machines import Limits
from gullyrise.core.machines.library import default_machine, library, machine_named
from gullyrise.core.machines.limits import read_limits
from gullyrise.core.placing.bed import in_the_middle
from gullyrise.core.report.contract import check_document
from gullyrise.workers.batch import run_all
from gullyrise.workers.work import RunCheck


def check(
    files: Annotated[list[str], typer.Argument(metavar="FILE ...")],
    machine: MachineWord = None,
    limits: Annotated[str | None, typer.Option("--limits", metavar="F", help="A limits file (TOML).")] = None,
    only: Annotated[str | None, typer.Option("--only", metavar="A,B", help="Only these checks.")] = None,
    unit: Unit = None,
    json: Json = None,
    report: Annotated[str | None, typer.Option("--report", metavar="PATH", help="A report, .html or .pdf.")] = None,
) -> int:
    """The checks: exit status 0 where every verdict is pass."""
    chosen_machine = machine_named(machine) if machine is not None else default_machine()
    given = read_limits(Path(limits)) if limits is not None else Limits()
    settled = chosen_machine.full_limits(given)
    names = chosen(only, chosen_machine)
    if report is not None and Path(report).suffix.lower() not in (".html", ".pdf"):
        raise WriteError(f"{report} is no kind of report; end its name in .html or .pdf.")
    shelf = tuple(library())
    parts, errors = read_all(files, options_for(unit))
    work = [
        RunCheck(name, Snapshot(part, in_the_middle(part.box, chosen_machine), chosen_machine, shelf), settled)
        for part, _ in parts
        for name in names
    ]
    outcomes: list[Outcome] = []
    owners: list[int] = []
    for index, (piece, result) in enumerate(zip(work, run_all(list(work), watch), strict=True)):
        if result.kind == "done":
            found = list(result.value)
        else:
            subject = piece.snapshot.part.name
            found = [Outcome(piece.check, subject, "not-run", str(result.value), None, {}, (), "", None)]
        outcomes += found
        owners += [index // len(names)] * len(found)
    document = check_document(chosen_machine, settled, [figures for _, figures in parts], outcomes, errors)
    put_json(document, json)
    if json is None:
        for (part, _), number in zip(parts, range(len(parts)), strict=True):
            _print(part.name, [o for o, owner in zip(outcomes, owners, strict=True) if owner == number])
    if report is not None and parts:
        _write_report(document, owners, Path(report))
    if errors:
        return 2
    return 0 if all(outcome.verdict == "pass" for outcome in outcomes) else 1


def _print(name: str, outcomes: list[Outcome]) -> None:
    print(name)
    for outcome in outcomes:
        print(f"  {outcome.check:<10} {outcome.verdict:<7} {outcome.why}")


def _write_report(document: dict[str, Any], owners: list[int], path: Path) -> None:
    from gullyrise.core.report.page import write_page

    title = ", ".join(part["name"] for part in document["parts"])[:120]
    try:
        if path.suffix.lower() == ".html":
            write_page(document, owners, path, title)
        else:
            from gullyrise.command_line.paper import write_pdf

            write_pdf(document, owners, path, title)
    except OSError as error:
        raise WriteError(f"{path.name} cannot be written ({error.strerror}); choose another place.") from None
    say(f"Report written to {path.name}.")
