"""STL, binary and ascii."""

from __future__ import annotations

import codecs
import re
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gullyrise.core.errors import Damaged, NothingInside, Truncated
from gullyrise.core.geometry import Mesh, Transform
from gullyrise.core.geometry.joining import joined, joined_soup
from gullyrise.core.geometry.mesh import merged
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.numbers import first_columns, numbers_in, portions
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import Piece, bounded, part_of

FORMAT = "stl"
ENDINGS = (".stl",)

_VERTEX = re.compile(rb"^[ \t]*vertex[ \t]+([^\r\n]+)", re.MULTILINE | re.IGNORECASE)
_LOOP = re.compile(rb"^[ \t]*outer[ \t]+loop\b", re.MULTILINE | re.IGNORECASE)
_FACET = re.compile(
    rb"facet normal(\s+)\S+\s\S+\s\S+(\s+outer loop\s+vertex\s+)\S+\s\S+\s\S+(\s+vertex\s+)\S+\s\S+\s\S+\s+vertex\s+\S+\s\S+\s\S+"
    rb"(\s+endloop\s+endfacet\s+)facet normal"
)
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
        mesh = _ascii_mesh(path, progress)
    else:
        corners = _binary_corners(path, size, announced)
        if not len(corners):
            raise NothingInside(path.name)
        bounded(path.name, len(corners) // 3)
        progress("joining vertices", 0, 0)
        mesh = _joined(path, corners)
    return part_of(path, FORMAT, [Piece(path.stem, mesh, Transform.identity())], options, None)


def _binary_corners(path: Path, size: int, announced: int) -> np.ndarray:
    """(3m, 3) float32 corner points. Raises Truncated where the file cannot hold what it announces."""
    if size < 84:
        raise Truncated(path.name, "a header of 84 bytes", f"{size} bytes")
    present = (size - 84) // _RECORD.itemsize
    if announced > present:
        raise Truncated(path.name, f"{announced:,} triangles", f"{present:,}")
    records = np.fromfile(path, dtype=_RECORD, count=announced, offset=84)
    return np.ascontiguousarray(records["corners"]).reshape(-1, 3)


def _ascii_mesh(path: Path, progress: Progress) -> Mesh:
    """The joined corners of an ascii STL: all its solids, in order. Raises Truncated, NothingInside, Damaged."""
    size = path.stat().st_size
    with path.open("rb") as stream:
        stream.seek(max(size - 4096, 0))
        if b"endsolid" not in stream.read().lower():
            raise Truncated(path.name, "an 'endsolid' line", "none at its end")
        stream.seek(0)
        pieces: list[Mesh] = []
        spare, loops, done = np.zeros((0, 3)), 0, 0
        for text in portions(stream):
            done += len(text)
            progress("reading text", done, size)
            # Counting bytes is quick, and nearly every program writes the words alike.
            loops += text.count(b"outer loop") or len(_LOOP.findall(text))
            try:
                fresh = _corners_in(text)
            except ValueError:
                raise Damaged(path.name, "STL", "a vertex has fewer than three coordinates, or words that are none") from None
            spare = np.concatenate([spare, fresh])
            whole = len(spare) // 3 * 3
            # Joined piece by piece, which holds far less memory than all corners at once.
            pieces.append(_joined(path, spare[:whole]))
            spare = spare[whole:]
            bounded(path.name, sum(len(piece.faces) for piece in pieces))
    faces = sum(len(piece.faces) for piece in pieces)
    if not faces and not loops:
        raise NothingInside(path.name)
    if loops != faces or len(spare):
        raise Damaged(path.name, "STL", "a facet has more or fewer than three corners")
    progress("joining vertices", 0, 0)
    every = merged(pieces)
    del pieces
    return joined(every.vertices, every.faces)


def _corners_in(text: bytes) -> NDArray[np.float64]:
    """(n, 3) the vertices that a piece of whole lines names. Raises ValueError for a line that holds too few numbers."""
    start, end = text.find(b"facet normal"), text.rfind(b"endfacet") + 8
    first = _FACET.match(text, start, end) if 0 <= start < end else None
    if first is not None:
        # Nearly every program parts all its facets alike, so what stands between the numbers of the first is taken out of all.
        lead, loop, corner, tail = first.groups()
        bare = text[start + 12 + len(lead) : end].replace(tail + b"facet normal" + lead, b",")
        bare = bare.removesuffix(tail.rstrip()).replace(loop, b",").replace(corner, b",")
        try:
            numbers = numbers_in(bare)
        except ValueError:
            numbers = np.zeros(0)
        if len(numbers) and len(numbers) == 12 * text.count(b"endfacet", start, end):
            inner = numbers.reshape(-1, 4, 3)[:, 1:].reshape(-1, 3)
            return np.concatenate([_by_lines(text[:start]), inner, _by_lines(text[end:])])
    return _by_lines(text)


def _by_lines(text: bytes) -> NDArray[np.float64]:
    rows = _VERTEX.findall(text)
    return first_columns(b"\n".join(rows) + b"\n", 3) if rows else np.zeros((0, 3))


def _joined(path: Path, corners: NDArray[Any]) -> Mesh:
    # A number that is none makes the least of all of them none, too, and needs no array of answers.
    if len(corners) and not (np.isfinite(corners.min()) and np.isfinite(corners.max())):
        raise Damaged(path.name, "STL", "a vertex has a coordinate that is not a number")
    return joined_soup(corners)
