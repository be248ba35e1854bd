"""`gullyrise section`: one planar section of a file."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from gullyrise.command_line.speaking import Json, options_for, put_json, read_one, watch
from gullyrise.core.cutting.section import Section
from gullyrise.core.cutting.told import Told
from gullyrise.core.errors import WriteError
from gullyrise.core.geometry import Plane
from gullyrise.core.report.contract import section_document
from gullyrise.workers.batch import run_all
from gullyrise.workers.work import Cut


def section(
    file: Annotated[str, typer.Argument(metavar="FILE")],
    plane: Annotated[str, typer.Option("--plane", metavar="P", help="x=N, y=N, z=N or px,py,pz,nx,ny,nz.")],
    json: Json = None,
    svg: Annotated[str | None, typer.Option("--svg", metavar="PATH")] = None,
    dxf: Annotated[str | None, typer.Option("--dxf", metavar="PATH")] = None,
) -> int:
    """One planar section: area, perimeter, outlines."""
    where = Plane.from_words(plane)
    part = read_one(file, options_for(None))
    report = run_all([Cut(part, where)], watch)[0]
    if report.kind != "done":
        raise report.value
    told: Told = report.value
    found = told.section
    put_json(section_document(told), json)
    if json is None:
        print(
            f"area {found.area:.6f} mm2 (within {told.area_off:.2g}), perimeter {found.perimeter:.6f} mm "
            f"(within {told.perimeter_off:.2g}), {len(found.loops)} outlines, from {told.method}"
        )
        if told.note:
            print(told.note)
        if found.open_length:
            print(f"open chains of {found.open_length:.6f} mm: the surface is not closed there")
    _draw(found, svg, dxf)
    return 0


def _draw(found: Section, svg: str | None, dxf: str | None) -> None:
    from gullyrise.core.report.outlines import outlines_of, write_dxf, write_svg

    for path, write in ((svg, write_svg), (dxf, write_dxf)):
        if path is None:
            continue
        try:
            write(outlines_of(found), Path(path))
        except OSError as error:
            raise WriteError(f"{path} cannot be written ({error.strerror}); choose another place.") from None
