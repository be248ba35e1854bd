"""STEP (AP214) of solids, by the kernel that they were read with."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from gullyrise.core.errors import WriteError
from gullyrise.core.geometry import Transform
from gullyrise.core.part import Body, Part
from gullyrise.core.writing.losses import Holds, lost

_HOLDS = Holds(unit=True, names=True, copies=True, assemblies=True, colours=True, solids=True)


def write_step(part: Part, path: Path) -> list[str]:
    """Keeps names, copies, assemblies, colours and exact surfaces; meshes are left out, and said. Raises WriteError for a part
    of meshes alone."""
    from OCP.IFSelect import IFSelect_RetDone
    from OCP.Interface import Interface_Static
    from OCP.STEPCAFControl import STEPCAFControl_Writer
    from OCP.STEPControl import STEPControl_AsIs

    solids = [body for body in part.bodies if body.exact is not None]
    if not solids:
        raise WriteError(f"{part.name} holds triangles only, and STEP is written of solids; use STL, 3MF or another mesh format.")
    quiet()
    document = _Document()
    for body in solids:
        document.add(body)
    writer = STEPCAFControl_Writer()
    writer.SetNameMode(True)
    writer.SetColorMode(True)
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    if not writer.Transfer(document.finished(), STEPControl_AsIs) or writer.Write(str(path)) != IFSelect_RetDone:
        raise WriteError(f"{part.name} could not be written as STEP: the kernel refuses it; repair it where it was drawn.")
    said = lost(part, "STEP", _HOLDS)
    if len(solids) < len(part.bodies):
        count = len(part.bodies) - len(solids)
        said.append(f"{count} {'body is a mesh' if count == 1 else 'bodies are meshes'}, which STEP is not written of; left out.")
    return said


def quiet() -> None:
    """Keeps the kernel's reports off the standard output, which is for what was asked."""
    from OCP.Message import Message, Message_Gravity

    for printer in Message.DefaultMessenger_s().Printers():
        printer.SetTraceLevel(Message_Gravity.Message_Fail)


class _Document:
    """A tree of names, filled body by body."""

    def __init__(self) -> None:
        from OCP.TCollection import TCollection_ExtendedString
        from OCP.TDocStd import TDocStd_Document
        from OCP.XCAFDoc import XCAFDoc_DocumentTool

        self._document = TDocStd_Document(TCollection_ExtendedString("MDTV-XCAF"))
        self._shapes = XCAFDoc_DocumentTool.ShapeTool_s(self._document.Main())
        self._colours = XCAFDoc_DocumentTool.ColorTool_s(self._document.Main())
        self._assemblies: dict[tuple[str, ...], Any] = {}

    def add(self, body: Body) -> None:
        label = None
        for number, place in enumerate(body.placements):
            if place.mirrors:
                # A place in STEP turns and moves only, so a mirrored copy is a shape of its own.
                mirrored = self._product(body, place)
                self._put(mirrored, Transform.identity(), body.trail(number))
                continue
            label = label if label is not None else self._product(body, None)
            self._put(label, place, body.trail(number))

    def _product(self, body: Body, place: Transform | None) -> Any:
        from OCP.Quantity import Quantity_Color, Quantity_TypeOfColor
        from OCP.XCAFDoc import XCAFDoc_ColorType

        from gullyrise.core.solids.harvest import shape_of
        from gullyrise.core.solids.meshing import mirrored

        shape = shape_of(body.exact or b"")
        label = self._shapes.AddShape(shape if place is None else mirrored(shape, place), False)
        _name(label, body.name)
        if body.colour is not None:
            colour = Quantity_Color(*body.colour, Quantity_TypeOfColor.Quantity_TOC_sRGB)
            self._colours.SetColor(label, colour, XCAFDoc_ColorType.XCAFDoc_ColorSurf)
        return label

    def _put(self, label: Any, place: Transform, trail: tuple[str, ...]) -> None:
        from gullyrise.core.solids.meshing import location_of

        self._shapes.AddComponent(self._assembly(trail), label, location_of(place))

    def _assembly(self, trail: tuple[str, ...]) -> Any:
        from OCP.TopLoc import TopLoc_Location

        found = self._assemblies.get(trail)
        if found is None:
            found = self._assemblies[trail] = self._shapes.NewShape()
            _name(found, trail[-1] if trail else "placed parts")
            if trail and (len(trail) > 1 or () in self._assemblies):
                self._shapes.AddComponent(self._assembly(trail[:-1]), found, TopLoc_Location())
        return found

    def finished(self) -> Any:
        self._shapes.UpdateAssemblies()
        return self._document


def _name(label: Any, words: str) -> None:
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDataStd import TDataStd_Name

    TDataStd_Name.Set_s(label, TCollection_ExtendedString(words, True))
