"""The demo parts that have exact surfaces."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TopLoc import TopLoc_Location
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from gullyrise.core.geometry import Transform
from gullyrise.core.part import Body, Part
from gullyrise.core.reading.assemblies import new_document
from gullyrise.core.solids.harvest import harvest
from gullyrise.core.writing import write
from gullyrise.core.writing.step import quiet

Point = tuple[float, float, float]


def box(low: Point, high: Point) -> Any:
    return BRepPrimAPI_MakeBox(gp_Pnt(*low), gp_Pnt(*high)).Shape()


def rod(base: Point, direction: Point, diameter: float, length: float) -> Any:
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*base), gp_Dir(*direction)), diameter / 2, length).Shape()


def cut(a: Any, *others: Any) -> Any:
    for other in others:
        a = BRepAlgoAPI_Cut(a, other).Shape()
    return a


def fuse(a: Any, *others: Any) -> Any:
    for other in others:
        a = BRepAlgoAPI_Fuse(a, other).Shape()
    return a


def _place(x: float, y: float, z: float) -> TopLoc_Location:
    move = gp_Trsf()
    move.SetTranslation(gp_Vec(x, y, z))
    return TopLoc_Location(move)


def write_clamp_saddle(path: Path) -> None:
    """A saddle for a 30 mm pipe whose jaw hangs 14 mm over air."""
    body = box((-30, -12, 0), (30, 12, 10))
    body = fuse(body, box((-24, -12, 10), (-16, 12, 36)), box((-24, -12, 30), (-2, 12, 36)))
    body = cut(body, rod((22, 0, -1), (0, 0, 1), 6, 20), rod((-25, 0, 20), (1, 0, 0), 5, 12))
    _write(path, "clamp saddle", [("clamp saddle", body, [(0.0, 0.0, 0.0)])])


def write_mount_plate(path: Path) -> None:
    """A milled plate with holes, a round-cornered pocket and a T-slot, whose wings no straight cutter sees."""
    body = box((-50, -30, 0), (50, 30, 14))
    for x in (-42.0, 42.0):
        for y in (-22.0, 22.0):
            body = cut(body, rod((x, y, -1), (0, 0, 1), 6.6, 20))
    body = cut(body, box((-36, -6, 6), (-14, 6, 15)), box((-33, -9, 6), (-17, 9, 15)))
    body = cut(body, *(rod((x, y, 6), (0, 0, 1), 6, 9) for x in (-33.0, -17.0) for y in (-6.0, 6.0)))
    body = cut(body, box((12, -31, 8), (20, 31, 15)), box((7, -31, 4), (25, 31, 8)))
    _write(path, "mount plate", [("mount plate", body, [(0.0, 0.0, 0.0)])])


def write_screw_set(path: Path) -> None:
    """Four screws and four washers, set out on the bed 3 mm apart."""
    screw = fuse(rod((0, 0, 0), (0, 0, 1), 10, 4), rod((0, 0, 4), (0, 0, 1), 6, 16))
    screw = cut(screw, box((-6, -0.8, -1), (6, 0.8, 1.2)))
    washer = cut(rod((0, 0, 0), (0, 0, 1), 14, 1.6), rod((0, 0, -1), (0, 0, 1), 6.6, 4))
    screws = [(17.0 * i, 0.0, 0.0) for i in range(4)]
    washers = [(17.0 * i, 17.0, 0.0) for i in range(4)]
    _write(path, "screw set", [("screw", screw, screws), ("washer", washer, washers)])


def write_winch_box(path: Path) -> None:
    """A hand winch: two brackets, eight bolts, and a drum unit with an axle unit in it; five colours."""
    drum = fuse(rod((0, -20, 0), (0, 1, 0), 24, 40), *(rod((0, y, 0), (0, 1, 0), 40, 3) for y in (-23, 20)))
    drum = cut(drum, rod((0, -30, 0), (0, 1, 0), 8.4, 60))
    axle = fuse(rod((0, -34, 0), (0, 1, 0), 8, 68), rod((0, -37, 0), (0, 1, 0), 6, 6))
    collar = cut(rod((0, 0, 0), (0, 1, 0), 14, 4), rod((0, -1, 0), (0, 1, 0), 8.4, 6))
    bracket = cut(fuse(box((-24, 0, -26), (24, 4, 14)), box((-24, 0, -30), (24, 26, -26))), rod((0, -1, 0), (0, 1, 0), 9, 6))
    bolt = fuse(rod((0, 0, 0), (0, 0, 1), 9, 3.5), rod((0, 0, -9), (0, 0, 1), 5, 9))
    bracket = cut(bracket, *(rod((x, y, -31), (0, 0, 1), 5.4, 6) for x in (-16, 16) for y in (10, 20)))
    far = Transform.turned(np.array([0.0, 0.0, 1.0]), 180.0)
    sides = (Transform.moved(np.array([0.0, 27.0, 30.0])), far.then(Transform.moved(np.array([0.0, -27.0, 30.0]))))
    bolts = [Transform.moved(np.array([x, y, -26.0])).then(side) for side in sides for x in (-16.0, 16.0) for y in (10.0, 20.0)]
    up = Transform.moved(np.array([0.0, 0.0, 30.0]))
    collars = [Transform.moved(np.array([0.0, y, 30.0])) for y in (-38.0 + 2, 32.0 + 2)]
    unit, inner = ("winch box", "drum unit"), ("winch box", "drum unit", "axle unit")
    bodies: list[Body] = []
    for name, shape, places, trail, colour in (
        ("bracket", bracket, list(sides), ("winch box",), (0.36, 0.45, 0.50)),
        ("bolt", bolt, bolts, ("winch box",), (0.62, 0.60, 0.56)),
        ("drum", drum, [up], unit, (0.72, 0.52, 0.26)),
        ("axle", axle, [up], inner, (0.50, 0.54, 0.56)),
        ("collar", collar, collars, inner, (0.60, 0.30, 0.24)),
    ):
        (body,) = harvest(name, shape, None).bodies
        bodies.append(replace(body, placements=tuple(places), trails=(trail,) * len(places), colour=colour))
    write(Part("winch box", "winch_box", "step", "mm", "declared", tuple(bodies)), path)


def _write(path: Path, name: str, items: list[tuple[str, Any, list[Point]]]) -> None:
    """A STEP file in mm of named shapes at their places; one shape at the origin stands alone, others form an assembly."""
    quiet()
    document = new_document()
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    if len(items) == 1 and len(items[0][2]) == 1:
        label = tool.AddShape(items[0][1], False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(items[0][0]))
    else:
        root = tool.NewShape()
        TDataStd_Name.Set_s(root, TCollection_ExtendedString(name))
        for title, shape, places in items:
            label = tool.AddShape(shape, False)
            TDataStd_Name.Set_s(label, TCollection_ExtendedString(title))
            for place in places:
                tool.AddComponent(root, label, _place(*place))
        tool.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.Transfer(document, STEPControl_AsIs)
    writer.Write(str(path))
