"""OBJ; its objects and groups are bodies. Materials and other files that it names are never opened."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside
from gullyrise.core.geometry import Ints, Points, Transform
from gullyrise.core.geometry.polygons import split_all
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.numbers import first_columns, numbers_in, portions, words_per_line
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import Piece, bounded, part_of, sound_mesh

FORMAT = "obj"
ENDINGS = (".obj",)

_MOST_HELD = 64 << 20


def sniff(head: bytes) -> bool:
    """Whether a file's first bytes may be OBJ."""
    lines = [line.split() for line in head.splitlines()[:200]]
    return any(words[:1] == [b"v"] and len(words) >= 4 for words in lines) and b"\0" not in head


_RUNS = re.compile(rb"(?:v [^\n]*\n)+|(?:f [^\n]*\n)+|(?:v[tnp][^\n]*\n)+|[^\n]*\n")
_INDENT = re.compile(rb"^ +", re.MULTILINE)
_NO_RUNS = np.zeros((0, 3), dtype=np.int64)
_COMMENT = re.compile(rb"#[^\n]*")
_BESIDE = re.compile(rb"/[^\s]*")


@dataclass(slots=True, eq=False)
class _Found:
    """What the lines have given so far.

    names : number of each body by its object and group
    body : of each face
    corners : index of each corner, one face after another, negative ones settled
    """

    points: list[Points] = field(default_factory=list)
    sides: list[Ints] = field(default_factory=list)
    corners: list[Ints] = field(default_factory=list)
    body: list[Ints] = field(default_factory=list)
    names: dict[tuple[str, str], int] = field(default_factory=dict)
    known: int = 0
    faces: int = 0
    current: int = -1
    parent: str = ""
    group: str = ""


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Bodies by object and group, in the order in which they first appear; polygons are split into triangles.

    The libraries at hand fold concave polygons over and take no continued lines, so the lines are taken apart here.
    """
    size, done, held = path.stat().st_size, 0, b""
    found = _Found()
    with path.open("rb") as stream:
        if b"\0" in stream.peek(4096)[:4096]:
            raise Damaged(path.name, "OBJ", "it holds bytes that are no text")
        for piece in portions(stream):
            done += len(piece)
            progress("reading text", done, size)
            held += piece
            if held.endswith(b"\\\n") and len(held) < _MOST_HELD:
                continue
            _take(path, held.replace(b"\\\n", b" "), found)
            bounded(path.name, found.faces)
            held = b""
        if held:
            _take(path, held.replace(b"\\\n", b" ") + b"\n", found)
    if not found.faces:
        raise NothingInside(path.name, "no faces")
    points = np.concatenate([np.zeros((0, 3)), *found.points])
    sides, corners, body = (np.concatenate(column) for column in (found.sides, found.corners, found.body))
    names = list(found.names)
    del found
    if len(corners) == 0 or corners.min() < 0 or corners.max() >= len(points):
        raise Damaged(path.name, "OBJ", "a face names a vertex that is not there")
    progress("splitting polygons", 0, 0)
    triangles, owner = split_all(points, sides, corners)
    pieces: list[Piece] = []
    for number, (parent, group) in enumerate(names):
        chosen = triangles if len(names) == 1 else triangles[body[owner] == number]
        if len(chosen):
            # Joining drops the vertices that a body does not name, so that many bodies do not carry one another's.
            used, faces = (points, chosen) if len(names) == 1 else _only(points, chosen)
            mesh = sound_mesh(path.name, "OBJ", used, faces)
            pieces.append(Piece(group or parent or path.stem, mesh, Transform.identity()))
    return part_of(path, FORMAT, pieces, options, None)


def _only(points: Points, triangles: Ints) -> tuple[Points, Ints]:
    used, faces = np.unique(triangles, return_inverse=True)
    return points[used], np.asarray(faces.reshape(-1, 3))


def _take(path: Path, text: bytes, found: _Found) -> None:
    """Adds what a piece of whole lines says."""
    if b"\t" in text:
        text = text.replace(b"\t", b" ")
    if b"\n " in text or text[:1] == b" ":
        text = _INDENT.sub(b"", text)
    for word, take in ((b"v ", _take_vertices), (b"f ", _take_faces)):
        bare = _bare(text, word) if text.startswith(word) else text
        if len(text) - len(bare) == 2 * text.count(b"\n"):
            # All lines are of one kind, as in most pieces of a large file.
            take(path, bare, _run(bare, found) if word == b"f " else _NO_RUNS, found)
            return
    vertices: list[bytes] = []
    faces: list[bytes] = []
    runs: list[Ints] = [_NO_RUNS]
    known = found.known
    for run in _RUNS.finditer(text):
        lines = run[0]
        word = lines[:2]
        if word == b"v ":
            vertices.append(lines)
            found.known += lines.count(b"\n")
        elif word == b"f ":
            faces.append(lines)
            runs.append(_run(lines, found))
        elif word in (b"o ", b"g ", b"g\n", b"o\n"):
            name = " ".join(lines[2:].decode("utf-8", errors="replace").split())
            found.parent, found.group = (name, "") if word[:1] == b"o" else (found.parent, name)
            found.current = -1
    found.known = known
    if vertices:
        _take_vertices(path, _bare(b"".join(vertices), b"v "), _NO_RUNS, found)
    if faces:
        _take_faces(path, _bare(b"".join(faces), b"f "), np.concatenate(runs), found)


def _run(lines: bytes, found: _Found) -> Ints:
    """(1, 3) a run of faces: how many there are, how many vertices were known before it, and its body."""
    if found.current < 0:
        found.current = found.names.setdefault((found.parent, found.group), len(found.names))
    return np.array([[lines.count(b"\n"), found.known, found.current]], dtype=np.int64)


def _bare(lines: bytes, word: bytes) -> bytes:
    """Lines without the word that they begin with."""
    return lines[len(word) :].replace(b"\n" + word, b"\n")


def _take_vertices(path: Path, text: bytes, _: Ints, found: _Found) -> None:
    try:
        found.points.append(first_columns(text, 3))
    except ValueError:
        raise Damaged(path.name, "OBJ", "a vertex has fewer than three coordinates, or words that are none") from None
    found.known += len(found.points[-1])


def _take_faces(path: Path, text: bytes, runs: Ints, found: _Found) -> None:
    """Texture and normal indices are passed over; negative indices count back from the newest vertex."""
    if b"#" in text:
        text = _COMMENT.sub(b"", text)
    if b"/" in text:
        text = _BESIDE.sub(b"", text)
    sides = words_per_line(text)
    if (sides < 3).any():
        number = found.faces + int(np.argmax(sides < 3)) + 1
        raise Damaged(path.name, "OBJ", f"face {number} has fewer than three corners")
    try:
        corners = numbers_in(text, np.int64)
    except ValueError:
        raise Damaged(path.name, "OBJ", "a face has a corner that is no number") from None
    count, known, body = runs.T
    if (corners < 0).any():
        corners = np.where(corners < 0, np.repeat(np.repeat(known, count), sides) + corners, corners - 1)
    else:
        corners -= 1
    found.sides.append(sides)
    found.corners.append(corners)
    found.body.append(np.repeat(body, count))
    found.faces += len(sides)
