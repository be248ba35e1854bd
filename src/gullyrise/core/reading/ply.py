"""PLY, binary and ascii."""

from __future__ import annotations

import io
import re
from pathlib import Path

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside, Truncated
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import single

FORMAT = "ply"
ENDINGS = (".ply",)


def sniff(head: bytes) -> bool:
    return head[:4] in (b"ply\n", b"ply\r")


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """One body; the counts in the header are held against the size of the file before anything is made of them."""
    from trimesh.exchange.ply import load_ply

    data = path.read_bytes()
    end = data.find(b"end_header")
    if not sniff(data) or end < 0:
        raise Damaged(path.name, "PLY", "its header has no end")
    header = data[:end].decode("ascii", errors="replace")
    counts = {name: int(number) for name, number in re.findall(r"element\s+(\w+)\s+(\d+)", header)}
    if not counts.get("vertex") or not counts.get("face"):
        raise NothingInside(path.name, "points without faces" if counts.get("vertex") else "no triangles and no solids")
    body = len(data) - end
    # The shortest vertex is three bytes, the shortest face a count and three indices.
    for element, least in (("vertex", 3), ("face", 4)):
        if counts[element] * least > body:
            raise Truncated(path.name, f"{counts[element]:,} of '{element}'", f"{body:,} bytes for them")
    if "format ascii" in header:
        lines = data[end:].count(b"\n") + (not data.endswith(b"\n")) - 1
        if lines < counts["vertex"] + counts["face"]:
            raise Truncated(path.name, f"{counts['vertex'] + counts['face']:,} lines", f"{lines:,}")
    progress("reading", 0, 0)
    found = load_ply(io.BytesIO(data), fix_texture=False, skip_materials=True)
    faces = np.asarray(found.get("faces", np.zeros((0, 3))))
    if faces.ndim != 2 or faces.shape[1] != 3 or len(found["vertices"]) != counts["vertex"] or not len(faces):
        raise Damaged(path.name, "PLY", "its faces or vertices do not come out as the header announces")
    return single(path, FORMAT, np.asarray(found["vertices"]), faces, options)
