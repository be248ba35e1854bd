"""PLY, binary and ascii; the only import of plyfile."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside, Truncated
from gullyrise.core.geometry import Ints, Points
from gullyrise.core.geometry.polygons import split_all
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.numbers import numbers_in
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import single

FORMAT = "ply"
ENDINGS = (".ply",)

_MOST_HEADER = 1 << 20


def sniff(head: bytes) -> bool:
    return head[:4] in (b"ply\n", b"ply\r")


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """One body; the counts in the header are held against the size of the file before anything is made of them."""
    header, start = _header(path)
    counts = {name: int(number) for name, number in re.findall(r"element\s+(\w+)\s+(\d{1,15})\b", header)}
    if not counts.get("vertex") or not counts.get("face"):
        raise NothingInside(path.name, "points without faces" if counts.get("vertex") else "no triangles and no solids")
    body = path.stat().st_size - start
    # The shortest vertex is three bytes, the shortest face a count and three indices.
    for element, least in (("vertex", 3), ("face", 4)):
        if counts[element] * least > body:
            raise Truncated(path.name, f"{counts[element]:,} of '{element}'", f"{body:,} bytes for them")
    progress("reading", 0, 0)
    plain = _plain_ascii(path, header, start, counts) if "format ascii" in header else None
    points, sides, corners = plain if plain is not None else _any(path, binary="format ascii" not in header)
    if len(corners) == 0 or len(corners) != sides.sum() or corners.min() < 0 or corners.max() >= len(points):
        raise Damaged(path.name, "PLY", "a face names a vertex that is not there")
    triangles, _ = split_all(points, sides, corners)
    return single(path, FORMAT, points, triangles, options)


def _header(path: Path) -> tuple[str, int]:
    """(the header's words, where the data begins)."""
    with path.open("rb") as stream:
        head = stream.read(_MOST_HEADER)
    end = re.search(rb"\nend_header[ \t]*\r?\n|\rend_header[ \t]*\r", head)
    if not sniff(head) or end is None:
        raise Damaged(path.name, "PLY", "its header has no end")
    return head[: end.start()].decode("ascii", errors="replace"), end.end()


def _plain_ascii(path: Path, header: str, start: int, counts: dict[str, int]) -> tuple[Points, Ints, Ints] | None:
    """(vertices, corners of each face, their indices) where text holds vertices of plain numbers, then triangles, and nothing
    else, the common case; read at one go. None for any other layout."""
    elements = re.findall(r"element\s+(\w+)", header)
    properties = re.findall(r"property\s+(list|\w+)[^\n]*?(\w+)\s*$", header, re.MULTILINE)
    if elements != ["vertex", "face"] or [kind for kind, _ in properties].count("list") != 1 or properties[-1][0] != "list":
        return None
    columns = len(properties) - 1
    named = [name for _, name in properties[:columns]]
    with path.open("rb") as stream:
        stream.seek(start)
        try:
            numbers = numbers_in(stream.read())
        except ValueError:
            return None
    vertices, faces = counts["vertex"], counts["face"]
    if len(numbers) != vertices * columns + 4 * faces or not {"x", "y", "z"} <= set(named):
        return None
    table = numbers[: vertices * columns].reshape(-1, columns)
    rows = numbers[vertices * columns :].reshape(-1, 4)
    if (rows[:, 0] != 3).any() or not np.isfinite(rows).all():
        return None
    points = np.ascontiguousarray(table[:, [named.index(axis) for axis in "xyz"]])
    return points, np.full(faces, 3, dtype=np.int64), rows[:, 1:].astype(np.int64).reshape(-1)


def _any(path: Path, *, binary: bool) -> tuple[Points, Ints, Ints]:
    """The same of any PLY file."""
    from plyfile import PlyData, PlyHeaderParseError, PlyParseError

    for sides in (3, 4, None) if binary else (None,):
        # Faces that are known to have so many corners are mapped in one step; others are read one by one.
        known = {} if sides is None else {"face": {"vertex_indices": sides, "vertex_index": sides}}
        try:
            found: Any = PlyData.read(str(path), known_list_len=known)
        except PlyHeaderParseError as error:
            raise Damaged(path.name, "PLY", f"its header breaks the rules of the format ({error})") from error
        except PlyParseError as error:
            if sides is None:
                raise Damaged(path.name, "PLY", f"its data ends early or breaks the rules of the format ({error})") from error
            continue
        break
    vertex, face = found["vertex"], found["face"]
    points = np.column_stack([np.asarray(vertex[axis], dtype=np.float64) for axis in "xyz"])
    lists = face["vertex_indices"] if "vertex_indices" in face else face["vertex_index"]
    if sides is not None:
        flat = np.asarray(lists, dtype=np.int64)
        return points, np.full(len(flat), sides, dtype=np.int64), flat.reshape(-1)
    each = np.array([len(row) for row in lists], dtype=np.int64)
    return points, each, np.concatenate(list(lists)).astype(np.int64)
