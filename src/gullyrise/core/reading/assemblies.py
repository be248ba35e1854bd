"""Walking the tree of an exact-solid document: names, placements, counts."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from OCP.collections import Sequence_TDF_Label
from OCP.TCollection import TCollection_AsciiString, TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label, TDF_Tool
from OCP.TDocStd import TDocStd_Document
from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from gullyrise.core.errors import Damaged, NothingInside, TooLarge
from gullyrise.core.geometry import Box, Transform
from gullyrise.core.intake.units import factor_of
from gullyrise.core.part import Body, Part, renamed
from gullyrise.core.progress import Progress
from gullyrise.core.reading.options import MOST_BODIES, MOST_DEPTH, ReadOptions
from gullyrise.core.reading.pieces import bounded, settled_unit
from gullyrise.core.solids.harvest import exact_boxes, harvest, transform_of


def new_document() -> TDocStd_Document:
    return TDocStd_Document(TCollection_ExtendedString("MDTV-XCAF"))


def part_from_document(
    path: Path, form: str, document: TDocStd_Document, options: ReadOptions, declared: str | None, progress: Progress
) -> Part:
    """A Part of the leaves of a document that a reader has filled in mm; equal leaves become copies of one body."""
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    roots = Sequence_TDF_Label()
    tool.GetFreeShapes(roots)
    leaves: dict[str, tuple[TDF_Label, str, list[Transform]]] = {}
    for number in range(1, roots.Length() + 1):
        _walk(path, roots.Value(number), Transform.identity(), leaves, 0)
    return part_from_leaves(path, form, list(leaves.values()), options, declared, progress)


def part_from_leaves(
    path: Path,
    form: str,
    leaves: list[tuple[Any, str, list[Transform]]],
    options: ReadOptions,
    declared: str | None,
    progress: Progress,
) -> Part:
    """A Part from (label or shape, name, placements) leaves, harvested one by one."""
    unit, source = settled_unit(options, declared)
    stretch = factor_of(unit) / factor_of(declared or "mm")
    bodies: list[Body] = []
    notes: list[str] = []
    for done, (leaf, name, places) in enumerate(leaves):
        progress("meshing solids", done, len(leaves))
        shape = XCAFDoc_ShapeTool.GetShape_s(leaf) if isinstance(leaf, TDF_Label) else leaf
        found = harvest(name or path.stem, shape, options.chord)
        notes += found.notes
        for body, solid in zip(found.bodies, found.shapes, strict=True):
            bodies.append(_stretched(replace(body, exact_boxes=exact_boxes(solid, places)), places, stretch))
        bounded(path.name, sum(len(body.mesh.faces) for body in bodies))
    if not bodies:
        raise NothingInside(path.name, "no solids and no faces")
    return Part(path.stem, str(path), form, unit, source, tuple(renamed(bodies)), tuple(notes[:50]))


def _stretched(body: Body, places: list[Transform], factor: float) -> Body:
    """The body at its placements, scaled where a unit was given that the file does not say."""
    moved = []
    for place in places:
        matrix = place.matrix.copy()
        matrix[:3, 3] *= factor
        moved.append(Transform(matrix))
    mesh = body.mesh if factor == 1 else body.mesh.placed(Transform.scaled(factor))
    volume = None if body.volume is None else body.volume * factor**3
    area = None if body.area is None else body.area * factor**2
    chord = None if body.chord_error is None else body.chord_error * factor
    boxes = body.exact_boxes
    if boxes is not None:
        boxes = tuple(Box(box.low * factor, box.high * factor) for box in boxes)
    anatomy = None if body.anatomy is None else body.anatomy.scaled(factor)
    return Body(body.name, body.kind, mesh, tuple(moved), volume, area, chord, boxes, anatomy)


def _walk(
    path: Path, label: TDF_Label, place: Transform, leaves: dict[str, tuple[TDF_Label, str, list[Transform]]], depth: int
) -> None:
    if depth > MOST_DEPTH:
        raise Damaged(path.name, "an assembly", "it is nested without end")
    here = transform_of(XCAFDoc_ShapeTool.GetLocation_s(label)).then(place)
    target = label
    if XCAFDoc_ShapeTool.IsReference_s(label):
        target = TDF_Label()
        XCAFDoc_ShapeTool.GetReferredShape_s(label, target)
    if XCAFDoc_ShapeTool.IsAssembly_s(target):
        components = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetComponents_s(target, components)
        for number in range(1, components.Length() + 1):
            _walk(path, components.Value(number), here, leaves, depth + 1)
        return
    if target is label:
        # A free shape carries its location within the shape itself.
        here = place
    _, _, places = leaves.setdefault(_entry(target), (target, _name(target) or _name(label), []))
    places.append(here)
    if sum(len(entry[2]) for entry in leaves.values()) > MOST_BODIES:
        raise TooLarge(path.name, "more placed bodies", f"{MOST_BODIES:,}")


def _entry(label: TDF_Label) -> str:
    words = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, words)
    return str(words.ToCString())


def _name(label: TDF_Label) -> str:
    found = TDataStd_Name()
    return str(found.Get().ToExtString()) if label.FindAttribute(TDataStd_Name.GetID_s(), found) else ""
