"""OBJ; its objects and groups are bodies. Materials and other files that it names are never opened."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside
from gullyrise.core.geometry import Ints, Transform
from gullyrise.core.geometry.polygons import split_all
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.numbers import first_columns, numbers_in
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import Piece, part_of, sound_mesh

FORMAT = "obj"
ENDINGS = (".obj",)


def sniff(head: bytes) -> bool:
    lines = [line.split() for line in head.splitlines()[:200]]
    return any(words[:1] == [b"v"] and len(words) >= 4 for words in lines) and b"\0" not in head


@dataclass(slots=True)
class _Lines:
    """The lines that carry geometry. known : vertices seen before each face;  body : number in `names` of each face."""

    vertices: list[bytes] = field(default_factory=list)
    faces: list[bytes] = field(default_factory=list)
    known: list[int] = field(default_factory=list)
    body: list[int] = field(default_factory=list)
    names: dict[tuple[str, str], int] = field(default_factory=dict)


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Bodies by object and group, in the order in which they first appear; polygons are split into triangles.

    The libraries at hand fold concave polygons over and take no continued lines, so the lines are taken apart here.
    """
    text = path.read_bytes()
    if b"\0" in text[:4096]:
        raise Damaged(path.name, "OBJ", "it holds bytes that are no text")
    progress("reading text", 0, 0)
    lines = _sorted_out(re.sub(rb"\\\r?\n", b" ", text))
    if not lines.faces:
        raise NothingInside(path.name, "no faces")
    try:
        points = first_columns(lines.vertices, 3)
    except ValueError:
        raise Damaged(path.name, "OBJ", "a vertex has fewer than three coordinates, or words that are none") from None
    sides, corners = _corners(path, lines)
    if len(corners) == 0 or corners.min() < 0 or corners.max() >= len(points):
        raise Damaged(path.name, "OBJ", "a face names a vertex that is not there")
    progress("splitting polygons", 0, 0)
    triangles, owner = split_all(points, sides, corners)
    body = np.array(lines.body, dtype=np.int64)[owner]
    pieces: list[Piece] = []
    for (parent, group), number in lines.names.items():
        # Only the vertices that a body names, so that many bodies do not carry one another's.
        used, faces = np.unique(triangles[body == number], return_inverse=True)
        if len(used):
            mesh = sound_mesh(path.name, "OBJ", points[used], faces.reshape(-1, 3))
            pieces.append((group or parent or path.stem, mesh, Transform.identity()))
    return part_of(path, FORMAT, pieces, options, None)


def _sorted_out(text: bytes) -> _Lines:
    out = _Lines()
    parent, group = "", ""
    current = -1
    for raw in text.splitlines():
        line = raw.lstrip() if raw[:1] in (b" ", b"\t") else raw
        word = line[:2]
        if word in (b"v ", b"v\t"):
            out.vertices.append(line[2:])
        elif word in (b"f ", b"f\t"):
            if current < 0:
                current = out.names.setdefault((parent, group), len(out.names))
            out.faces.append(line[2:])
            out.known.append(len(out.vertices))
            out.body.append(current)
        elif word in (b"o ", b"o\t", b"g ", b"g\t") or line in (b"g", b"o"):
            name = " ".join(line[2:].decode("utf-8", errors="replace").split())
            parent, group = (name, "") if word[:1] == b"o" else (parent, name)
            current = -1
    return out


def _corners(path: Path, lines: _Lines) -> tuple[Ints, Ints]:
    """(corners of each face, their vertex indices one face after another). Texture and normal indices are passed over."""
    bare = re.sub(rb"/[^\s]*", b"", b"\n".join(lines.faces))
    sides = np.array([len(line.split()) for line in bare.split(b"\n")], dtype=np.int64)
    if (sides < 3).any():
        raise Damaged(path.name, "OBJ", f"face {int(np.argmin(sides)) + 1} has fewer than three corners")
    try:
        corners = numbers_in(bare, np.int64)
    except ValueError:
        raise Damaged(path.name, "OBJ", "a face has a corner that is no number") from None
    if len(corners) != sides.sum():
        raise Damaged(path.name, "OBJ", "a face has a corner that is no number")
    # Negative indices count back from the newest vertex.
    known = np.repeat(np.array(lines.known, dtype=np.int64), sides)
    return sides, np.where(corners < 0, known + corners, corners - 1)
