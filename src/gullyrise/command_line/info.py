"""`gullyrise info`: what each file holds, and its mesh health."""

from __future__ import annotations

from typing import Annotated, Any

import typer

from gullyrise.command_line.speaking import Json, Unit, error_of, largest_machine, options_for, put_json, watch
from gullyrise.core.report.contract import info_document
from gullyrise.workers.batch import run_all
from gullyrise.workers.work import Figures


def info(files: Annotated[list[str], typer.Argument(metavar="FILE ...")], unit: Unit = None, json: Json = None) -> int:
    """What each file holds, and its mesh health."""
    options = options_for(unit)
    largest = largest_machine()
    reports = run_all([Figures(name, options, largest) for name in files], watch)
    parts = [report.value for report in reports if report.kind == "done"]
    errors = [error_of(name, report.value) for name, report in zip(files, reports, strict=True) if report.kind != "done"]
    put_json(info_document(parts, errors), json)
    if json is None:
        for part in parts:
            _print(part)
    return 2 if errors else 0


def _print(part: dict[str, Any]) -> None:
    size = " x ".join(f"{side:.3f}" for side in part["size"])
    volume = "encloses nothing" if part["volume"] is None else f"{part['volume']:.3f} mm3"
    print(f"{part['name']}  ({part['format']}, {part['unit']} {part['unit_source']})")
    print(f"  {size} mm, {volume}, {part['area']:.3f} mm2, {part['triangles']} triangles")
    if part["unit_doubt"]:
        print(f"  unit doubt: {part['unit_doubt']}")
    for body in part["bodies"]:
        state = "closed" if body["watertight"] else f"open, {body['boundary_edges']} boundary edges"
        print(f"  {body['count']} x {body['name']} ({body['kind']}): {body['shells']} shells, {state}")
