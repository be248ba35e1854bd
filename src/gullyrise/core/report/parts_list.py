"""The parts list: bodies with their counts, by name, by shape or each by itself; as rows, CSV and JSON."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from gullyrise.core.intake.materials import mass, material_named, words_of
from gullyrise.core.job import PlacedPart
from gullyrise.core.report.cells import tame

Grouping = Literal["each", "name", "shape"]
BodyKey = tuple[int, int]
"""(id of the placed part, number of the body in its part)."""


@dataclass(frozen=True, slots=True)
class ListRow:
    """One line.

    bodies : the keys of the bodies that it counts
    shape : number of its shape, None where not compared size in mm, volume in mm3 (None where nothing is enclosed), area in mm2,
        grams of one piece
    """

    name: str
    count: int
    parts: tuple[str, ...]
    assemblies: tuple[str, ...]
    kind: str
    size: tuple[float, float, float]
    volume: float | None
    area: float
    grams: float | None
    material: str
    triangles: int
    shells: int
    watertight: bool
    shape: int | None
    bodies: tuple[BodyKey, ...]


COLUMNS: tuple[tuple[str, str], ...] = (
    ("name", "Name"), ("count", "Qty"), ("parts", "Files"), ("assemblies", "In"), ("kind", "Kind"), ("size", "Size, mm"),
    ("volume", "Volume, mm³"), ("area", "Area, mm²"), ("grams", "Mass, g"), ("material", "Material"),
    ("triangles", "Triangles"), ("shells", "Shells"), ("watertight", "Closed"), ("shape", "Shape"),
)  # fmt: skip
"""(field, title) of every column, in their usual order."""


def bare(name: str) -> str:
    """A body's name without the number that tells it from others of that name."""
    return re.sub(r"\s*[\[(]\d+[\])]$", "", name)


def rows_of(
    parts: Iterable[PlacedPart],
    grouping: Grouping,
    shapes: Mapping[BodyKey, int],
    trail: tuple[str, ...] = (),
    material: str = "pla",
) -> list[ListRow]:
    """The lines of the list, in the order in which their first bodies came. Only copies inside the assemblies of `trail` count,
    the file's name first; all for an empty one."""
    found: dict[object, ListRow] = {}
    for placed in parts:
        if trail and trail[0] != placed.name:
            continue
        made_of = placed.material or material
        known = material_named(made_of)
        for number, (body, figures) in enumerate(zip(placed.part.bodies, placed.figures["bodies"], strict=True)):
            inside = [body.trail(copy) for copy in range(body.count)]
            inside = [one for one in inside if one[: len(trail) - 1] == trail[1:]] if trail else inside
            if not inside:
                continue
            key = (placed.id, number)
            volume = figures["volume"]
            row = ListRow(
                name=bare(body.name) if grouping != "each" else body.name,
                count=len(inside),
                parts=(placed.part.name,),
                assemblies=tuple(dict.fromkeys(" › ".join(one) for one in inside if one)),
                kind=body.kind,
                size=(figures["size"][0], figures["size"][1], figures["size"][2]),
                volume=volume,
                area=figures["area"],
                grams=None if volume is None or known is None else mass(volume, known),
                material=words_of(made_of),
                triangles=figures["triangles"],
                shells=figures["shells"],
                watertight=figures["watertight"],
                shape=shapes.get(key),
                bodies=(key,),
            )
            same: object = key
            if grouping == "name":
                same = row.name.casefold()
            elif grouping == "shape":
                same = shapes.get(key, key)
            found[same] = _together(found[same], row) if same in found else row
    return list(found.values())


def _together(a: ListRow, b: ListRow) -> ListRow:
    """Two lines as one: names, files and assemblies that differ are all named; the figures are those of the first."""
    names = dict.fromkeys((*a.name.split(" / "), b.name))
    return ListRow(
        " / ".join(names), a.count + b.count,
        tuple(dict.fromkeys(a.parts + b.parts)), tuple(dict.fromkeys(a.assemblies + b.assemblies)),
        a.kind, a.size, a.volume, a.area, a.grams, a.material, a.triangles, a.shells, a.watertight and b.watertight, a.shape,
        a.bodies + b.bodies,
    )  # fmt: skip


def cell(row: ListRow, field: str) -> str:
    """A field in words, plain numbers, as tables outside the window take them."""
    value = getattr(row, field)
    if value is None:
        return ""
    if field == "size":
        return " x ".join(f"{side:.3f}" for side in value)
    if isinstance(value, tuple):
        return ", ".join(value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.3f}"
    return str(value)


def as_csv(rows: list[ListRow], fields: list[str], between: str = ",") -> str:
    """The list with a line of titles, as RFC 4180 has it."""
    titles = dict(COLUMNS)
    text = io.StringIO()
    writer = csv.writer(text, delimiter=between)
    writer.writerow([titles[field] for field in fields])
    writer.writerows([tame(cell(row, field)) for field in fields] for row in rows)
    return text.getvalue()


def as_document(rows: list[ListRow], fields: list[str], grouping: Grouping) -> dict[str, Any]:
    """The list for JSON: lengths in mm, areas in mm2, volumes in mm3, masses in g."""
    lines = []
    for row in rows:
        line = {field: getattr(row, field) for field in fields}
        lines.append({key: list(value) if isinstance(value, tuple) else value for key, value in line.items()})
    return {"schema": "gullyrise.parts-list/1", "counted_by": grouping, "rows": lines}
