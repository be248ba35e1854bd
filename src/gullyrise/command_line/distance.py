"""`gullyrise distance`: the smallest gap between two files' parts."""

from __future__ import annotations

from typing import Annotated, Any

import typer

from gullyrise.command_line.speaking import Json, options_for, put_json, read_one, watch
from gullyrise.core.report.contract import distance_document
from gullyrise.workers.batch import run_all
from gullyrise.workers.work import Apart


def distance(
    file_a: Annotated[str, typer.Argument(metavar="FILE_A")],
    file_b: Annotated[str, typer.Argument(metavar="FILE_B")],
    json: Json = None,
) -> int:
    """The smallest gap between two files' parts as placed in their files, and their interference."""
    a, b = read_one(file_a, options_for(None)), read_one(file_b, options_for(None))
    report = run_all([Apart(a, b)], watch)[0]
    if report.kind != "done":
        raise report.value
    found: dict[str, Any] = report.value
    put_json(distance_document(found), json)
    if json is None:
        volume = found["interference_volume"]
        shared = "shared volume not known (open surface)" if volume is None else f"shared volume {volume:.6f} mm3"
        print(f"distance {found['distance']:.6f} mm, {shared}")
    return 0
