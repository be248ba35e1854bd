"""`gullyrise check`: the checks on each file, one verdict a check."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated, Any

import typer

from gullyrise.command_line.speaking import Json, MachineWord, Unit, largest_machine, options_for, put_json, say, watch
from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.checks.registry import chosen
from gullyrise.core.errors import WriteError
from gullyrise.core.machines import Limits
from gullyrise.core.machines.library import default_machine, library, machine_named
from gullyrise.core.machines.limits import read_limits
from gullyrise.core.report.contract import check_document
from gullyrise.workers.judging import Question, judge_apart, judge_files


def check(
    files: Annotated[list[str], typer.Argument(metavar="FILE ...")],
    machine: MachineWord = None,
    limits: Annotated[str | None, typer.Option("--limits", metavar="F", help="A limits file (TOML).")] = None,
    only: Annotated[str | None, typer.Option("--only", metavar="A,B", help="Only these checks.")] = None,
    unit: Unit = None,
    json: Json = None,
    report: Annotated[str | None, typer.Option("--report", metavar="PATH", help="A report, .html or .pdf.")] = None,
    cluster: Annotated[
        str | None, typer.Option("--cluster", metavar="ADDRESS", help="A Dask scheduler that does the work.")
    ] = None,
) -> int:
    """The checks: exit status 0 where every verdict is pass."""
    chosen_machine = machine_named(machine) if machine is not None else default_machine()
    given = read_limits(Path(limits)) if limits is not None else Limits()
    settled = chosen_machine.full_limits(given)
    names = chosen(only, chosen_machine)
    if report is not None and Path(report).suffix.lower() not in (".html", ".pdf"):
        raise WriteError(f"{report} is no kind of report; end its name in .html or .pdf.")
    question = Question(options_for(unit), chosen_machine, tuple(library()), settled, tuple(names), largest_machine())
    if cluster is not None:
        from gullyrise.workers.cluster import judge_on_cluster

        judged = judge_on_cluster(files, question, cluster)
    else:
        # Of one file the checks run side by side, of many the files do.
        judged = judge_files(files, question, watch) if len(files) > 1 else [judge_apart(files[0], question, watch)]
    outcomes: list[Outcome] = []
    owners: list[int] = []
    parts: list[dict[str, Any]] = []
    errors: list[dict[str, str]] = []
    for one in judged:
        if one.figures is None:
            say(f"gullyrise: {one.error}")
            errors.append({"file": one.file, "reason": one.error or ""})
            continue
        owners += [len(parts)] * len(one.outcomes)
        outcomes += one.outcomes
        parts.append(one.figures)
    document = check_document(chosen_machine, settled, parts, outcomes, errors)
    put_json(document, json)
    if json is None:
        for number, figures in enumerate(parts):
            _print(figures["name"], [o for o, owner in zip(outcomes, owners, strict=True) if owner == number])
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
