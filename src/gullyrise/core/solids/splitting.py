"""One side of a solid that is cut by a plane, with its surfaces as they were."""

from __future__ import annotations

from typing import Literal

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Common, BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Shape

from gullyrise.core.errors import SplitError
from gullyrise.core.geometry import Plane, Transform
from gullyrise.core.geometry.pegs import Pegs
from gullyrise.core.part import Body
from gullyrise.core.solids.harvest import box_of, exact_volume, harvest, shape_of
from gullyrise.core.solids.sections import placed


def half_of_solid(
    name: str, exact: bytes, place: Transform, plane: Plane, side: Literal["front", "back"], pegs: Pegs | None
) -> list[Body]:
    """The bodies of a kept solid on one side of a plane. Raises SplitError where the kernel cannot cut it."""
    shape = placed(shape_of(exact), place)
    box = box_of(shape)
    reach = 2 * box.diagonal + 1.0
    base = box.middle - plane.normal * float((box.middle - plane.point) @ plane.normal)
    ahead = plane.normal if side == "front" else -plane.normal
    u, v = Plane(base, ahead).frame()
    corner = base - reach * (u + v)
    room = BRepPrimAPI_MakeBox(gp_Ax2(gp_Pnt(*corner), gp_Dir(*ahead), gp_Dir(*u)), 2 * reach, 2 * reach, 2 * reach).Shape()
    half = BRepAlgoAPI_Common(shape, room)
    if not half.IsDone():
        raise SplitError(f"The cut through {name} could not be closed; move it a little.")
    made = half.Shape()
    for foot in pegs.feet if pegs is not None else ():
        if pegs is not None:
            made = _with_peg(made, np.array(foot), plane, side, pegs)
    found = harvest(name, made, None)
    if not found.bodies or any(body.volume is None or body.volume <= 0 for body in found.bodies):
        raise SplitError(f"The cut through {name} could not be closed; move it a little.")
    return found.bodies


def _with_peg(shape: TopoDS_Shape, foot: np.ndarray, plane: Plane, side: str, pegs: Pegs) -> TopoDS_Shape:
    base = foot - plane.normal * pegs.root
    axis = gp_Ax2(gp_Pnt(*base), gp_Dir(*plane.normal))
    if side == "front":
        hole = BRepPrimAPI_MakeCylinder(axis, pegs.hole_diameter / 2, pegs.root + pegs.depth).Shape()
        return BRepAlgoAPI_Cut(shape, hole).Shape()
    peg = BRepPrimAPI_MakeCylinder(axis, pegs.diameter / 2, pegs.root + pegs.length).Shape()
    # Only of the body in which it is rooted.
    if exact_volume(BRepAlgoAPI_Common(shape, peg).Shape()) <= 0:
        return shape
    return BRepAlgoAPI_Fuse(shape, peg).Shape()
