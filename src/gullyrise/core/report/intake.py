"""The receiving figures of a part, in the shape of the `info` contract."""

from __future__ import annotations

from typing import Any

import numpy as np

from gullyrise.core.geometry.orientation import outward
from gullyrise.core.geometry.topology import closed, edges_of
from gullyrise.core.intake.health import health_of
from gullyrise.core.intake.units import declared_doubt, doubt
from gullyrise.core.part import Body, Part


def _triple(values: Any) -> list[float]:
    return [float(value) for value in values]


def body_figures(body: Body) -> dict[str, Any]:
    """One body's figures; volume and area exact for solids, from the triangles for meshes."""
    health = health_of(body.mesh)
    box = body.boxes()[0]
    return {
        "name": body.name,
        "count": body.count,
        "kind": body.kind,
        "size": _triple(box.size),
        "volume": body.volume if body.kind == "solid" else health.volume,
        "area": body.area if body.area is not None else body.mesh.area,
        "triangles": len(body.mesh.faces),
        "vertices": len(body.mesh.vertices),
        "shells": health.shells,
        "watertight": health.watertight,
        "boundary_edges": health.boundary_edges,
        "nonmanifold_edges": health.nonmanifold_edges,
        "flipped_faces": health.flipped_faces,
        "degenerate_faces": health.degenerate_faces,
        "duplicate_faces": health.duplicate_faces,
    }


def centre_of(part: Part) -> tuple[float, float, float] | None:
    """The centre of mass of all copies in the part's coordinates, mm, taken as one material; None where a body encloses
    nothing."""
    total, sums = 0.0, np.zeros(3)
    for body in part.bodies:
        if body.centre is not None and body.volume:
            volume, centre = body.volume, np.array(body.centre)
        else:
            mesh = outward(body.mesh)
            volume = mesh.signed_volume
            if volume <= 0 or not closed(edges_of(mesh)):
                return None
            middle = mesh.box.middle
            corners = mesh.triangles() - middle
            each = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6
            # The tetrahedron from the middle to each face weighs in at the mean of its four corners.
            centre = middle + (each[:, None] * corners.sum(axis=1) / 4).sum(axis=0) / each.sum()
        for place in body.placements:
            sums += volume * place.apply(centre[None])[0]
            total += volume
    return (float(sums[0] / total), float(sums[1] / total), float(sums[2] / total)) if total else None


def part_figures(part: Part, largest_machine: float) -> dict[str, Any]:
    """A part's figures; sums are over its bodies times their counts."""
    bodies = [body_figures(body) for body in part.bodies]
    volumes = [body["volume"] * body["count"] for body in bodies if body["volume"] is not None]
    box = part.box
    unsure = doubt(box.size, largest_machine) if part.unit_source == "assumed" else None
    if part.unit_source == "declared":
        unsure = declared_doubt(box.size, part.unit, largest_machine)
    return {
        "file": part.file,
        "name": part.name,
        "format": part.format,
        "unit": part.unit,
        "unit_source": part.unit_source,
        "unit_doubt": unsure.why if unsure is not None else None,
        "min": _triple(box.low),
        "max": _triple(box.high),
        "size": _triple(box.size),
        "volume": sum(volumes) if volumes else None,
        "area": sum(body["area"] * body["count"] for body in bodies),
        "triangles": part.triangles,
        "bodies": bodies,
    }


_NUMBER, _MAYBE = (float, int), (float, int, type(None))
_UNITS = ("mm", "cm", "m", "inch", "foot", "micron")
_COUNTS = (
    "count", "triangles", "vertices", "shells", "boundary_edges", "nonmanifold_edges", "flipped_faces", "degenerate_faces",
    "duplicate_faces",
)  # fmt: skip
_OF_BODY: dict[str, Any] = {
    "name": str, "kind": str, "size": list, "volume": _MAYBE, "area": _NUMBER, "watertight": bool, **dict.fromkeys(_COUNTS, int),
}  # fmt: skip
_OF_PART: dict[str, Any] = {
    "file": str, "name": str, "format": str, "unit": str, "unit_source": str, "unit_doubt": (str, type(None)),
    "min": list, "max": list, "size": list, "volume": _MAYBE, "area": _NUMBER, "triangles": int, "bodies": list,
}  # fmt: skip


def are_figures_of(found: dict[str, Any], part: Part) -> bool:
    """Whether a table has the shape of `part_figures` for that part: what comes from elsewhere is asked before it is used."""
    if not _has(found, _OF_PART) or found["unit"] not in _UNITS or found["triangles"] != part.triangles:
        return False
    bodies = found["bodies"]
    if len(bodies) != len(part.bodies) or not all(isinstance(one, dict) and _has(one, _OF_BODY) for one in bodies):
        return False
    sizes = [found[name] for name in ("min", "max", "size")] + [one["size"] for one in bodies]
    return all(len(size) == 3 and all(type(side) is float for side in size) for size in sizes)


def _has(found: dict[str, Any], kinds: dict[str, Any]) -> bool:
    return found.keys() == kinds.keys() and all(isinstance(found[name], kind) for name, kind in kinds.items())
