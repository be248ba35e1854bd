"""What a file brings: a part of named bodies, frozen."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Literal, NamedTuple

from gullyrise.core.geometry import Box, Mesh, Transform
from gullyrise.core.geometry.anatomy import Anatomy
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.paths import printable

if TYPE_CHECKING:
    from gullyrise.core.geometry.facts import Facts

Kind = Literal["solid", "mesh"]
UnitSource = Literal["declared", "assumed", "given"]
Colour = tuple[float, float, float]
"""Red, green and blue from 0 to 1, as screens take them."""


@dataclass(frozen=True, slots=True, eq=False)
class Body:
    """One named solid or mesh.

    mesh       : triangles in the body's own coordinates, mm
    placements : rigid placements of its copies in the file, at least one
    volume, area : exact, mm3 and mm2, of a solid; None for a mesh, whose triangles say it
    chord_error : mm between a solid's surfaces and its triangles, None for a mesh
    exact_boxes : of each copy in the part's coordinates, from a solid's surfaces; None where the triangles say it
    anatomy    : a solid's true faces, edges and corners; None for a mesh, whose triangles have to be asked
    trails     : of each copy the names of the assemblies that hold it, outermost first; empty where the file has none
    colour     : that the file gives it
    facts      : what a solid's exact surfaces and edges are
    centre     : of mass, mm, from a solid's surfaces
    exact      : the solid itself as the kernel keeps it (binary, mm), to mesh it finer and to write it as a solid
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
    trails: tuple[tuple[str, ...], ...] = ()
    colour: Colour | None = None
    facts: Facts | None = None
    centre: tuple[float, float, float] | None = None
    exact: bytes | None = None

    def trail(self, copy: int) -> tuple[str, ...]:
        """The assemblies that hold one copy."""
        return self.trails[copy] if self.trails else ()

    @property
    def count(self) -> int:
        """How many copies there are."""
        return len(self.placements)

    def scaled(self, factor: float) -> Body:
        """The body with all lengths times a factor, its placements and its kernel's bytes left as they are."""
        boxes = self.exact_boxes
        if boxes is not None:
            boxes = tuple(Box(box.low * factor, box.high * factor) for box in boxes)
        return replace(
            self,
            mesh=_scaled(self.mesh, factor),
            volume=None if self.volume is None else self.volume * factor**3,
            area=None if self.area is None else self.area * factor**2,
            centre=None if self.centre is None else (self.centre[0] * factor, self.centre[1] * factor, self.centre[2] * factor),
            chord_error=None if self.chord_error is None else self.chord_error * factor,
            exact_boxes=None
            if self.exact_boxes is None
            else tuple(Box(b.low * factor, b.high * factor) for b in self.exact_boxes),
            anatomy=None if self.anatomy is None else self.anatomy.scaled(factor),
            facts=None if self.facts is None else self.facts.scaled(factor),
        )

    def boxes(self) -> tuple[Box, ...]:
        """The box of each copy in the part's coordinates."""
        return self.exact_boxes if self.exact_boxes is not None else tuple(copy.box for copy in self.copies())

    def copies(self) -> list[Mesh]:
        """The mesh of each copy in the part's coordinates."""
        return [self.mesh.placed(placement) for placement in self.placements]


@dataclass(frozen=True, slots=True, eq=False)
class Part:
    """What one file brings.

    notes : sentences that a careful reader should know
    metadata : (name, value) of the file
    """

    name: str
    file: str
    format: str
    unit: str
    unit_source: UnitSource
    bodies: tuple[Body, ...]
    notes: tuple[str, ...] = ()
    metadata: tuple[tuple[str, str], ...] = ()

    @property
    def box(self) -> Box:
        """Round all copies, mm in the file's coordinates."""
        return Box.around([box for body in self.bodies for box in body.boxes()])

    @property
    def triangles(self) -> int:
        """Of all copies."""
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


class Piece(NamedTuple):
    """A mesh in the unit of its file, where it stands, in which assemblies, and its colour."""

    name: str
    mesh: Mesh
    place: Transform
    trail: tuple[str, ...] = ()
    colour: Colour | None = None


class Siblings:
    """Tells apart assemblies of one name inside one assembly."""

    def __init__(self) -> None:
        self._seen: dict[tuple[tuple[str, ...], str], int] = {}

    def below(self, trail: tuple[str, ...], name: str) -> tuple[str, ...]:
        """The trail of a fresh assembly inside that of `trail`: its second `clamp` is `clamp (2)`."""
        count = self._seen[trail, name] = self._seen.get((trail, name), 0) + 1
        return (*trail, name if count == 1 else f"{name} ({count})")


def bodies_from(pieces: list[Piece], factor: float) -> tuple[Body, ...]:
    """Mesh bodies from pieces in file units; `factor` takes those to mm.

    Pieces that share one mesh object, placed without stretching, become copies of one body. A placement that scales or
    shears is worked into the triangles. Names that repeat are numbered.
    """
    grouped: dict[tuple[int, str], tuple[Piece, Mesh, list[Transform], list[tuple[str, ...]]]] = {}
    for number, piece in enumerate(pieces):
        mesh, place = piece.mesh, piece.place
        if not len(mesh.faces):
            continue
        if place.is_rigid:
            entry = grouped.get((id(mesh), piece.name))
            if entry is None:
                entry = grouped[id(mesh), piece.name] = (piece, _scaled(mesh, factor), [], [])
            matrix = place.matrix.copy()
            matrix[:3, 3] *= factor
            entry[2].append(Transform(matrix))
            entry[3].append(piece.trail)
        else:
            baked = _scaled(mesh.placed(place), factor)
            grouped[(-1 - number, piece.name)] = (piece, baked, [Transform.identity()], [piece.trail])
    bodies = [
        Body(piece.name, "mesh", mesh, tuple(places), trails=tuple(trails) if any(trails) else (), colour=piece.colour)
        for piece, mesh, places, trails in grouped.values()
    ]
    return tuple(renamed(bodies))


def _scaled(mesh: Mesh, factor: float) -> Mesh:
    return mesh if factor == 1 else mesh.placed(Transform.scaled(factor))


def renamed(bodies: list[Body]) -> list[Body]:
    """Bodies whose names differ: the second `gland` becomes `gland (2)`; a body without a name gets `body n`."""
    seen: dict[str, int] = {}
    out = []
    for number, body in enumerate(bodies, 1):
        name = " ".join(printable(body.name).split())[:120] or f"body {number}"
        seen[name] = seen.get(name, 0) + 1
        if seen[name] > 1:
            name = f"{name} [{seen[name]}]"
        out.append(replace(body, name=name))
    return out
