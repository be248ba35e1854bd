"""The receiving figures of a part, in the shape of the `info` contract."""

from __future__ import annotations

from typing import Any

from gullyrise.core.intake.health import health_of
from gullyrise.core.intake.units import doubt
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


def part_figures(part: Part, largest_machine: float) -> dict[str, Any]:
    """A part's figures; sums are over its bodies times their counts."""
    bodies = [body_figures(body) for body in part.bodies]
    volumes = [body["volume"] * body["count"] for body in bodies if body["volume"] is not None]
    box = part.box
    unsure = part.unit_source == "assumed"
    return {
        "file": part.file,
        "name": part.name,
        "format": part.format,
        "unit": part.unit,
        "unit_source": part.unit_source,
        "unit_doubt": doubt(box.size, largest_machine) if unsure else None,
        "min": _triple(box.low),
        "max": _triple(box.high),
        "size": _triple(box.size),
        "volume": sum(volumes) if volumes else None,
        "area": sum(body["area"] * body["count"] for body in bodies),
        "triangles": part.triangles,
        "bodies": bodies,
    }
