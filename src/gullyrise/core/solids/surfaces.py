"""Asking the kernel what each face and edge of a solid is."""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Ellipse,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_Torus,
)
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS_Edge, TopoDS_Face

from gullyrise.core.geometry import Points
from gullyrise.core.geometry.facts import CURVES, SURFACES, Facts

_NONE = (np.nan, np.nan, np.nan)
_SURFACE = {
    GeomAbs_Plane: "plane", GeomAbs_Cylinder: "cylinder", GeomAbs_Cone: "cone", GeomAbs_Sphere: "sphere", GeomAbs_Torus: "torus",
}  # fmt: skip
_CURVE = {GeomAbs_Line: "line", GeomAbs_Circle: "circle", GeomAbs_Ellipse: "ellipse"}


def facts_of(faces: list[TopoDS_Face], edges: list[tuple[TopoDS_Edge, Points]]) -> Facts:
    """Facts of faces, and of edges with their polylines, both in the order given."""
    rows = [_face(face) for face in faces]
    lines = [_edge(edge) for edge, _ in edges]
    polylines = [points for _, points in edges]
    return Facts(
        surface=np.array([row[0] for row in rows], dtype=np.uint8),
        area=np.array([row[1] for row in rows], dtype=np.float64),
        origin=np.array([row[2] for row in rows], dtype=np.float64).reshape(-1, 3),
        axis=np.array([row[3] for row in rows], dtype=np.float64).reshape(-1, 3),
        radius=np.array([row[4] for row in rows], dtype=np.float64),
        second=np.array([row[5] for row in rows], dtype=np.float64),
        hollow=np.array([row[6] for row in rows], dtype=bool),
        curve=np.array([line[0] for line in lines], dtype=np.uint8),
        length=np.array([line[1] for line in lines], dtype=np.float64),
        bend=np.array([line[2] for line in lines], dtype=np.float64),
        middle=np.array([line[3] for line in lines], dtype=np.float64).reshape(-1, 3),
        normal=np.array([line[4] for line in lines], dtype=np.float64).reshape(-1, 3),
        points=np.concatenate([np.zeros((0, 3)), *polylines]),
        starts=np.cumsum([0, *map(len, polylines)]),
    )


def _triple(given: Any) -> tuple[float, float, float]:
    return (given.X(), given.Y(), given.Z())


def _face(face: TopoDS_Face) -> tuple[Any, ...]:
    """(kind, area, origin, axis, radius, second, hollow) of one face."""
    weighed = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, weighed)
    area = float(weighed.Mass())
    found = BRepAdaptor_Surface(face, False)
    kind = _SURFACE.get(found.GetType(), "other")
    turned = face.Orientation() == TopAbs_REVERSED
    number = SURFACES.index(kind)
    if kind == "other":
        return number, area, _NONE, _NONE, np.nan, np.nan, False
    shape = {
        "plane": found.Plane, "cylinder": found.Cylinder, "cone": found.Cone, "sphere": found.Sphere, "torus": found.Torus,
    }[kind]()  # fmt: skip
    frame = shape.Position()
    axis = np.array(_triple(frame.Direction()))
    # The kernel's own normal looks away from the axis of a right-handed frame, along the axis of a right-handed plane.
    away = frame.Direct() != turned
    if kind == "plane":
        return number, area, _triple(shape.Location()), axis if away else -axis, np.nan, np.nan, False
    if kind == "cone":
        return number, area, _triple(shape.Apex()), axis, np.nan, abs(np.degrees(shape.SemiAngle())), not away
    if kind == "torus":
        return number, area, _triple(shape.Location()), axis, shape.MajorRadius(), shape.MinorRadius(), not away
    return number, area, _triple(shape.Location()), axis, shape.Radius(), np.nan, not away


def _edge(edge: TopoDS_Edge) -> tuple[Any, ...]:
    """(kind, length, radius, middle, normal) of one edge."""
    found = BRepAdaptor_Curve(edge)
    kind = _CURVE.get(found.GetType(), "other")
    length = float(GCPnts_AbscissaPoint.Length_s(found))
    if kind != "circle":
        return CURVES.index(kind), length, np.nan, _NONE, _NONE
    circle = found.Circle()
    return CURVES.index(kind), length, circle.Radius(), _triple(circle.Location()), _triple(circle.Axis().Direction())
