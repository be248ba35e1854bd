"""From an exact shape to a Body: triangles with a stated chord error, exact figures, facts and the solid itself."""

from __future__ import annotations

import io
from dataclasses import dataclass, replace

import numpy as np
from OCP.BinTools import BinTools, BinTools_FormatVersion
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_GTransform,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_Sewing,
    BRepBuilderAPI_Transform,
)
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import (
    GeomAbs_BezierSurface,
    GeomAbs_BSplineSurface,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_Torus,
)
from OCP.gp import gp_GTrsf, gp_Pnt, gp_Trsf
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_FACE, TopAbs_SHELL, TopAbs_SOLID
from OCP.TopoDS import TopoDS, TopoDS_Shape, TopoDS_Shell

from gullyrise.core.geometry import Box, Transform
from gullyrise.core.geometry.topology import closed, edges_of
from gullyrise.core.part import Body, Part
from gullyrise.core.progress import Progress, silent
from gullyrise.core.solids.meshing import FINE, Meshed, located, meshed, sub_shapes

_MOST_BOXED = 2_000
_CLOSELY, _FEW_SPANS = 1e-9, 20_000
_PLAIN = (GeomAbs_Plane, GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_Sphere, GeomAbs_Torus)


@dataclass(frozen=True, slots=True, eq=False)
class Harvest:
    """Bodies of one shape in mm, the exact shape of each, and sentences about what was met on the way."""

    bodies: list[Body]
    shapes: list[TopoDS_Shape]
    notes: list[str]


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
        found = Bnd_Box()
        BRepBndLib.AddOptimal_s(located(shape, place), found, False, False)
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
    bodies, shapes = [], []
    full = [solid for solid in solids if sub_shapes(solid, TopAbs_FACE)]
    if len(full) < len(solids):
        many = len(solids) - len(full)
        notes.append(f"{name}: {'a solid' if many == 1 else f'{many} solids'} without faces left out.")
    if not full:
        return Harvest([], [], notes)
    whole = box_of(shape).diagonal
    for solid in full:
        wanted = chord if chord is not None else max(whole * FINE, 1e-6)
        found = meshed(solid, wanted, whole)
        if not len(found.mesh.faces):
            notes.append(f"{name}: a solid could not be meshed and was left out.")
            continue
        if found.coarser:
            notes.append(_coarser(name, found, wanted))
        is_closed = bool(sub_shapes(solid, TopAbs_SOLID))
        volume = exact_volume(solid) if is_closed else None
        if not closed(edges_of(found.mesh)) and is_closed:
            notes.append(f"{name}: the triangles of a solid do not close; measures on them are uncertain there.")
        shapes.append(solid)
        bodies.append(
            Body(
                name, "solid", found.mesh, (Transform.identity(),), volume, exact_area(solid), found.chord,
                anatomy=found.anatomy, facts=found.facts, centre=_centre(solid) if is_closed else None, exact=_kept(solid),
            )
        )  # fmt: skip
    return Harvest(bodies, shapes, notes)


def refined(part: Part, chord: float, progress: Progress = silent) -> Part:
    """The part with its solids meshed anew within a chord error in mm, as far as the bound on triangles allows."""
    bodies: list[Body] = []
    notes = [note for note in part.notes if " is meshed within " not in note]
    for done, body in enumerate(part.bodies):
        progress("meshing solids", done, len(part.bodies))
        if body.exact is None:
            bodies.append(body)
            continue
        shape = shape_of(body.exact)
        found = meshed(shape, chord, box_of(shape).diagonal)
        if found.coarser:
            notes.append(_coarser(body.name, found, chord))
        bodies.append(replace(body, mesh=found.mesh, anatomy=found.anatomy, facts=found.facts, chord_error=found.chord))
    return replace(part, bodies=tuple(bodies), notes=tuple(notes))


def _coarser(name: str, found: Meshed, wanted: float) -> str:
    return f"{name} is meshed within {found.chord:.3g} mm instead of {wanted:.3g}, since {found.coarser}."


def _kept(shape: TopoDS_Shape) -> bytes:
    """The shape without its triangles, as the kernel writes it."""
    stream = io.BytesIO()
    BinTools.Write_s(shape, stream, False, False, BinTools_FormatVersion.BinTools_FormatVersion_CURRENT)
    return stream.getvalue()


def shape_of(exact: bytes) -> TopoDS_Shape:
    """The shape that a body keeps. Raises ValueError for bytes that are none."""
    shape = TopoDS_Shape()
    BinTools.Read_s(shape, io.BytesIO(exact))
    if shape.IsNull():
        raise ValueError("no shape")
    return shape


def scaled(exact: bytes, factor: float) -> bytes:
    """What a body keeps of a shape, with all lengths times a factor."""
    move = gp_Trsf()
    move.SetScale(gp_Pnt(0, 0, 0), factor)
    return _kept(BRepBuilderAPI_Transform(shape_of(exact), move, True).Shape())


def drawn_out(name: str, exact: bytes, place: Transform) -> Body:
    """The body of a kept shape under an affine map; its surfaces become free-form ones."""
    matrix = place.matrix
    move = gp_GTrsf()
    for row in range(3):
        for column in range(4):
            move.SetValue(row + 1, column + 1, float(matrix[row, column]))
    found = harvest(name, BRepBuilderAPI_GTransform(shape_of(exact), move, True).Shape(), None)
    if len(found.bodies) != 1:
        raise ValueError("no single solid is left")
    return found.bodies[0]


def body_of(name: str, shape: TopoDS_Shape) -> Body:
    """The one body of a shape made here."""
    return harvest(name, shape, None).bodies[0]


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


def _volume_of(shape: TopoDS_Shape) -> GProp_GProps:
    found = GProp_GProps()
    if _wants_care(shape):
        BRepGProp.VolumeProperties_s(shape, found, _CLOSELY, False, False)
    else:
        BRepGProp.VolumeProperties_s(shape, found)
    return found


def _wants_care(shape: TopoDS_Shape) -> bool:
    """Whether the kernel's usual integration is not close enough: over few spans of a free-form surface, such as a cylinder
    drawn out to an ellipse, it is off by up to a hundredth. Over many spans it is close, and the careful way takes minutes."""
    spans = 0
    for face in sub_shapes(shape, TopAbs_FACE):
        surface = BRepAdaptor_Surface(TopoDS.Face(face))
        if surface.GetType() in (GeomAbs_BSplineSurface, GeomAbs_BezierSurface):
            spans += surface.NbUKnots() * surface.NbVKnots() if surface.GetType() == GeomAbs_BSplineSurface else 1
        elif surface.GetType() not in _PLAIN:
            spans += 1
    return 0 < spans <= _FEW_SPANS


def _signed_volume(shape: TopoDS_Shape) -> float:
    return float(_volume_of(shape).Mass())


def _centre(shape: TopoDS_Shape) -> tuple[float, float, float]:
    middle = _volume_of(shape).CentreOfMass()
    return middle.X(), middle.Y(), middle.Z()


def exact_volume(shape: TopoDS_Shape) -> float:
    """Volume of a solid from its surfaces, mm3."""
    return abs(_signed_volume(shape))


def exact_area(shape: TopoDS_Shape) -> float:
    """Area of a shape from its surfaces, mm2."""
    found = GProp_GProps()
    if _wants_care(shape):
        BRepGProp.SurfaceProperties_s(shape, found, _CLOSELY, False)
    else:
        BRepGProp.SurfaceProperties_s(shape, found)
    return float(found.Mass())
