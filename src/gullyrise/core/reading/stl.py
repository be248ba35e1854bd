"""STL, binary and ascii."""

from __future__ import annotations

import codecs
import re
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from gullyrise.core.errors import Damaged, NothingInside, Truncated
from gullyrise.core.geometry import Transform
from gullyrise.core.geometry.joining import joined_soup
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.numbers import first_columns
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import bounded, part_of

FORMAT = "stl"
ENDINGS = (".stl",)

_VERTEX = re.compile(rb"^[ \t]*vertex[ \t]+([^\r\n]+)", re.MULTILINE | re.IGNORECASE)
_LOOP = re.compile(rb"^[ \t]*outer[ \t]+loop\b", re.MULTILINE | re.IGNORECASE)
_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def sniff(head: bytes) -> bool:
    """Ascii by its first words; a binary STL has no mark of its own and is known by its ending."""
    return _is_text(head)


def _is_text(head: bytes) -> bool:
    """Whether the first bytes are those of an ascii STL; binary ones too may begin with the word."""
    words = head.removeprefix(codecs.BOM_UTF8).lstrip().lower()
    return words[:5] == b"solid" and (b"facet" in words or b"endsolid" in words)


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """One body with its shells. Binary where the size in the header fits the file, whatever the first word says."""
    size = path.stat().st_size
    with path.open("rb") as stream:
        head = stream.read(4096)
    announced = int.from_bytes(head[80:84], "little") if len(head) >= 84 else 0
    if _is_text(head) and size != 84 + announced * _RECORD.itemsize:
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


def _ascii_corners(path: Path, progress: Progress) -> NDArray[np.float64]:
    """(3m, 3) corner points of an ascii STL: all its solids, in order. Raises Truncated, NothingInside, Damaged."""
    text = path.read_bytes()
    if b"endsolid" not in text[-4096:].lower():
        raise Truncated(path.name, "an 'endsolid' line", "none at its end")
    progress("reading text", 0, 0)
    rows = _VERTEX.findall(text)
    if not rows:
        raise NothingInside(path.name)
    # Counting bytes is quick, and nearly every program writes the words alike.
    loops = text.count(b"outer loop")
    if 3 * loops != len(rows) and 3 * len(_LOOP.findall(text)) != len(rows):
        raise Damaged(path.name, "STL", "a facet has more or fewer than three corners")
    try:
        return first_columns(rows, 3)
    except ValueError:
        raise Damaged(path.name, "STL", "a vertex has fewer than three coordinates, or words that are none") from None
