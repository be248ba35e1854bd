"""IGES: loose faces are sewn, and what stays open is said."""

from __future__ import annotations

import re
from pathlib import Path

from gullyrise.core.errors import Damaged, Truncated
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.options import ReadOptions

FORMAT = "iges"
ENDINGS = (".iges", ".igs")
WANTS = ("gullyrise.core.reading.assemblies", "OCP.IGESCAFControl")

# IGES 5.3, section 2.2.4.3.14: unit flags.
_UNITS = {1: "inch", 2: "mm", 4: "foot", 6: "m", 9: "micron", 10: "cm"}


def sniff(head: bytes) -> bool:
    """A start section line: an S in column 73 and the number 1."""
    return len(head) > 80 and head[72:73] == b"S" and head[73:80].strip() == b"1"


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Solids as they stand in the tree; all loose faces sewn into as few bodies as they close to."""
    from OCP.BRep import BRep_Builder
    from OCP.IFSelect import IFSelect_RetDone
    from OCP.IGESCAFControl import IGESCAFControl_Reader
    from OCP.IGESData import IGESData_IGESModel
    from OCP.TopAbs import TopAbs_SOLID
    from OCP.TopoDS import TopoDS_Compound

    from gullyrise.core.geometry import Transform
    from gullyrise.core.reading.assemblies import Leaf, leaves_of, new_document, part_from_leaves
    from gullyrise.core.solids.meshing import located, sub_shapes

    with path.open("rb") as stream:
        stream.seek(max(path.stat().st_size - 400, 0))
        last = stream.read().rstrip(b"\r\n \0\x1a").rpartition(b"\n")[2]
    # The last record is the terminate section (IGES 5.3, section 2.2.4.7).
    if b"T" not in last[72:73] and not re.search(rb"T\s*1$", last):
        raise Truncated(path.name, "a closing section", "none at its end")
    reader = IGESCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    progress("reading text", 0, 0)
    if reader.ReadFile(str(path)) != IFSelect_RetDone:
        raise Damaged(path.name, "IGES", "its text breaks the rules of the format")
    model = reader.Model()
    flag = model.GlobalSection().UnitFlag() if isinstance(model, IGESData_IGESModel) else 2
    progress("building faces", 0, 0)
    document = new_document()
    if not reader.Transfer(document):
        raise Damaged(path.name, "IGES", "none of its entities can be built")
    loose, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(loose)
    solids: list[Leaf] = []
    colour, name, count = None, "", 0
    for leaf in leaves_of(path, document):
        if sub_shapes(leaf.shape, TopAbs_SOLID):
            solids.append(leaf)
            continue
        for place in leaf.places:
            builder.Add(loose, located(leaf.shape, place))
        count += 1
        colour, name = colour or leaf.colour, leaf.name
    if count:
        solids.append(Leaf(loose, name if count == 1 else "", colour, [Transform.identity()], [()]))
    if not solids:
        raise Damaged(path.name, "IGES", "none of its entities can be built")
    return part_from_leaves(path, FORMAT, solids, options, _UNITS.get(flag, "mm"), progress)
