"""PLY, binary and ascii; the only import of plyfile."""

from __future__ import annotations

import re
from io import BufferedReader
from pathlib import Path
from typing import Any

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside, Truncated
from gullyrise.core.geometry import Ints, Points
from gullyrise.core.geometry.polygons import split_all
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.numbers import Lines, counted_lists, first_columns, portions
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import single

FORMAT = "ply"
ENDINGS = (".ply",)

_MOST_HEADER = 1 << 20
_KINDS = {
    "char": "i1", "uchar": "u1", "short": "i2", "ushort": "u2", "int": "i4", "uint": "u4", "float": "f4", "double": "f8",
    "int8": "i1", "uint8": "u1", "int16": "i2", "uint16": "u2", "int32": "i4", "uint32": "u4", "float32": "f4", "float64": "f8",
}  # fmt: skip


def sniff(head: bytes) -> bool:
    """Whether a file's first bytes may be PLY."""
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
    plain = _plain(path, header, start, counts)
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


def _plain(path: Path, header: str, start: int, counts: dict[str, int]) -> tuple[Points, Ints, Ints] | None:
    """(vertices, corners of each face, their indices) where the file holds vertices of plain numbers, then faces that are one
    list of indices, and nothing else, the common case; read at one go. None for any other layout."""
    elements = re.findall(r"element\s+(\w+)", header)
    found = [line.split() for line in re.findall(r"property\s+([^\n]+)", header)]
    if elements != ["vertex", "face"] or [words[0] for words in found].count("list") != 1 or found[-1][0] != "list":
        return None
    columns, index = found[:-1], found[-1]
    named = [words[-1] for words in columns]
    kinds = [_KINDS.get(words[0]) for words in [*columns, index[1:2], index[2:3]]]
    if len(index) != 4 or None in kinds or len(set(named)) != len(named) or not {"x", "y", "z"} <= set(named):
        return None
    with path.open("rb") as stream:
        stream.seek(start)
        if "format ascii" in header:
            return _text(stream, counts, [named.index(axis) for axis in "xyz"], len(named))
        order = "<" if "format binary_little_endian" in header else ">"
        rows = np.dtype([(name, f"{order}{kind}") for name, kind in zip(named, kinds[:-2], strict=True)])
        lists = np.dtype([("count", f"{order}{kinds[-2]}"), ("corners", f"{order}{kinds[-1]}", 3)])
        if path.stat().st_size - start < counts["vertex"] * rows.itemsize + counts["face"] * lists.itemsize:
            return None
        table = np.fromfile(stream, dtype=rows, count=counts["vertex"])
        faces = np.fromfile(stream, dtype=lists, count=counts["face"])
    if (faces["count"] != 3).any():
        return None
    exact = np.float32 if all(kinds[named.index(axis)] == "f4" for axis in "xyz") else np.float64
    points = np.empty((len(table), 3), dtype=exact)
    for column, axis in enumerate("xyz"):
        points[:, column] = table[axis]
    return points, np.full(len(faces), 3, dtype=np.int64), faces["corners"].reshape(-1)


def _text(stream: BufferedReader, counts: dict[str, int], axes: list[int], columns: int) -> tuple[Points, Ints, Ints] | None:
    lines = Lines(portions(stream), comment=b"comment ")
    try:
        tables = [first_columns(piece, columns)[:, axes] for piece in lines.take(counts["vertex"])]
        lists = [counted_lists(piece) for piece in lines.take(counts["face"])]
    except ValueError:
        return None
    if sum(map(len, tables)) < counts["vertex"] or sum(len(sides) for sides, _ in lists) < counts["face"]:
        return None
    return np.concatenate(tables), *(np.concatenate(column) for column in zip(*lists, strict=True))  # type: ignore[return-value]


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
