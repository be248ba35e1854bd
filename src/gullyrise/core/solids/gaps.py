"""Smallest gaps and wall thickness between exact surfaces."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeVertex
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_Sphere
from OCP.GeomAPI import GeomAPI_ProjectPointOnSurf
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt, gp_Pnt2d, gp_Vec
from OCP.IntCurvesFace import IntCurvesFace_Intersector, IntCurvesFace_ShapeIntersector
from OCP.TopAbs import TopAbs_FACE, TopAbs_OUT, TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from gullyrise.core.geometry import Floats, Mesh, Transform
from gullyrise.core.geometry.nearest import Gap
from gullyrise.core.solids.harvest import box_of, shape_of
from gullyrise.core.solids.meshing import edges_in_order, meshed, sub_shapes
from gullyrise.core.solids.sections import placed

_BOXES_HOLD = (GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_Sphere)
_BOX_SHARE, _BOX_ANGLE = 0.01, 0.5


@dataclass(frozen=True, slots=True, eq=False)
class Piece:
    """A kept solid where it stands, or one of its faces or edges by number; exact : None for a mere place, then `place` moves it
    from the origin."""

    exact: bytes | None
    place: Transform
    kind: Literal["whole", "face", "edge"] = "whole"
    index: int = 0

    def shape(self) -> Any:
        """The kernel's shape, where it stands."""
        if self.exact is None:
            return BRepBuilderAPI_MakeVertex(gp_Pnt(*self.place.matrix[:3, 3])).Vertex()
        found = placed(shape_of(self.exact), self.place)
        if self.kind == "face":
            return sub_shapes(found, TopAbs_FACE)[self.index]
        return edges_in_order(found)[self.index] if self.kind == "edge" else found


def exact_gap(a: Piece, b: Piece) -> Gap:
    """The smallest gap between two pieces, 0 where one lies in the other. Raises ValueError where the kernel finds none."""
    found = BRepExtrema_DistShapeShape(_ready(a.shape()), _ready(b.shape()))
    if not found.IsDone() or not found.NbSolution():
        raise ValueError("no gap was found")
    one, other = found.PointOnShape1(1), found.PointOnShape2(1)
    ends = np.array([[p.X(), p.Y(), p.Z()] for p in (one, other)])
    return Gap(float(found.Value()), ends[0], ends[1])


def _ready(shape: Any) -> Any:
    """The shape, fit to be asked for its nearest place.

    Notes: the kernel leaves out what its boxes say is farther than the best so far, and its boxes of leaning tori are too small
    by up to hundredths of them: it then gave the next best for the nearest. Where a face has triangles its box is made of those
    and their chord error, which holds it. Boxes of planes, cylinders, cones and balls hold anyhow.
    """
    for face in sub_shapes(shape, TopAbs_FACE):
        if BRepAdaptor_Surface(TopoDS.Face(face), False).GetType() not in _BOXES_HOLD:
            BRepMesh_IncrementalMesh(face, _BOX_SHARE * box_of(face).diagonal, False, _BOX_ANGLE, False)
    return shape


@dataclass(frozen=True, slots=True, eq=False)
class Through:
    """point : on the surface, mm
    far : straight behind it on the other side
    normal : outward at `point`
    """

    point: Floats
    far: Floats
    normal: Floats

    @property
    def distance(self) -> float:
        """mm through the material."""
        return float(np.linalg.norm(self.far - self.point))


def exact_through(exact: bytes, face: int, place: Floats) -> Through | None:
    """From the point of a face nearest to a place (3,), in the solid's own coordinates, square through the material; None where
    nothing lies behind, or where the nearest point of the face's surface is none of the face itself."""
    shape = shape_of(exact)
    sheet = TopoDS.Face(sub_shapes(shape, TopAbs_FACE)[face])
    foot = GeomAPI_ProjectPointOnSurf(gp_Pnt(*place), BRep_Tool.Surface_s(sheet))
    if not foot.NbPoints():
        return None
    u, v = foot.LowerDistanceParameters()
    if IntCurvesFace_Intersector(sheet, 1e-7).ClassifyUVPoint(gp_Pnt2d(u, v)) == TopAbs_OUT:
        return None
    point, along, across = gp_Pnt(), gp_Vec(), gp_Vec()
    BRepAdaptor_Surface(sheet, False).D1(u, v, point, along, across)
    normal = along.Crossed(across)
    if normal.Magnitude() <= 0:
        return None
    outward = np.array([normal.X(), normal.Y(), normal.Z()]) / normal.Magnitude()
    if sheet.Orientation() == TopAbs_REVERSED:
        outward = -outward
    start = np.array([point.X(), point.Y(), point.Z()])
    ray = IntCurvesFace_ShapeIntersector()
    ray.Load(shape, 1e-9)
    reach = 2 * box_of(shape).diagonal
    ray.Perform(gp_Lin(point, gp_Dir(*-outward)), 1e-7 * reach, reach)
    ways = sorted(float(ray.WParameter(k)) for k in range(1, ray.NbPnt() + 1)) if ray.IsDone() else []
    return Through(start, start - outward * ways[0], outward) if ways else None


Faces = tuple[bytes, Transform, list[int]]
"""A kept solid, where it stands, and some of its faces by number."""
_FINEST_TRIANGLES = 400_000


def gap_of_faces(a: Faces, b: Faces) -> Gap | None:
    """The smallest gap between some faces of two solids, None where the kernel finds none for any pair of them."""
    sheets = []
    for exact, place, numbers in (a, b):
        faces = sub_shapes(placed(shape_of(exact), place), TopAbs_FACE)
        sheets.append([_ready(faces[number]) for number in numbers])
    best: Gap | None = None
    for one in sheets[0]:
        for other in sheets[1]:
            found = BRepExtrema_DistShapeShape(one, other)
            if not found.IsDone() or not found.NbSolution():
                return None
            if best is None or found.Value() < best.distance:
                p, q = found.PointOnShape1(1), found.PointOnShape2(1)
                best = Gap(float(found.Value()), np.array([p.X(), p.Y(), p.Z()]), np.array([q.X(), q.Y(), q.Z()]))
    return best


def finer_mesh(exact: bytes, place: Transform, chord: float) -> Mesh | None:
    """The triangles of a kept solid where it stands within a chord error, mm; None where those would be more than is quick."""
    shape = shape_of(exact)
    found = meshed(shape, chord, box_of(shape).diagonal)
    if found.coarser or len(found.mesh.faces) > _FINEST_TRIANGLES:
        return None
    return found.mesh.placed(place)
