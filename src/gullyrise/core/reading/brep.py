"""BREP text files: each solid a body; the format declares no unit."""

from __future__ import annotations

from pathlib import Path

from gullyrise.core.errors import Damaged
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.options import ReadOptions

FORMAT = "brep"
ENDINGS = (".brep", ".brp")


def sniff(head: bytes) -> bool:
    return b"CASCADE Topology" in head[:200] or head.lstrip()[:17] == b"DBRep_DrawableSha"


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Solids that are the same but for their place become copies of one body."""
    from OCP.BRep import BRep_Builder
    from OCP.BRepTools import BRepTools
    from OCP.TopAbs import TopAbs_SOLID
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS_Shape

    from gullyrise.core.geometry import Transform
    from gullyrise.core.reading.assemblies import part_from_leaves
    from gullyrise.core.solids.harvest import sub_shapes, transform_of

    shape = TopoDS_Shape()
    progress("reading text", 0, 0)
    if not BRepTools.Read_s(shape, str(path), BRep_Builder()) or shape.IsNull():
        raise Damaged(path.name, "BREP", "its text breaks the rules of the format")
    solids = sub_shapes(shape, TopAbs_SOLID)
    leaves: list[tuple[TopoDS_Shape, str, list[Transform]]] = []
    for solid in solids:
        place = transform_of(solid.Location())
        known = next((leaf for leaf in leaves if leaf[0].IsPartner(solid)), None)
        if known is not None:
            known[2].append(place)
        else:
            leaves.append((solid.Located(TopLoc_Location()), path.stem, [place]))
    if not leaves:
        leaves = [(shape, path.stem, [Transform.identity()])]
    return part_from_leaves(path, FORMAT, leaves, options, None, progress)
