"""Exact solids written by the modelling kernel itself, for the readers to prove themselves on."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from OCP.BRep import BRep_Builder
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere
from OCP.BRepTools import BRepTools
from OCP.gp import gp_Trsf, gp_Vec
from OCP.IGESControl import IGESControl_Writer
from OCP.Interface import Interface_Static
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_AsIs
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Compound
from OCP.XCAFDoc import XCAFDoc_DocumentTool


def at(x: float, y: float, z: float) -> TopLoc_Location:
    move = gp_Trsf()
    move.SetTranslation(gp_Vec(x, y, z))
    return TopLoc_Location(move)


def plate() -> Any:
    return BRepPrimAPI_MakeBox(10, 20, 30).Shape()


def pipe() -> Any:
    return BRepAlgoAPI_Cut(BRepPrimAPI_MakeCylinder(5, 30).Shape(), BRepPrimAPI_MakeCylinder(4, 30).Shape()).Shape()


def write_assembly_step(path: Path, unit: str) -> None:
    """Three plates, and two sub-assemblies with one pipe each."""
    document = TDocStd_Document(TCollection_ExtendedString("doc"))
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    root, inner = tool.NewShape(), tool.NewShape()
    one, other = tool.AddShape(plate(), False), tool.AddShape(pipe(), False)
    for label, name in ((root, "station"), (inner, "sub"), (one, "plate"), (other, "pipe")):
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name))
    for step in range(3):
        tool.AddComponent(root, one, at(step * 40, 0, 0))
    tool.AddComponent(inner, other, at(0, 50, 0))
    for x in (0, 60):
        tool.AddComponent(root, inner, at(x, 0, 5))
    tool.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    Interface_Static.SetCVal_s("write.step.unit", unit)
    writer.Transfer(document, STEPControl_AsIs)
    writer.Write(str(path))
    Interface_Static.SetCVal_s("write.step.unit", "MM")


def write_compound_brep(path: Path) -> None:
    """Three equal boxes and a pipe."""
    compound, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(compound)
    box = plate()
    for step in range(3):
        builder.Add(compound, box.Located(at(step * 15, 0, 0)))
    builder.Add(compound, pipe().Located(at(0, 100, 0)))
    BRepTools.Write_s(compound, str(path))


def write_tube_iges(path: Path, unit: str, solid: int) -> None:
    """A pipe as loose faces (0) or as a solid entity (1)."""
    writer = IGESControl_Writer(unit, solid)
    writer.AddShape(pipe())
    writer.Write(str(path))


def write_sphere_iges(path: Path, radius: float) -> None:
    """A sphere as one loose face."""
    writer = IGESControl_Writer("MM", 0)
    writer.AddShape(BRepPrimAPI_MakeSphere(radius).Shape())
    writer.ComputeModel()
    writer.Write(str(path))
