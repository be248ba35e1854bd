"""A gauge part with every kind of face and edge, as a solid and as the triangles that a file would bring, and things to pick on
it."""

from __future__ import annotations

from functools import cache

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCone, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopoDS import TopoDS

from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.anatomy import anatomy_of
from gullyrise.core.geometry.joining import joined
from gullyrise.core.geometry.near_pieces import to_segments
from gullyrise.core.intake.materials import BY_ID
from gullyrise.core.measuring.picks import Pick
from gullyrise.core.measuring.subject import Subject
from gullyrise.core.part import Body
from gullyrise.core.solids.harvest import body_of
from gullyrise.core.solids.meshing import sub_shapes

Row = tuple[float, float, float]


def _rod(at: Row, radius: float, length: float, way: Row = (0, 0, 1)) -> object:
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(*way)), radius, length).Shape()


@cache
def solid() -> Body:
    """A plate 80 x 50 x 20 with a bore of 12 at (20, 25), one of 6 at (60, 25), a cross bore of 5 along Y at x = 40, z = 8, a
    boss of 10 that is 6 high at (40, 40), a dimple of radius 5 at (66, 42), a countersink over the bore of 6, and a corner
    rounded by 7 at (80, 0)."""
    shape = BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), 80, 50, 20).Shape()
    for edge in sub_shapes(shape, TopAbs_EDGE):
        from OCP.BRepAdaptor import BRepAdaptor_Curve

        curve = BRepAdaptor_Curve(TopoDS.Edge(edge))
        middle = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
        if abs(middle.X() - 80) < 1e-6 and abs(middle.Y()) < 1e-6:
            rounder = BRepFilletAPI_MakeFillet(shape)
            rounder.Add(7.0, TopoDS.Edge(edge))
            shape = rounder.Shape()
            break
    shape = BRepAlgoAPI_Cut(shape, _rod((20, 25, -1), 6, 30)).Shape()
    shape = BRepAlgoAPI_Cut(shape, _rod((60, 25, -1), 3, 30)).Shape()
    shape = BRepAlgoAPI_Cut(shape, _rod((40, -1, 8), 2.5, 60, (0, 1, 0))).Shape()
    sink = BRepPrimAPI_MakeCone(gp_Ax2(gp_Pnt(60, 25, 17), gp_Dir(0, 0, 1)), 3, 7, 4).Shape()
    shape = BRepAlgoAPI_Cut(shape, sink).Shape()
    shape = BRepAlgoAPI_Fuse(shape, _rod((40, 40, 20), 5, 6)).Shape()
    ball = BRepPrimAPI_MakeSphere(gp_Pnt(66, 42, 20), 5).Shape()
    return body_of("gauge", BRepAlgoAPI_Cut(shape, ball).Shape())


@cache
def bar() -> Body:
    """A block 10 x 10 x 30."""
    return body_of("bar", BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), 10, 10, 30).Shape())


def as_file(body: Body, factor: float = 1.0) -> Body:
    """The triangles of a solid as a file in single precision brings them, whose unit is `factor` mm."""
    corners = (body.mesh.triangles().reshape(-1, 3) / factor).astype(np.float32).astype(np.float64) * factor
    mesh = joined(corners, np.arange(len(corners), dtype=np.int32).reshape(-1, 3))
    return Body(body.name, "mesh", Mesh(mesh.vertices, mesh.faces), body.placements)


def subject(body: Body, place: Transform | None = None) -> Subject:
    return Subject(body.name, body, place or Transform.identity(), BY_ID["aluminium"])


@cache
def _anatomy(body: Body) -> object:
    return body.anatomy if body.anatomy is not None else anatomy_of(body.mesh)


def pick(body: Body, what: str, near: Row, part: int = 1) -> Pick:
    """The face, edge or corner that is nearest to a place of the body."""
    anatomy, place = _anatomy(body), np.array(near, dtype=float)
    index = 0
    if what in ("face", "axis", "spot"):
        index = int(anatomy.face_of[np.argmin(_to_triangles(body.mesh, place))])  # type: ignore[attr-defined]
    elif what in ("edge", "middle", "centre"):
        index = int(anatomy.edge_of[np.argmin(to_segments(place, anatomy.segments))])  # type: ignore[attr-defined]
    elif what == "corner":
        index = int(np.argmin(np.linalg.norm(anatomy.corners - place, axis=1)))  # type: ignore[attr-defined]
    return Pick(what=what, part=part, copy_number=0, index=index, spot=near)  # type: ignore[arg-type]


def _to_triangles(mesh: Mesh, place: np.ndarray) -> np.ndarray:
    import igl

    out = np.full(len(mesh.faces), np.inf)
    distance, face, _ = igl.point_mesh_squared_distance(place[None], mesh.vertices, mesh.faces.astype(np.int64))
    out[int(np.atleast_1d(face)[0])] = float(np.atleast_1d(distance)[0])
    return out
