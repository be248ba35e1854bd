"""From an exact shape to a Body: triangles with a stated chord error, exact volume and area."""

from __future__ import annotations

from dataclasses import dataclass
from multiprocessing import parent_process
from typing import Any

import numpy as np
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.gp import gp_Trsf
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_SHELL, TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape, TopoDS_Shell
from scipy.spatial import cKDTree

from gullyrise.core.geometry import Box, Faces, Mesh, Points, Transform
from gullyrise.core.geometry.anatomy import Anatomy
from gullyrise.core.geometry.joining import joined
from gullyrise.core.geometry.topology import closed, edges_of
from gullyrise.core.part import Body

# Radians between neighbouring facets: small holes keep a round look where the chord error alone would leave a hexagon.
ANGULAR = 0.35
_MOST_BOXED = 2_000


@dataclass(frozen=True, slots=True, eq=False)
class Harvest:
    """Bodies of one shape in mm, the exact shape of each, and sentences about what was met on the way."""

    bodies: list[Body]
    shapes: list[TopoDS_Shape]
    notes: list[str]


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


def box_of(shape: TopoDS_Shape) -> Box:
    """A box that holds the shape, a little loose. Raises ValueError for a shape without extent."""
    found = Bnd_Box()
    BRepBndLib.Add_s(shape, found, False)
    if found.IsVoid():
        raise ValueError("no extent")
    low, high = found.CornerMin(), found.CornerMax()
    return Box(np.array([low.X(), low.Y(), low.Z()]), np.array([high.X(), high.Y(), high.Z()]))


def exact_boxes(shape: TopoDS_Shape, places: list[Transform]) -> tuple[Box, ...] | None:
    """The tight box of a shape at each of its placements, or None where that would take long or a placement mirrors."""
    if len(sub_shapes(shape, TopAbs_FACE)) * len(places) > _MOST_BOXED or any(place.mirrors for place in places):
        return None
    boxes = []
    for place in places:
        move = gp_Trsf()
        move.SetValues(*(float(value) for value in place.matrix[:3].reshape(-1)))
        found = Bnd_Box()
        BRepBndLib.AddOptimal_s(shape.Moved(TopLoc_Location(move)), found, False, False)
        if found.IsVoid() or found.IsOpen():
            return None
        found.SetGap(0.0)
        low, high = found.CornerMin(), found.CornerMax()
        boxes.append(Box(np.array([low.X(), low.Y(), low.Z()]), np.array([high.X(), high.Y(), high.Z()])))
    return tuple(boxes)


def harvest(name: str, shape: TopoDS_Shape, chord: float | None) -> Harvest:
    """The solids of a shape as bodies; loose faces are sewn first, and what stays open is said.

    chord : wanted chord error, mm; None for a thousandth of the shape's diagonal.
    """
    notes: list[str] = []
    solids = sub_shapes(shape, TopAbs_SOLID)
    if not solids:
        if not sub_shapes(shape, TopAbs_FACE):
            return Harvest([], [], [])
        solids = _sewn(name, shape, notes)
    wanted = chord if chord is not None else max(box_of(shape).diagonal / 1000, 1e-6)
    bodies, shapes = [], []
    for solid in solids:
        mesh, anatomy = triangles_of(solid, wanted)
        if not len(mesh.faces):
            notes.append(f"{name}: a solid could not be meshed and was left out.")
            continue
        is_closed = bool(sub_shapes(solid, TopAbs_SOLID))
        volume = exact_volume(solid) if is_closed else None
        if not closed(edges_of(mesh)) and is_closed:
            notes.append(f"{name}: the triangles of a solid do not close; measures on them are uncertain there.")
        shapes.append(solid)
        bodies.append(Body(name, "solid", mesh, (Transform.identity(),), volume, exact_area(solid), wanted, anatomy=anatomy))
    return Harvest(bodies, shapes, notes)


def _sewn(name: str, shape: TopoDS_Shape, notes: list[str]) -> list[TopoDS_Shape]:
    """Closed shells of loose faces as solids, and what stays open as it is."""
    sewing = BRepBuilderAPI_Sewing(max(box_of(shape).diagonal * 1e-5, 1e-6))
    sewing.Add(shape)
    sewing.Perform()
    result = sewing.SewedShape()
    out: list[TopoDS_Shape] = []
    for shell in sub_shapes(result, TopAbs_SHELL) or [_shell_of(result)]:
        if BRep_Tool.IsClosed_s(shell):
            solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell(shell)).Solid()
            out.append(solid.Reversed() if _signed_volume(solid) < 0 else solid)
        else:
            notes.append(f"{name}: {len(sub_shapes(shell, TopAbs_FACE))} faces were sewn but stay open.")
            out.append(shell)
    return out


def _shell_of(shape: TopoDS_Shape) -> TopoDS_Shell:
    """All faces of a shape in one shell: a face that closes on itself, such as a whole sphere, is not sewn to anything."""
    shell, builder = TopoDS_Shell(), BRep_Builder()
    builder.MakeShell(shell)
    for face in sub_shapes(shape, TopAbs_FACE):
        builder.Add(shell, face)
    shell.Closed(BRep_Tool.IsClosed_s(shell))
    return shell


def _signed_volume(shape: TopoDS_Shape) -> float:
    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, found)
    return float(found.Mass())


def exact_volume(shape: TopoDS_Shape) -> float:
    """Volume of a solid from its surfaces, mm3."""
    return abs(_signed_volume(shape))


def exact_area(shape: TopoDS_Shape) -> float:
    """Area of a shape from its surfaces, mm2."""
    found = GProp_GProps()
    BRepGProp.SurfaceProperties_s(shape, found)
    return float(found.Mass())


def triangles_of(shape: TopoDS_Shape, chord: float) -> tuple[Mesh, Anatomy]:
    """Triangles of a shape within a chord error in mm, vertices joined over the edges of its faces; and its true faces, edges and
    corners."""
    # Only a worker meshes with many threads: they stay, and a process forked from one that has them would wait for them forever.
    BRepMesh_IncrementalMesh(shape, chord, False, ANGULAR, parent_process() is not None)
    points: list[Points] = []
    faces: list[Faces] = []
    face_of: list[np.ndarray] = []
    rims: dict[int, Points] = {}
    offset = 0
    for number, sub in enumerate(sub_shapes(shape, TopAbs_FACE)):
        face = TopoDS.Face(sub)
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
        _rims_of(face, found, location, here, rims)
        points.append(here)
        faces.append(corners + offset)
        face_of.append(np.full(len(corners), number, dtype=np.int32))
        offset += len(here)
    if not points:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32)), _anatomy(np.zeros(0, dtype=np.int32), [])
    mesh, kept = _closed_up(np.concatenate(points), np.concatenate(faces))
    return mesh, _anatomy(np.concatenate(face_of)[kept], list(rims.values()))


def _rims_of(face: TopoDS_Face, triangles: Any, location: TopLoc_Location, here: Points, rims: dict[int, Points]) -> None:
    """The polylines of a face's edges, each edge once; seams and edges without length are none."""
    for sub in sub_shapes(face, TopAbs_EDGE):
        edge = TopoDS.Edge(sub)
        name = hash(edge)
        if name in rims or BRep_Tool.Degenerated_s(edge) or BRep_Tool.IsClosed_s(edge, face):
            continue
        line = BRep_Tool.PolygonOnTriangulation_s(edge, triangles, location)
        if line is not None:
            rims[name] = here[np.array([line.Node(i) for i in range(1, line.NbNodes() + 1)]) - 1]


def _anatomy(face_of: np.ndarray, rims: list[Points]) -> Anatomy:
    segments = [np.stack([rim[:-1], rim[1:]], axis=1) for rim in rims]
    edge_of = [np.full(len(part), number, dtype=np.int32) for number, part in enumerate(segments)]
    # A rim that comes back to its own start, such as a circle, has no corner there.
    ends = [rim[[0, -1]] for rim in rims if np.linalg.norm(rim[0] - rim[-1]) > 0]
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
