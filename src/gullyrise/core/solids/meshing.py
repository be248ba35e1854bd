"""Triangles of an exact shape within a chord error, bounded in number and effort; its true faces, edges and corners."""

from __future__ import annotations

from dataclasses import dataclass
from multiprocessing import parent_process
from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_BSplineSurface
from OCP.gp import gp_Trsf
from OCP.IMeshTools import IMeshTools_Parameters
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Edge, TopoDS_Face, TopoDS_Shape
from scipy.spatial import cKDTree

from gullyrise.core.geometry import Faces, Mesh, Points, Transform
from gullyrise.core.geometry.anatomy import Anatomy
from gullyrise.core.geometry.facts import Facts
from gullyrise.core.geometry.joining import joined
from gullyrise.core.geometry.topology import closed, edges_of
from gullyrise.core.solids.surfaces import facts_of

# Radians between neighbouring facets: small holes keep a round look where the chord error alone would leave a hexagon.
ANGULAR = 0.35
FINE = 1e-3
"""Chord error of a solid's triangles in shares of its diagonal, where nothing finer is asked for."""
MOST_TRIANGLES = 3_000_000
"""Of one solid; a finer wish is met as far as this allows."""
_RESISTS = 30_000
"""Spans of its splines from which a shape is meshed coarser: the kernel gives each span triangles of its own."""


@dataclass(frozen=True, slots=True)
class _Effort:
    """factor : of the wanted chord error
    angle : radians between facets
    least : of a triangle, in shares of the diagonal
    """

    factor: float
    angle: float
    least: float


_USUAL, _HARD, _HARDEST = _Effort(1.0, ANGULAR, 0.0), _Effort(4.0, 1.0, 1 / 200), _Effort(16.0, 1.5, 1 / 100)
_PROBED = 1_000


@dataclass(frozen=True, slots=True, eq=False)
class Meshed:
    """chord : mm, what the triangles keep to
    coarser : why it is more than what was asked for, or empty
    """

    mesh: Mesh
    anatomy: Anatomy
    facts: Facts
    chord: float
    coarser: str = ""


def sub_shapes(shape: TopoDS_Shape, kind: Any) -> list[TopoDS_Shape]:
    """The sub-shapes of one kind, in order."""
    out = []
    explorer = TopExp_Explorer(shape, kind)
    while explorer.More():
        out.append(explorer.Current())
        explorer.Next()
    return out


def transform_of(location: TopLoc_Location) -> Transform:
    """The 4x4 placement of a location."""
    given = location.Transformation()
    matrix = np.eye(4)
    for row in range(3):
        for column in range(4):
            matrix[row, column] = given.Value(row + 1, column + 1)
    return Transform(matrix)


def location_of(place: Transform) -> TopLoc_Location:
    """A placement that turns and moves only, as the kernel has it."""
    return TopLoc_Location(_move(place))


def located(shape: TopoDS_Shape, place: Transform) -> TopoDS_Shape:
    """The shape at a further placement, which turns and moves only."""
    return shape.Moved(location_of(place))


def mirrored(shape: TopoDS_Shape, place: Transform) -> TopoDS_Shape:
    """The shape with a placement that mirrors worked into its surfaces."""
    return BRepBuilderAPI_Transform(shape, _move(place), True).Shape()


def _move(place: Transform) -> gp_Trsf:
    move = gp_Trsf()
    move.SetValues(*(float(value) for value in place.matrix[:3].reshape(-1)))
    return move


def meshed(shape: TopoDS_Shape, chord: float, diagonal: float) -> Meshed:
    """The triangles of a shape whose box has that diagonal, within a chord error in mm where it does not resist.

    Notes: the kernel gives every span of a spline surface triangles of its own, which takes minutes for a scanned terrain; such a
    shape is meshed with less effort, and its chord error is measured. Where a fine wish would give more triangles than the bound,
    it is met in part: their number grows as one over the chord error.
    """
    faces = [TopoDS.Face(sub) for sub in sub_shapes(shape, TopAbs_FACE)]
    spans = sum(map(_spans, faces))
    effort = _USUAL if spans < _RESISTS else _HARD if spans < 4 * _RESISTS else _HARDEST
    coarser = ""
    chord *= effort.factor
    _triangulate(shape, chord, diagonal, effort)
    count = _count(faces)
    if count > MOST_TRIANGLES:
        chord *= 1.2 * count / MOST_TRIANGLES
        BRepTools.Clean_s(shape, True)
        _triangulate(shape, chord, diagonal, effort)
        coarser = f"{count:,} triangles would be needed for that"
    found = _harvested(faces)
    if effort.least:
        chord = max(chord, _off(faces))
        coarser = f"a surface of {spans:,} spans resists"
    return Meshed(*found, chord, coarser)


def _triangulate(shape: TopoDS_Shape, chord: float, diagonal: float, effort: _Effort) -> None:
    asked = IMeshTools_Parameters()
    # Finer than usual all round: a chord error falls with the square of the angle between facets.
    finer = min(max(chord / (FINE * diagonal), 1e-4) ** 0.5, 1.0) if effort is _USUAL else 1.0
    asked.Deflection, asked.Angle = chord, effort.angle * finer
    # Only a worker meshes with many threads: they stay, and a process forked from one that has them would wait for them forever.
    asked.InParallel = parent_process() is not None
    if effort.least:
        asked.MinSize = diagonal * effort.least
    BRepMesh_IncrementalMesh(shape, asked)


def _spans(face: TopoDS_Face) -> int:
    found = BRepAdaptor_Surface(face, False)
    if found.GetType() != GeomAbs_BSplineSurface:
        return 0
    surface = found.BSpline()
    return int(surface.NbUKnots()) * int(surface.NbVKnots())


def _count(faces: list[TopoDS_Face]) -> int:
    found = (BRep_Tool.Triangulation_s(face, TopLoc_Location()) for face in faces)
    return sum(one.NbTriangles() for one in found if one is not None)


def _off(faces: list[TopoDS_Face]) -> float:
    """How far the middles of a thousand triangles of each spline face stand from its surface at the mean of their parameters,
    mm: never less than their distance from the surface."""
    worst = 0.0
    for face in faces:
        location = TopLoc_Location()
        found = BRep_Tool.Triangulation_s(face, location)
        if found is None or not found.HasUVNodes() or not _spans(face):
            continue
        surface = BRepAdaptor_Surface(face, False)
        place = transform_of(location)
        for number in np.linspace(1, found.NbTriangles(), min(found.NbTriangles(), _PROBED)).astype(int).tolist():
            corners = found.Triangle(number).Get()
            u = sum(found.UVNode(corner).X() for corner in corners) / 3
            v = sum(found.UVNode(corner).Y() for corner in corners) / 3
            here = [found.Node(corner) for corner in corners]
            middle = place.apply(np.array([[node.X(), node.Y(), node.Z()] for node in here])).mean(axis=0)
            true = surface.Value(u, v)
            worst = max(worst, float(np.linalg.norm(middle - (true.X(), true.Y(), true.Z()))))
    return worst


def _harvested(faces: list[TopoDS_Face]) -> tuple[Mesh, Anatomy, Facts]:
    """What triangles the faces have, vertices joined over their edges; and the true faces, edges and corners."""
    points: list[Points] = []
    corners_of: list[Faces] = []
    face_of: list[np.ndarray] = []
    borders: dict[int, tuple[TopoDS_Edge, Points]] = {}
    offset = 0
    for number, face in enumerate(faces):
        location = TopLoc_Location()
        found = BRep_Tool.Triangulation_s(face, location)
        if found is None:
            continue
        nodes = [found.Node(i) for i in range(1, found.NbNodes() + 1)]
        here = np.array([(node.X(), node.Y(), node.Z()) for node in nodes], dtype=np.float64)
        corners = np.array([found.Triangle(i).Get() for i in range(1, found.NbTriangles() + 1)], dtype=np.int32) - 1
        if face.Orientation() == TopAbs_REVERSED:
            corners = corners[:, ::-1]
        if not location.IsIdentity():
            here = transform_of(location).apply(here)
        _borders_of(face, found, location, here, borders)
        points.append(here)
        corners_of.append(corners + offset)
        face_of.append(np.full(len(corners), number, dtype=np.int32))
        offset += len(here)
    edges = list(borders.values())
    facts = facts_of(faces, edges)
    if not points:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32)), _anatomy(np.zeros(0, dtype=np.int32), []), facts
    mesh, kept = _closed_up(np.concatenate(points), np.concatenate(corners_of))
    return mesh, _anatomy(np.concatenate(face_of)[kept], [line for _, line in edges]), facts


def _borders_of(
    face: TopoDS_Face, triangles: Any, location: TopLoc_Location, here: Points, borders: dict[int, tuple[TopoDS_Edge, Points]]
) -> None:
    """The polylines of a face's edges, each edge once."""
    for edge in borders_of(face):
        name = hash(edge)
        if name in borders:
            continue
        line = BRep_Tool.PolygonOnTriangulation_s(edge, triangles, location)
        if line is not None:
            borders[name] = edge, here[np.array([line.Node(i) for i in range(1, line.NbNodes() + 1)]) - 1]


def borders_of(face: TopoDS_Face) -> list[TopoDS_Edge]:
    """The edges of a face that are edges of the body; seams and edges without length are none."""
    edges = [TopoDS.Edge(sub) for sub in sub_shapes(face, TopAbs_EDGE)]
    return [edge for edge in edges if not BRep_Tool.Degenerated_s(edge) and not BRep_Tool.IsClosed_s(edge, face)]


def edges_in_order(shape: TopoDS_Shape) -> list[TopoDS_Edge]:
    """The edges of a shape as its anatomy and facts number them."""
    found: dict[int, TopoDS_Edge] = {}
    for face in sub_shapes(shape, TopAbs_FACE):
        for edge in borders_of(TopoDS.Face(face)):
            found.setdefault(hash(edge), edge)
    return list(found.values())


def _anatomy(face_of: np.ndarray, borders: list[Points]) -> Anatomy:
    segments = [np.stack([border[:-1], border[1:]], axis=1) for border in borders]
    edge_of = [np.full(len(part), number, dtype=np.int32) for number, part in enumerate(segments)]
    # A border that comes back to its own start, such as a circle, has no corner there.
    ends = [border[[0, -1]] for border in borders if np.linalg.norm(border[0] - border[-1]) > 0]
    none = np.zeros((0, 2, 3))
    return Anatomy(
        face_of,
        np.concatenate([none, *segments]),
        np.concatenate([np.zeros(0, dtype=np.int32), *edge_of]),
        np.unique(np.concatenate([np.zeros((0, 3)), *ends]), axis=0),
    )


def _closed_up(points: Points, faces: Faces) -> tuple[Mesh, np.ndarray]:
    """Joined exactly; where that leaves seams open, joined within a millionth of the diagonal as well. Also the indices of the
    faces that kept three corners."""
    mesh = joined(points, faces)
    kept = np.flatnonzero(_three_corners(mesh.faces))
    mesh = Mesh(mesh.vertices, mesh.faces[kept])
    if closed(edges_of(mesh)):
        return mesh, kept
    near = cKDTree(mesh.vertices).query_pairs(mesh.box.diagonal * 1e-6, output_type="ndarray")
    if not len(near):
        return mesh, kept
    target = np.arange(len(mesh.vertices))
    for low, high in near[np.argsort(near[:, 0], kind="stable")]:
        target[high] = min(target[high], target[low])
    merged = joined(mesh.vertices[target], mesh.faces)
    sound = np.flatnonzero(_three_corners(merged.faces))
    return Mesh(merged.vertices, merged.faces[sound]), kept[sound]


def _three_corners(faces: Faces) -> np.ndarray:
    a, b, c = faces.T
    return np.asarray((a != b) & (b != c) & (c != a))
