"""OBJ; its objects and groups are bodies. Materials and other files that it names are never opened."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np

from gullyrise.core.errors import Damaged, NothingInside
from gullyrise.core.geometry import Transform
from gullyrise.core.part import Part
from gullyrise.core.progress import Progress
from gullyrise.core.reading.options import ReadOptions
from gullyrise.core.reading.pieces import Piece, part_of, sound_mesh

FORMAT = "obj"
ENDINGS = (".obj",)


def sniff(head: bytes) -> bool:
    lines = [line.split() for line in head.splitlines()[:200]]
    return any(words[:1] == [b"v"] and len(words) >= 4 for words in lines) and b"\0" not in head


def read(path: Path, options: ReadOptions, progress: Progress) -> Part:
    """Bodies by object and group; quads and polygons are split into triangles (trimesh reads the text)."""
    from trimesh.exchange.obj import load_obj

    text = path.read_bytes()
    if b"\0" in text[:4096]:
        raise Damaged(path.name, "OBJ", "it holds bytes that are no text")
    lines = text.splitlines()
    if not any(line.startswith((b"f ", b"f\t")) for line in lines):
        raise NothingInside(path.name, "no faces")
    _whole_last_line(path, lines)
    progress("reading text", 0, 0)
    found = load_obj(
        io.StringIO(text.decode("utf-8", errors="replace")),
        skip_materials=True,
        group_material=False,
        split_objects=True,
        split_groups=True,
        maintain_order=True,
    )
    # The library leaves corners that name no vertex out without a word; a count of lines cannot be fooled.
    bodies = found["geometry"] if "geometry" in found else {"": found}
    pieces: list[Piece] = []
    # The library gives the groups last first.
    for name, body in reversed(list(bodies.items())):
        mesh = sound_mesh(path.name, "OBJ", np.asarray(body["vertices"], dtype=np.float64), body["faces"])
        pieces.append((str(name) or path.stem, mesh, Transform.identity()))
    if len(pieces) == 1 and not _names_bodies(lines):
        pieces = [(path.stem, pieces[0][1], pieces[0][2])]
    return part_of(path, FORMAT, pieces, options, None)


def _names_bodies(lines: list[bytes]) -> bool:
    return any(line.startswith((b"o ", b"g ")) for line in lines)


def _whole_last_line(path: Path, lines: list[bytes]) -> None:
    """Raises Damaged for a vertex or face line with too few words: the mark of a file that was cut short."""
    for number, line in enumerate(lines, 1):
        if line[:2] in (b"v ", b"f ") and len(line.split()) < 4:
            raise Damaged(path.name, "OBJ", f"line {number} holds fewer than three values")
