"""What a file brings: a part of named bodies, frozen."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from gullyrise.core.geometry import Box, Mesh, Transform
from gullyrise.core.geometry.anatomy import Anatomy
from gullyrise.core.geometry.mesh import merged

Kind = Literal["solid", "mesh"]
UnitSource = Literal["declared", "assumed", "given"]


@dataclass(frozen=True, slots=True, eq=False)
class Body:
    """One named solid or mesh.

    mesh       : triangles in the body's own coordinates, mm
    placements : rigid placements of its copies in the file, at least one
    volume, area : exact, mm3 and mm2, of a solid; None for a mesh, whose triangles say it
    chord_error : mm between a solid's surfaces and its triangles, None for a mesh
    exact_boxes : of each copy in the part's coordinates, from a solid's surfaces; None where the triangles say it
    anatomy    : a solid's true faces, edges and corners; None for a mesh, whose triangles have to be asked
    """

    name: str
    kind: Kind
    mesh: Mesh
    placements: tuple[Transform, ...]
    volume: float | None = None
    area: float | None = None
    chord_error: float | None = None
    exact_boxes: tuple[Box, ...] | None = None
    anatomy: Anatomy | None = None

    @property
    def count(self) -> int:
        return len(self.placements)

    def boxes(self) -> tuple[Box, ...]:
        """The box of each copy in the part's coordinates."""
        return self.exact_boxes if self.exact_boxes is not None else tuple(copy.box for copy in self.copies())

    def copies(self) -> list[Mesh]:
        """The mesh of each copy in the part's coordinates."""
        return [self.mesh.placed(placement) for placement in self.placements]


@dataclass(frozen=True, slots=True, eq=False)
class Part:
    """What one file brings. Notes are sentences that a careful reader should know."""

    name: str
    file: str
    format: str
    unit: str
    unit_source: UnitSource
    bodies: tuple[Body, ...]
    notes: tuple[str, ...] = ()

    @property
    def box(self) -> Box:
        boxes = [box for body in self.bodies for box in body.boxes()]
        return Box(np.min([box.low for box in boxes], axis=0), np.max([box.high for box in boxes], axis=0))

    @property
    def triangles(self) -> int:
        return sum(len(body.mesh.faces) * body.count for body in self.bodies)

    def copies(self) -> list[tuple[str, Body, Mesh]]:
        """(name, body, placed mesh) of every copy; a body that stands several times is numbered `name (2)`."""
        return [
            (body.name if number == 1 else f"{body.name} ({number})", body, mesh)
            for body in self.bodies
            for number, mesh in enumerate(body.copies(), 1)
        ]

    def whole(self) -> Mesh:
        """Every copy in one mesh."""
        return merged([mesh for _, _, mesh in self.copies()])


def bodies_from(pieces: list[tuple[str, Mesh, Transform]], factor: float) -> tuple[Body, ...]:
    """Mesh bodies from (name, mesh, placement) in file units; `factor` takes those to mm.

    Pieces that share one mesh object, placed without stretching, become copies of one body. A placement that scales or
    shears is worked into the triangles. Names that repeat are numbered.
    """
    grouped: dict[tuple[int, str], tuple[str, Mesh, list[Transform]]] = {}
    for number, (name, mesh, placement) in enumerate(pieces):
        if not len(mesh.faces):
            continue
        if placement.is_rigid:
            matrix = placement.matrix.copy()
            matrix[:3, 3] *= factor
            entry = grouped.setdefault((id(mesh), name), (name, mesh.placed(Transform.scaled(factor)), []))
            entry[2].append(Transform(matrix))
        else:
            baked = mesh.placed(placement).placed(Transform.scaled(factor))
            grouped[(-1 - number, name)] = (name, baked, [Transform.identity()])
    bodies = [Body(name, "mesh", mesh, tuple(places)) for name, mesh, places in grouped.values()]
    return tuple(renamed(bodies))


def renamed(bodies: list[Body]) -> list[Body]:
    """Bodies whose names differ: the second `gland` becomes `gland (2)`; a body without a name gets `body n`."""
    seen: dict[str, int] = {}
    out = []
    for number, body in enumerate(bodies, 1):
        name = " ".join(body.name.split())[:120] or f"body {number}"
        seen[name] = seen.get(name, 0) + 1
        if seen[name] > 1:
            name = f"{name} [{seen[name]}]"
        out.append(replace(body, name=name))
    return out
