"""IGES: loose faces are sewn, and what stays open is said."""

from __future__ import annotations

from pathlib import Path

from gullyrise.core.errors import Damaged
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.options import ReadOptions

FORMAT = "iges"
ENDINGS = (".iges", ".igs")

# IGES 5.3, section 2.2.4.3.14: unit flags.
_UNITS = {1: "inch", 2: "mm", 4: "foot", 6: "m", 9: "micron", 10: "cm"}


def sniff(head: bytes) -> bool:
    """A start section line: an S in column 73 and the number 1."""
    return len(head) > 80 and head[72:73] == b"S" and head[73:80].strip() == b"1"


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """All faces of the file sewn into as few bodies as they close to."""
    from OCP.IFSelect import IFSelect_RetDone
    from OCP.IGESControl import IGESControl_Reader
    from OCP.IGESData import IGESData_IGESModel

    from gullyrise.core.geometry import Transform
    from gullyrise.core.reading.assemblies import part_from_leaves

    reader = IGESControl_Reader()
    progress("reading text", 0, 0)
    if reader.ReadFile(str(path)) != IFSelect_RetDone:
        raise Damaged(path.name, "IGES", "its text breaks the rules of the format")
    model = reader.Model()
    flag = model.GlobalSection().UnitFlag() if isinstance(model, IGESData_IGESModel) else 2
    progress("building faces", 0, 0)
    reader.TransferRoots()
    if not reader.NbShapes():
        raise Damaged(path.name, "IGES", "none of its entities can be built")
    leaves = [(reader.OneShape(), path.stem, [Transform.identity()])]
    return part_from_leaves(path, FORMAT, leaves, options, _UNITS.get(flag, "mm"), progress)
