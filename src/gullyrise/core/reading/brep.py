"""BREP text files: each solid a body; the format declares no unit."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

from gullyrise.core.errors import Damaged, TooLarge, Truncated
from gullyrise.core.part import Part, Siblings
from gullyrise.core.progress import Progress
from gullyrise.core.reading.numbers import portions
from gullyrise.core.reading.options import MOST_BODIES, MOST_DEPTH, ReadOptions

FORMAT = "brep"
ENDINGS = (".brep", ".brp")
WANTS = ("gullyrise.core.reading.assemblies", "OCP.BRepTools")

_LAST = re.compile(rb"\n\s*[+-]\d+\s+\d+\s*(?:0\s*|\*\s*)*\Z")
_SHAPE = re.compile(rb"^(?:Ve|Ed|Wi|Fa|Sh|So|CS|Co)[ \t]*$", re.MULTILINE)
_SECTION = re.compile(
    rb"^(Locations|Curve2ds|Curves|Polygon3D|PolygonOnTriangulations|Surfaces|Triangulations|TShapes) +(\d{1,18})", re.MULTILINE
)


def sniff(head: bytes) -> bool:
    """Whether a file's first bytes may be BREP."""
    return b"CASCADE Topology" in head[:200] or head.lstrip()[:17] == b"DBRep_DrawableSha"


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Solids that are the same but for their place become copies of one body."""
    from OCP.BRep import BRep_Builder
    from OCP.BRepTools import BRepTools
    from OCP.TopoDS import TopoDS_Shape

    from gullyrise.core.geometry import Transform
    from gullyrise.core.reading.assemblies import Leaf, part_from_leaves

    shape = TopoDS_Shape()
    progress("reading text", 0, 0)
    _check_text(path)
    if not BRepTools.Read_s(shape, str(path), BRep_Builder()) or shape.IsNull():
        raise Damaged(path.name, "BREP", "its text breaks the rules of the format")
    leaves: dict[int, Leaf] = {}
    _gather(path, shape, (), Siblings(), leaves)
    found = list(leaves.values()) or [Leaf(shape, path.stem, None, [Transform.identity()], [()])]
    return part_from_leaves(path, FORMAT, found, options, None, progress)


def _check_text(path: Path) -> None:
    """The kernel's reader goes round without end where the text breaks off, or announces more than there is."""
    size = path.stat().st_size
    with path.open("rb") as stream:
        stream.seek(max(size - 256, 0))
        # The text ends with the outermost shape: its way round, its number, its place. Some writers break the line before the
        # place, and some add the mark of an empty shape.
        if _LAST.search(stream.read()) is None:
            raise Truncated(path.name, "a line that names its outermost shape", "none at its end")
        stream.seek(0)
        announced, present = 0, 0
        for piece in portions(stream):
            for name, count in _SECTION.findall(piece):
                if int(count) > size:
                    raise Truncated(path.name, f"{int(count):,} {name.decode().lower()}", f"{size:,} bytes")
                announced = int(count) if name == b"TShapes" else announced
            present += len(_SHAPE.findall(piece))
    if announced != present:
        raise Truncated(path.name, f"{announced:,} shapes", f"{present:,}")


def _gather(path: Path, shape: Any, trail: tuple[str, ...], siblings: Siblings, leaves: dict[int, Any]) -> None:
    """The solids below a shape; compounds within compounds are assemblies, which have no names here."""
    from OCP.TopAbs import TopAbs_COMPOUND, TopAbs_SOLID
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS_Iterator

    from gullyrise.core.reading.assemblies import Leaf
    from gullyrise.core.solids.meshing import sub_shapes, transform_of

    if len(trail) > MOST_DEPTH:
        raise Damaged(path.name, "BREP", "its compounds are nested without end")
    if shape.ShapeType() != TopAbs_COMPOUND:
        for solid in sub_shapes(shape, TopAbs_SOLID):
            bare = solid.Located(TopLoc_Location())
            leaf = leaves.setdefault(hash(bare), Leaf(bare, path.stem))
            leaf.places.append(transform_of(solid.Location()))
            leaf.trails.append(trail)
        if sum(len(leaf.places) for leaf in leaves.values()) > MOST_BODIES:
            raise TooLarge(path.name, "more placed bodies", f"{MOST_BODIES:,}")
        return
    inside = TopoDS_Iterator(shape)
    while inside.More():
        child = inside.Value()
        # One shape in a compound of its own, as cuts and unions leave it, is no assembly.
        deeper = child.ShapeType() == TopAbs_COMPOUND and child.NbChildren() > 1
        _gather(path, child, siblings.below(trail, "group") if deeper else trail, siblings, leaves)
        inside.Next()
