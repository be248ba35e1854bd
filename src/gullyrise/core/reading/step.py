"""STEP (AP203, AP214, AP242) with its assembly tree, names and declared unit."""

from __future__ import annotations

from pathlib import Path

from gullyrise.core.errors import Damaged, Truncated
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.options import ReadOptions

FORMAT = "step"
ENDINGS = (".step", ".stp")
WANTS = ("gullyrise.core.reading.assemblies", "OCP.STEPCAFControl")

_UNITS = {
    "millimetre": "mm", "centimetre": "cm", "metre": "m", "micrometre": "micron", "inch": "inch", "foot": "foot",
    "millimeter": "mm", "centimeter": "cm", "meter": "m", "micrometer": "micron", "in": "inch", "mm": "mm", "ft": "foot",
}  # fmt: skip


def sniff(head: bytes) -> bool:
    """Whether a file's first bytes may be STEP."""
    return head.lstrip()[:12].upper() == b"ISO-10303-21"


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Leaves of the assembly as bodies. Raises Truncated for a file without its closing line."""
    from OCP.collections import Sequence_TCollection_AsciiString
    from OCP.IFSelect import IFSelect_RetDone
    from OCP.STEPCAFControl import STEPCAFControl_Reader

    from gullyrise.core.reading.assemblies import new_document, part_from_document

    with path.open("rb") as stream:
        stream.seek(max(path.stat().st_size - 4096, 0))
        if b"END-ISO-10303-21" not in stream.read():
            raise Truncated(path.name, "a closing END-ISO-10303-21 line", "none")
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetColorMode(True)
    progress("reading text", 0, 0)
    if reader.ReadFile(str(path)) != IFSelect_RetDone:
        raise Damaged(path.name, "STEP", "its text breaks the rules of the format")
    lengths, angles, solid_angles = (Sequence_TCollection_AsciiString() for _ in range(3))
    reader.ChangeReader().FileUnits(lengths, angles, solid_angles)
    word = str(lengths.Value(1).ToCString()).lower() if lengths.Length() else ""
    document = new_document()
    progress("building solids", 0, 0)
    if not reader.Transfer(document):
        raise Damaged(path.name, "STEP", "none of its shapes can be built")
    return part_from_document(path, FORMAT, document, options, _UNITS.get(word, "mm"), progress)
