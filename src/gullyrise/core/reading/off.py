"""OFF."""

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

FORMAT = "off"
ENDINGS = (".off",)


def sniff(head: bytes) -> bool:
    return re.match(rb"\s*(ST)?C?N?OFF\b", head) is not None


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """One body; polygons are split into triangles (trimesh reads the text)."""
    from trimesh.exchange.off import load_off

    text = path.read_text("utf-8", errors="replace")
    bare = re.sub(r"#.*", "", text).strip()
    lines = [line for line in bare.splitlines() if line.strip()]
    numbers = re.match(r"\s*\w*OFF\s+(\d+)\s+(\d+)", bare)
    if numbers is None:
        raise Damaged(path.name, "OFF", "its first words are not OFF and two counts")
    vertices, faces = int(numbers[1]), int(numbers[2])
    if not vertices or not faces:
        raise NothingInside(path.name)
    if len(lines) < vertices + faces + 1:
        raise Truncated(path.name, f"{vertices:,} vertices and {faces:,} faces", f"{len(lines):,} lines")
    found = load_off(io.StringIO(text))
    return single(path, FORMAT, np.asarray(found["vertices"], dtype=np.float64), np.asarray(found["faces"]), options)
