"""Gaps between exact surfaces against worked-out ones."""

from __future__ import annotations

import io

import numpy as np
import pytest
from OCP.BinTools import BinTools
from OCP.BRep import BRep_Builder
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeTorus
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.TopoDS import TopoDS_Compound, TopoDS_Shape

from gullyrise.core.geometry import Transform
from gullyrise.core.solids.gaps import Piece, exact_gap, gap_of_faces

HERE = Transform.identity()


def kept(*shapes: TopoDS_Shape) -> bytes:
    whole, builder, stream = TopoDS_Compound(), BRep_Builder(), io.BytesIO()
    builder.MakeCompound(whole)
    for shape in shapes:
        builder.Add(whole, shape)
    BinTools.Write_s(whole, stream)
    return stream.getvalue()


@pytest.mark.parametrize("axis", [(0.0, 0.0, 1.0), (0.341, 0.148, 0.928), (0.6, 0.0, 0.8), (0.9, 0.3, 0.3)])
def test_a_leaning_ring_is_found_beside_a_face_that_is_nearly_as_near(axis: tuple[float, float, float]) -> None:
    # The kernel's quick box of a leaning torus can be too small by hundredths of it: nothing may be left out by such boxes.
    large, small = 9.2, 4.82
    along = np.array(axis) / np.linalg.norm(axis)
    middle = gp_Pnt(0, 0, float(large * np.hypot(*along[:2]) + small + 1))
    ring = BRepPrimAPI_MakeTorus(gp_Ax2(middle, gp_Dir(*axis)), large, small).Shape()
    table = kept(BRepPrimAPI_MakeBox(gp_Pnt(-100, -100, -5), gp_Pnt(200, 100, 0)).Shape())
    for more in (0.02, 0.05, 0.1, 0.15):
        block = BRepPrimAPI_MakeBox(gp_Pnt(50, 0, 1 + more), gp_Pnt(60, 10, 9)).Shape()
        found = gap_of_faces((kept(ring, block), HERE, list(range(7))), (table, HERE, list(range(6))))
        assert found is not None and found.distance == pytest.approx(1.0, abs=1e-6)
    assert exact_gap(Piece(kept(ring), HERE), Piece(table, HERE)).distance == pytest.approx(1.0, abs=1e-6)
