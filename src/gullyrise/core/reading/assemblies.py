"""Walking the tree of an exact-solid document: names, placements, counts."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from pathlib import Path

from OCP.collections import Sequence_TDF_Label
from OCP.Quantity import Quantity_Color
from OCP.TCollection import TCollection_AsciiString, TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label, TDF_Tool
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_FACE, TopAbs_SOLID
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_ColorTool, XCAFDoc_ColorType, XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from gullyrise.core.errors import Damaged, NothingInside, TooLarge
from gullyrise.core.geometry import Transform
from gullyrise.core.intake.rescaling import rescaled
from gullyrise.core.name_words import said_name, told_once
from gullyrise.core.part import Body, Colour, Part, Siblings, renamed
from gullyrise.core.progress import Progress
from gullyrise.core.reading.options import MOST_BODIES, MOST_DEPTH, ReadOptions
from gullyrise.core.reading.pieces import bounded, settled_unit
from gullyrise.core.solids.harvest import exact_boxes, harvest
from gullyrise.core.solids.meshing import sub_shapes, transform_of

# What writers put where a person gave no name: kinds of shape, running numbers, the name of the writer itself.
_NO_NAME = re.compile(
    r"(?i)(open cascade step translator.*|=>\[.*|(solid|shell|compound|compsolid|face|nauo ?\d*|product|part|shape) ?\d*)$"
)


def new_document() -> TDocStd_Document:
    """An empty document of the kernel's."""
    return TDocStd_Document(TCollection_ExtendedString("MDTV-XCAF"))


@dataclass(slots=True)
class Leaf:
    """A shape that a file places: its name, and of each copy where it stands and which assemblies hold it."""

    shape: TopoDS_Shape
    name: str
    colour: Colour | None = None
    places: list[Transform] = field(default_factory=list)
    trails: list[tuple[str, ...]] = field(default_factory=list)


def part_from_document(
    path: Path, form: str, document: TDocStd_Document, options: ReadOptions, declared: str | None, progress: Progress
) -> Part:
    """A Part of the leaves of a document that a reader has filled in mm; equal leaves become copies of one body."""
    return part_from_leaves(path, form, leaves_of(path, document), options, declared, progress)


def leaves_of(path: Path, document: TDocStd_Document) -> list[Leaf]:
    """The leaves of a document's tree."""
    walk = _Walk(path, document)
    roots = Sequence_TDF_Label()
    XCAFDoc_DocumentTool.ShapeTool_s(document.Main()).GetFreeShapes(roots)
    for number in range(1, roots.Length() + 1):
        walk.take(roots.Value(number), Transform.identity(), ())
    return list(walk.leaves.values())


def part_from_leaves(
    path: Path, form: str, leaves: list[Leaf], options: ReadOptions, declared: str | None, progress: Progress
) -> Part:
    """A Part from leaves, harvested one by one."""
    unit, source = settled_unit(options, declared)
    bodies: list[Body] = []
    notes: list[str] = []
    for done, leaf in enumerate(leaves):
        progress("meshing solids", done, len(leaves))
        found = harvest(said_name(leaf.name, path.stem), leaf.shape, options.chord)
        notes += found.notes
        for body, solid in zip(found.bodies, found.shapes, strict=True):
            trails = tuple(leaf.trails) if any(leaf.trails) else ()
            boxes = exact_boxes(solid, leaf.places)
            bodies.append(replace(body, placements=tuple(leaf.places), exact_boxes=boxes, trails=trails, colour=leaf.colour))
        bounded(path.name, sum(len(body.mesh.faces) for body in bodies))
    if not bodies:
        raise NothingInside(path.name, "no solids and no faces")
    said = Part(path.stem, str(path), form, declared or "mm", source, tuple(renamed(bodies)), told_once(notes)[:50])
    # A unit that was given overrules what the kernel has already turned into millimetres.
    return rescaled(said, unit) if source == "given" else said


class _Walk:
    """Goes down a document's tree; a product that stands several times is one leaf."""

    def __init__(self, path: Path, document: TDocStd_Document) -> None:
        self._path = path
        self._colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
        self._siblings = Siblings()
        self._placed = 0
        self.leaves: dict[str, Leaf] = {}

    def take(self, label: TDF_Label, place: Transform, trail: tuple[str, ...]) -> None:
        if len(trail) > MOST_DEPTH:
            raise Damaged(self._path.name, "an assembly", "it is nested without end")
        here = transform_of(XCAFDoc_ShapeTool.GetLocation_s(label)).then(place)
        target = label
        if XCAFDoc_ShapeTool.IsReference_s(label):
            target = TDF_Label()
            XCAFDoc_ShapeTool.GetReferredShape_s(label, target)
        if XCAFDoc_ShapeTool.IsAssembly_s(target):
            below = self._siblings.below(trail, _name(target) or _name(label) or "assembly")
            components = Sequence_TDF_Label()
            XCAFDoc_ShapeTool.GetComponents_s(target, components)
            for number in range(1, components.Length() + 1):
                self.take(components.Value(number), here, below)
            return
        if target is label:
            # A free shape carries its location within the shape itself.
            here = place
        key = _entry(target)
        leaf = self.leaves.get(key)
        if leaf is None:
            shape = XCAFDoc_ShapeTool.GetShape_s(target)
            colour = self._colour(target, shape) or self._colour(label, shape)
            leaf = self.leaves[key] = Leaf(shape, _name(target) or _name(label), colour)
        leaf.places.append(here)
        leaf.trails.append(trail)
        self._placed += 1
        if self._placed > MOST_BODIES:
            raise TooLarge(self._path.name, "more placed bodies", f"{MOST_BODIES:,}")

    def _colour(self, label: TDF_Label, shape: TopoDS_Shape) -> Colour | None:
        """What a product, a placement of it, or else its first coloured solid or face is painted with."""
        found = Quantity_Color()
        for kind in (XCAFDoc_ColorType.XCAFDoc_ColorSurf, XCAFDoc_ColorType.XCAFDoc_ColorGen):
            if XCAFDoc_ColorTool.GetColor_s(label, kind, found):
                return _seen(found)
        for part in (TopAbs_SOLID, TopAbs_FACE):
            for sub in sub_shapes(shape, part)[:1]:
                for kind in (XCAFDoc_ColorType.XCAFDoc_ColorSurf, XCAFDoc_ColorType.XCAFDoc_ColorGen):
                    if self._colours.GetColor(sub, kind, found):
                        return _seen(found)
        return None


def _seen(colour: Quantity_Color) -> Colour:
    values = (Quantity_Color.Convert_LinearRGB_To_sRGB_s(float(value)) for value in (colour.Red(), colour.Green(), colour.Blue()))
    red, green, blue = values
    return red, green, blue


def _entry(label: TDF_Label) -> str:
    words = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, words)
    return str(words.ToCString())


def _name(label: TDF_Label) -> str:
    """The name that a person gave, empty for one that the writing program put there."""
    found = TDataStd_Name()
    name = str(found.Get().ToExtString()).strip() if label.FindAttribute(TDataStd_Name.GetID_s(), found) else ""
    return "" if _NO_NAME.match(name) else name
