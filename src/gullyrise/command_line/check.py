"""`gullyrise check`: the checks on each file, one verdict a check."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from gullyrise.command_line.speaking import Json, MachineWord, Unit, largest_machine, options_for, put_json, say, watch
from gullyrise.core.checks.protocol import Outcome
from gullyrise.core.checks.registry import chosen
from gullyrise.core.errors import WriteError
from gullyrise.core.intake.materials import USUAL
from gullyrise.core.machines import Limits
from gullyrise.core.machines.library import default_machine, library, machine_named
from gullyrise.core.machines.limits import read_limits
from gullyrise.core.report.contract import check_document
from gullyrise.workers.judging import Question, judge_apart, judge_files

if TYPE_CHECKING:
    from gullyrise.workers.judging import Pictured


def check(
    files: Annotated[list[str], typer.Argument(metavar="FILE ...")],
    machine: MachineWord = None,
    limits: Annotated[str | None, typer.Option("--limits", metavar="F", help="A limits file (TOML).")] = None,
    only: Annotated[str | None, typer.Option("--only", metavar="A,B", help="Only these checks.")] = None,
    unit: Unit = None,
    json: Json = None,
    report: Annotated[str | None, typer.Option("--report", metavar="PATH", help="A report, .html or .pdf.")] = None,
    pictures: Annotated[
        str | None, typer.Option("--pictures", metavar="DIR", help="A picture of each finding, PNG, into a folder.")
    ] = None,
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
    pictured: list[Pictured] = []
    if pictures is not None or report is not None:
        pictured = _illustrated(files, question, pictures, cluster, report=report is not None)
        judged = [one.judged for one in pictured]
    elif cluster is not None:
        from gullyrise.workers.cluster import judge_on_cluster

        judged = judge_on_cluster(files, question, cluster)
    else:
        # Of one file the checks run side by side, of many the files do.
        judged = judge_files(files, question, watch) if len(files) > 1 else [judge_apart(files[0], question, watch)[0]]
    outcomes: list[Outcome] = []
    parts: list[dict[str, Any]] = []
    errors: list[dict[str, str]] = []
    for one in judged:
        if one.figures is None:
            say(f"gullyrise: {one.error}")
            errors.append({"file": one.file, "reason": one.error or ""})
            continue
        outcomes += one.outcomes
        parts.append(one.figures)
    drawn = [of_outcome for one in pictured for of_outcome in one.forms]
    document = check_document(chosen_machine, settled, parts, outcomes, errors, drawn)
    put_json(document, json)
    if json is None:
        for one in judged:
            if one.figures is not None:
                _print(one.figures["name"], one.outcomes)
    if report is not None and parts:
        from gullyrise.command_line.report import write_report

        chapters = [one.chapter for one in pictured if one.chapter is not None]
        write_report(Path(report), chosen_machine, given, names, chapters, errors, limits)
    if errors:
        return 2
    return 0 if all(outcome.verdict == "pass" for outcome in outcomes) else 1


def _illustrated(
    files: list[str], question: Question, folder: str | None, cluster: str | None, *, report: bool
) -> list[Pictured]:
    from gullyrise.pictures.files import judge_and_illustrate

    if cluster is not None:
        raise WriteError("Pictures and reports are made on this machine; leave out --cluster, --pictures and --report.")
    place = None if folder is None else Path(folder)
    if place is not None:
        try:
            place.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise WriteError(f"The folder {folder} cannot be made ({error.strerror}); choose another place.") from None
        place = place.resolve()
    material = USUAL[question.machine.process]
    found = judge_and_illustrate(files, question, place, watch, report=report, material=material)
    if place is not None:
        say(f"Pictures written into {place.name}.")
    return found


def _print(name: str, outcomes: tuple[Outcome, ...]) -> None:
    print(name)
    for outcome in outcomes:
        print(f"  {outcome.check:<10} {outcome.verdict:<7} {outcome.why}")
