"""STL, binary and ascii."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside, Truncated
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.joining import joined_soup
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import bounded, part_of

FORMAT = "stl"
ENDINGS = (".stl",)

_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def sniff(head: bytes) -> bool:
    """Ascii by its first words; a binary STL has no mark of its own and is known by its ending."""
    return head.lstrip()[:5].lower() == b"solid" and b"facet" in head.lower()


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """One body with its shells. Binary where the size in the header fits the file, whatever the first word says."""
    size = path.stat().st_size
    with path.open("rb") as stream:
        head = stream.read(512)
    announced = int.from_bytes(head[80:84], "little") if len(head) >= 84 else 0
    is_text = head.lstrip()[:5].lower() == b"solid"
    if is_text and size != 84 + announced * _RECORD.itemsize:
        corners = _ascii_corners(path, progress)
    else:
        corners = _binary_corners(path, size, announced)
    if not len(corners):
        raise NothingInside(path.name)
    if not np.isfinite(corners).all():
        raise Damaged(path.name, "STL", "a vertex has a coordinate that is not a number")
    bounded(path.name, len(corners) // 3)
    progress("joining vertices", 0, 0)
    return part_of(path, FORMAT, [(path.stem, joined_soup(corners), Transform.identity())], options, None)


def _binary_corners(path: Path, size: int, announced: int) -> np.ndarray:
    """(3m, 3) float32 corner points. Raises Truncated where the file cannot hold what it announces."""
    if size < 84:
        raise Truncated(path.name, "a header of 84 bytes", f"{size} bytes")
    present = (size - 84) // _RECORD.itemsize
    if announced > present:
        raise Truncated(path.name, f"{announced:,} triangles", f"{present:,}")
    records = np.fromfile(path, dtype=_RECORD, count=announced, offset=84)
    return np.ascontiguousarray(records["corners"]).reshape(-1, 3)


def _ascii_corners(path: Path, progress: Progress) -> np.ndarray:
    """(3m, 3) float64 corner points of an ascii STL (trimesh reads the text)."""
    from trimesh.exchange.stl import load_stl_ascii

    text = path.read_bytes()
    if b"endsolid" not in text[-4096:].lower():
        raise Truncated(path.name, "an 'endsolid' line", "none at its end")
    if b"vertex" not in text.lower():
        raise NothingInside(path.name)
    progress("reading text", 0, 0)
    found = load_stl_ascii(io.StringIO(text.decode("utf-8", errors="replace")))
    solids = [found] if "vertices" in found else list(found["geometry"].values())
    return np.concatenate([np.asarray(s["vertices"])[np.asarray(s["faces"])].reshape(-1, 3) for s in solids])
