"""The section of a solid from its exact surfaces."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools_WireExplorer
from OCP.GCPnts import GCPnts_QuasiUniformDeflection
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Line
from OCP.gp import gp_Ax3, gp_Dir, gp_Pln, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_FACE, TopAbs_REVERSED, TopAbs_WIRE
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape, TopoDS_Wire

from gullyrise.core.geometry import Floats, Plane, Points, Transform
from gullyrise.core.geometry.outline import Outline
from gullyrise.core.geometry.plane import flat
from gullyrise.core.solids.harvest import box_of, shape_of
from gullyrise.core.solids.meshing import located, mirrored, sub_shapes

_ASIDE = 1e-6
_WAYS_SHARE, _LEAST_SAG = 2e-5, 1e-4


@dataclass(frozen=True, slots=True, eq=False)
class ExactSection:
    """A cut through solids, in the plane's frame, from their surfaces.

    area : mm2
    perimeter : mm
    centroid : (2,) mm, None where nothing is cut
    second : (2, 2) mm4 about it
    outlines : lines and arcs as they are, other curves within `sag` mm
    beside : mm by which the plane was moved, because a face lies in it
    """

    area: float
    perimeter: float
    centroid: Floats | None
    second: Floats | None
    outlines: tuple[Outline, ...]
    sag: float
    beside: float


def exact_section(exact: bytes, place: Transform, plane: Plane) -> ExactSection:
    """The section of one kept solid where it stands.

    Where faces lie in the plane it is moved against its normal by a millionth of a millimetre, so that the same side counts as in
    the section of a mesh. Raises ValueError where the kernel finds no section.
    """
    shape = placed(shape_of(exact), place)
    box = box_of(shape)
    reach = 2 * box.diagonal + float(np.linalg.norm(plane.point - box.middle))
    beside = _ASIDE if _faces_in(shape, plane) else 0.0
    point = box.middle - plane.normal * (float((box.middle - plane.point) @ plane.normal) + beside)
    u, _ = plane.frame()
    frame = gp_Ax3(gp_Pnt(*point), gp_Dir(*plane.normal), gp_Dir(*u))
    sheet = BRepBuilderAPI_MakeFace(gp_Pln(frame), -reach, reach, -reach, reach).Face()
    common = BRepAlgoAPI_Common(shape, sheet)
    if not common.IsDone():
        raise ValueError("no section was found")
    faces = [TopoDS.Face(sub) for sub in sub_shapes(common.Shape(), TopAbs_FACE)]
    sag = max(box.diagonal * _WAYS_SHARE, _LEAST_SAG)
    if not faces:
        return ExactSection(0.0, 0.0, None, None, (), sag, beside)
    weighed, along = GProp_GProps(), GProp_GProps()
    BRepGProp.SurfaceProperties_s(common.Shape(), weighed, 1e-10, False)
    BRepGProp.LinearProperties_s(common.Shape(), along)
    middle = weighed.CentreOfMass()
    centroid = flat(np.array([[middle.X(), middle.Y(), middle.Z()]]), plane)[0]
    outlines = [
        _outline(TopoDS.Wire(wire), face, plane, sag) for face in faces for wire in sub_shapes(face, TopAbs_WIRE)
    ]  # fmt: skip
    return ExactSection(
        float(weighed.Mass()), float(along.Mass()), centroid, _second(weighed, plane), tuple(outlines), sag, beside
    )


def together(found: list[ExactSection]) -> ExactSection:
    """Sections by one plane in one. Raises ValueError for none."""
    area = sum(one.area for one in found)
    perimeter = sum(one.perimeter for one in found)
    outlines = tuple(replace(outline, body=number) for number, one in enumerate(found) for outline in one.outlines)
    sag, beside = max(one.sag for one in found), max(one.beside for one in found)
    cut = [one for one in found if one.centroid is not None and one.second is not None]
    if not cut or area <= 0:
        return ExactSection(area, perimeter, None, None, outlines, sag, beside)
    centroid = np.sum([one.area * one.centroid for one in cut if one.centroid is not None], axis=0) / area
    second = np.zeros((2, 2))
    for one in cut:
        off = np.asarray(one.centroid) - centroid
        second += np.asarray(one.second) + one.area * np.outer(off, off)
    return ExactSection(area, perimeter, centroid, second, outlines, sag, beside)


def placed(shape: TopoDS_Shape, place: Transform) -> TopoDS_Shape:
    """A shape where a rigid placement puts it."""
    return mirrored(shape, place) if place.mirrors else located(shape, place)


def _faces_in(shape: TopoDS_Shape, plane: Plane) -> bool:
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.GeomAbs import GeomAbs_Plane

    for sub in sub_shapes(shape, TopAbs_FACE):
        found = BRepAdaptor_Surface(TopoDS.Face(sub), False)
        if found.GetType() != GeomAbs_Plane:
            continue
        flat_one = found.Plane()
        normal, point = flat_one.Axis().Direction(), flat_one.Location()
        along = abs(float(np.dot([normal.X(), normal.Y(), normal.Z()], plane.normal)))
        off = abs(float(plane.heights(np.array([[point.X(), point.Y(), point.Z()]]))[0]))
        if along > 1 - 1e-12 and off < 1e-7:
            return True
    return False


def _second(weighed: GProp_GProps, plane: Plane) -> Floats:
    """From the kernel's inertia about the centroid, in which each axis carries what lies across it."""
    given = weighed.MatrixOfInertia()
    inertia = np.array([[given.Value(row, column) for column in (1, 2, 3)] for row in (1, 2, 3)])
    u, v = plane.frame()
    return np.array([[v @ inertia @ v, -(u @ inertia @ v)], [-(u @ inertia @ v), u @ inertia @ u]])


def _outline(wire: TopoDS_Wire, face: TopoDS_Face, plane: Plane, sag: float) -> Outline:
    """One wire of a cut face, counter-clockwise round material."""
    points: list[Floats] = []
    bulges: list[float] = []
    explorer = BRepTools_WireExplorer(wire, face)
    while explorer.More():
        edge = explorer.Current()
        curve = BRepAdaptor_Curve(edge)
        first, last = curve.FirstParameter(), curve.LastParameter()
        turned = edge.Orientation() == TopAbs_REVERSED
        if curve.GetType() == GeomAbs_Line:
            stops = [first]
        elif curve.GetType() == GeomAbs_Circle:
            stops = np.linspace(first, last, 3 if last - first > np.pi - 1e-9 else 2)[:-1].tolist()
        else:
            ways = GCPnts_QuasiUniformDeflection(curve, sag)
            stops = [ways.Parameter(k) for k in range(1, ways.NbPoints())]
        if turned:
            stops = [last, *stops[:0:-1]]
        places = flat(np.array([_at(curve, stop) for stop in stops]), plane)
        points += list(places)
        if curve.GetType() == GeomAbs_Circle:
            axis = curve.Circle().Axis().Direction()
            left = float(np.dot([axis.X(), axis.Y(), axis.Z()], plane.normal)) > 0
            share = (last - first) / len(stops)
            bulges += [float(np.tan(share / 4)) * (1 if left != turned else -1)] * len(stops)
        else:
            bulges += [0.0] * len(stops)
        explorer.Next()
    outline = Outline(np.array(points).reshape(-1, 2), np.array(bulges), True)
    if face.Orientation() == TopAbs_REVERSED:
        back = np.array(bulges)[::-1]
        return Outline(outline.points[::-1], -np.roll(back, -1), True)
    return outline


def _at(curve: BRepAdaptor_Curve, parameter: float) -> Points:
    point = curve.Value(parameter)
    return np.array([point.X(), point.Y(), point.Z()])
